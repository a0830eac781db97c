"""Notes by different hands are read as they were meant, and what is not understood is marked."""

import pytest
from tests.core.notes.texts import TEXTS

from yardtoll.core.notes.quantities import NoteQuantity as Q
from yardtoll.core.notes.read import read_notes

LETTERS = {
    "e": Q.ENERGY, "p": Q.POWER, "i": Q.INPUT, "d": Q.SHOWN, "q": Q.SOC, "v": Q.VOLTS, "a": Q.AMPS,
    "z": Q.HERTZ, "f": Q.POWER_FACTOR, "c": Q.CELSIUS, "b": Q.DECIBEL, "g": Q.IRRADIANCE,
}  # fmt: skip


def wanted(lines):
    """Every value of a text, as (s, quantity, value)."""
    found = []
    for s, values in lines:
        for letter, value in values.items():
            if letter == "h":
                found.append((s, Q.LEFT, value * 3600))
            elif letter != "x":
                found.append((s, LETTERS[letter], value))
    return found


def read(text):
    notes = read_notes(text)
    values = [(n.s, v.quantity, v.value) for n in notes.notes for v in n.line.values]
    return values, [(n.s, n.event.value) for n in notes.notes if n.event], notes


def same(one, other):
    at_once = one[0] == pytest.approx(other[0], abs=1)
    return at_once and one[1] is other[1] and one[2] == pytest.approx(other[2], rel=1e-4, abs=1e-6)


@pytest.mark.parametrize(("name", "text", "lines"), TEXTS, ids=[name for name, _, _ in TEXTS])
def test_no_value_is_wrong_without_a_mark(name, text, lines):
    values, _, notes = read(text)
    meant = wanted(lines)
    wrong = [v for v in values if not any(same(v, m) for m in meant)]
    marked = any(line.unread for line in notes.lines) or notes.doubts
    assert not wrong or marked, wrong


def test_nearly_all_values_are_right():
    right = total = 0
    missed = []
    for name, text, lines in TEXTS:
        values, events, _ = read(text)
        for meant in wanted(lines):
            total += 1
            hit = any(same(meant, value) for value in values)
            right += hit
            if not hit:
                missed.append((name, meant))
        for s, line in lines:
            if "x" in line:
                total += 1
                hit = any(
                    at == pytest.approx(s, abs=1) and event == line["x"] for at, event in events
                )
                right += hit
                if not hit:
                    missed.append((name, s, line["x"]))
    assert len(TEXTS) >= 60
    assert right >= 0.97 * total, missed
    assert not missed, missed
