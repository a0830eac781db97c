"""Where a line may end: never between a figure, its ± and its unit."""

import re

_UNITS = "%|°C|°F|°|×|Ω|dB|Hz|m?Ah?|k?Wh?|k?VA|m?V|h|min|m?s|C|m²|mm|cm|m|k?g|ft|in|lb|AWG"
_INSIDE = re.compile(
    rf"(?<=\d) (?=(?:{_UNITS})(?!\w))|(?<=[±≥≤]) (?=\d)|(?<=\d) (?=[±→])|(?<=→) (?=\d)"
)
NO_BREAK = "\u00a0"


def held_together(text: str) -> str:
    """The text with spaces that no line ends at where a figure would be torn from its unit."""
    return _INSIDE.sub(NO_BREAK, text)


def plain(text: str) -> str:
    """The text as it was before."""
    return text.replace(NO_BREAK, " ")
