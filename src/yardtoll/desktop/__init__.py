"""The window: frame, one folder a view, widgets, dialogs, theme."""
