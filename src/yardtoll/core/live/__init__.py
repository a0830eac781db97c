"""Watching a run in progress: its end, its alarms, its forecast."""
