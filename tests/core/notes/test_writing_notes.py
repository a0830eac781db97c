"""Notes written out and read again are the same; any text at all is read without an error."""

from hypothesis import given
from hypothesis import strategies as st

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.notes.quantities import NoteQuantity as Q
from yardtoll.core.notes.read import read_notes
from yardtoll.core.notes.recognise import looks_like_notes
from yardtoll.core.notes.write import write_notes

UNITS = {
    "Wh": (Q.ENERGY, 5000, 1), "W": (Q.POWER, 4000, 1), "W in": (Q.INPUT, 3000, 0),
    "W shown": (Q.SHOWN, 4000, 0), "%": (Q.SOC, 100, 0), "V": (Q.VOLTS, 260, 1),
    "A": (Q.AMPS, 30, 2), "Hz": (Q.HERTZ, 63, 2), "C": (Q.CELSIUS, 80, 1), "dB": (Q.DECIBEL, 90, 1),
}  # fmt: skip


@st.composite
def texts(draw):
    """Lines in the plain way, with times that rise."""
    minute = draw(st.integers(0, 1439))
    lines = []
    for _ in range(draw(st.integers(1, 8))):
        said = [f"{minute // 60 % 24:02d}:{minute % 60:02d}"]
        said += draw(st.sampled_from([[], ["on"], ["off"], ["found off"]]))
        for unit in draw(st.lists(st.sampled_from(sorted(UNITS)), max_size=4, unique=True)):
            _, most, decimals = UNITS[unit]
            said.append(f"{draw(st.floats(0, most)):.{decimals}f} {unit}")
        if draw(st.booleans()):
            hours = draw(st.floats(0.1, 40))
            said.append(f"{hours:.1f} h left")
        if len(said) == 1 or draw(st.booleans()):
            said.append(", fan loud")
        lines.append(" ".join(said).replace(" ,", ","))
        minute += draw(st.integers(1, 600))
    return "\n".join(lines)


def content(notes):
    return [(n.s, n.event, n.line.words, values(n)) for n in notes.notes]


def values(note):
    return [(v.quantity, round(v.value, 6), v.step) for v in note.line.values]


@given(texts())
def test_written_out_and_read_again_they_are_the_same(text):
    first = read_notes(text)
    again = read_notes(write_notes(first))
    assert content(again) == content(first)
    assert (again.clock_s, again.clock_basis) == (first.clock_s, first.clock_basis)
    assert not any(line.unread for line in first.lines)


@given(st.text(max_size=300) | texts().map(lambda text: text.replace(" ", "", 3)))
def test_any_text_is_read_or_refused_in_a_sentence(text):
    looks_like_notes(text)
    try:
        read_notes(text)
    except UnusableDataError as error:
        assert "\n" not in str(error)


def test_dates_and_zones_are_written_too():
    for text in (
        "2026-05-14 22:32 on\n2026-05-15 07:02 found off\n",
        "2026-05-14 22:32:05Z on\n2026-05-15 07:02:00Z off\n",
        "+0:00 on\n+1:20 410 W\n",
        "22:00:00 on\n23:21 off ± 60 s\n",
    ):
        assert write_notes(read_notes(text)) == text
