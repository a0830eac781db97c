"""How much of a text is read as notes."""

LONGEST_TEXT = 200_000
"""Characters; longer texts were written by a program."""
