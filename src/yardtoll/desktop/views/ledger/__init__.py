"""Ledger: where the rated watt-hours went in one run."""
