"""Yard: what was run when, and what the bench owns."""
