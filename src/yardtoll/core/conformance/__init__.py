"""Conformance: a value against a limit, claims against findings, yardsticks, what would settle."""
