"""Watching a run while it goes: its end, its alarms, its forecast."""
