"""Verdicts: results held against a yardstick."""
