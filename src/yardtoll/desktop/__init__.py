"""The window: frame, one folder a view, widgets, dialogs, theme."""

import builtins

import PySide6.QtCore  # noqa: F401 - what it puts in place of the import is taken out again

# PySide's import reads the source of every module imported after it, to look for switches of its
# own that nothing here uses; without, a window is up a quarter of a second earlier.
builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)
