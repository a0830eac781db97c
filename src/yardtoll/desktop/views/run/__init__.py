"""Run: what is happening now, in figures readable across the yard."""
