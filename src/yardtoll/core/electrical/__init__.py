"""Electrical quantities, traces, time base, energy, and what a log leaves in doubt."""
