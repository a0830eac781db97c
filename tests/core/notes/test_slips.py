"""Slips of the pen: each shows, says what was probably meant, and is mended by taking that."""

import pytest
from tests.core.notes.texts import TEXTS

from yardtoll.core.notes.read import read_notes
from yardtoll.core.notes.slips import Bench, slips, with_slip_mended

BENCH = Bench(rated_wh=2048, rated_w=2000, others_wh=(1830.0,))

SLIPS = [
    ("kWh for Wh", "10:00 on 0 Wh 410 W\n14:28 off 1.83 Wh", 2, "1.83 kWh"),
    ("Wh for kWh", "10:00 on 0 Wh 410 W\n14:28 off 1812 kWh", 2, "1812 Wh"),
    ("by the rating alone", "10:00 on 0 Wh\n14:28 off 1.81 Wh", 2, "1.81 kWh"),
    ("kW for W", "10:00 410 W\n11:00 0.411 W\n12:00 409 W", 2, "0.411 kW"),
    ("W for Wh", "10:00 410 Wh 409 W\n12:00 412 Wh\n14:00 408 Wh off", 1, "410 W"),
    ("am for pm", "9:10 on 0 Wh 410 W\n11:40 1020 Wh\n1:10 1640 Wh off", 3, "13:10"),
    ("°F for °C", "10:00 410 W 32 C\n10:30 410 W 109 C", 2, "109 F"),
    ("minutes for hours", "10:00 410 W 45 h left", 1, "45 min left"),
    ("own watts added", "10:00 on 0 Wh\n10:50 off 254 + 2 Wh", 2, "254 Wh"),
    ("amps ten times off", "10:00 410 W 51.2 V 0.8 A", 1, "8.0 A"),
]
TOLD = [
    ("not zeroed", "10:00 on 205 Wh\n14:28 off 2010 Wh", 1, "not zeroed"),
    ("over the rating", "10:00 4100 W\n10:10 off", 1, "over the rated 2000 W"),
    ("a label", "10:00 on adapter 19.5 V 3.33 A\n13:00 100%", 1, "is what it can give"),
    ("copied", "10:00 on 0 Wh 410 W\n14:28 off 1830 Wh", 2, "another run"),
]


@pytest.mark.parametrize(("name", "text", "line", "instead"), SLIPS, ids=[s[0] for s in SLIPS])
def test_a_slip_shows_with_what_was_meant(name, text, line, instead):
    found = [slip for slip in slips(read_notes(text), BENCH) if slip.instead]
    assert (found[0].line, found[0].instead) == (line, instead), found
    mended = with_slip_mended(text, found[0])
    assert instead in mended.splitlines()[line - 1]
    left = [slip for slip in slips(read_notes(mended), BENCH) if slip.line == line and slip.instead]
    assert not left


@pytest.mark.parametrize(("name", "text", "line", "said"), TOLD, ids=[s[0] for s in TOLD])
def test_what_only_the_writer_knows_is_told(name, text, line, said):
    found = slips(read_notes(text), BENCH)
    assert any(slip.line == line and said in slip.message and not slip.instead for slip in found)


def test_a_recharge_that_took_less_than_was_given():
    notes = read_notes("13:00 on 0 Wh 600 W\n16:00 full 1700 Wh")
    (slip,) = slips(notes, Bench(rated_wh=2048, charges=True, given_wh=1830))
    assert "less than the 1830 Wh that came out" in slip.message
    assert not slips(notes, Bench(rated_wh=2048, charges=True, given_wh=1500))


@pytest.mark.parametrize(("name", "text"), [(n, t) for n, t, _ in TEXTS], ids=[t[0] for t in TEXTS])
def test_sound_notes_have_none(name, text):
    mendable = [slip for slip in slips(read_notes(text), Bench(rated_wh=2048, rated_w=2000))
                if slip.instead]  # fmt: skip
    assert not mendable
