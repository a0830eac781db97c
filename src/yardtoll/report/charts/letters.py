"""How wide a text in the program's face is, near enough to lay a chart out by."""

_WIDTHS = {
    **dict.fromkeys(" '|`·(),.;:!Iijl{}", 0.28),
    **dict.fromkeys("*-/[]°–?frt", 0.40),
    **dict.fromkeys("MNw#&", 0.72),
    **dict.fromkeys("%@mW→…", 0.88),
}
"""Of letters in sizes of the text: the heaviest weight's, measured in the shipped face."""
_USUAL = 0.57


def text_width(text: str, size: float) -> float:
    """Width in pixels of a text in letters of a size; seldom less than it takes."""
    return size * sum(_WIDTHS.get(letter, _USUAL) for letter in text)


def in_lines(text: str, size: float, room: float) -> list[str]:
    """A text in as many lines as it takes to keep each within ``room``, broken at its spaces.

    A word that is wider than the room stays whole.
    """
    lines: list[str] = []
    for word in text.split(" "):
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and text_width(longer, size) <= room:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines
