"""Notes are told from tables by what stands in them."""

import pytest
from tests.core.notes.stations import evening
from tests.core.notes.texts import TEXTS
from tests.records import EXAMPLES

from yardtoll.core.notes.recognise import looks_like_notes


@pytest.mark.parametrize("seed", range(20))
def test_evenings_are_notes(seed):
    assert looks_like_notes(evening(seed).notes)


def test_most_hands_are_known_by_their_content():
    known = [name for name, text, _ in TEXTS if looks_like_notes(text)]
    assert len(known) >= 0.85 * len(TEXTS)


@pytest.mark.parametrize("path", [p for p in EXAMPLES.iterdir() if p.suffix in (".csv", ".tsv")])
def test_tables_are_not(path):
    assert not looks_like_notes(path.read_text("utf-8", "replace"))


@pytest.mark.parametrize(
    "text",
    [
        "Time,Port 1,Total 1\n10:32:00,401 W,3 Wh\n10:33:00,402 W,10 Wh\n",
        "\n".join(f"10:{m:02d}:00;{400 + m} W;{6 * m} Wh" for m in range(40)),
        "2026-05-14 10:32,401,412\n2026-05-14 10:33,408,412\n",
        "Dear diary,\nat 10:32 I plugged it in and went to bed.\nIt was a good day.\nReally.",
        "",
    ],
)
def test_nor_are_logs_with_units_in_their_cells_and_prose(text):
    assert not looks_like_notes(text)
