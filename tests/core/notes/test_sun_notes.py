"""Peak, shade and wiring from notes of a day in the sun."""

import pytest

from yardtoll.core.notes.read import read_notes
from yardtoll.core.notes.sun import sun_seen


@pytest.mark.parametrize(
    ("text", "shade"),
    [
        ("11:00 300 W\n11:10 shade on 50 W\n11:12 shade off 290 W", (300, 50, 290, 120)),
        ("11:00 300 W\n11:10 shaded\n11:11 40 W\n11:12 shade gone\n11:13 280 W",
         (300, 40, 280, 120)),
        ("11:00 300 W\n11:10 shade on 50 W\n12:00 60 W", (300, 50, None, None)),
        ("11:00 covered one panel\n11:05 uncovered 200 W", (None, None, 200, 300)),
    ],
)  # fmt: skip
def test_shade(text, shade):
    (found,) = sun_seen(read_notes(text)).shades
    assert (found.before_w, found.under_w, found.after_w, found.seconds) == shade


def test_wiring_stands_until_another_is_noted():
    seen = sun_seen(
        read_notes("10:00 series 300 W\n10:10 310 W\n10:20 parallel 340 W\n11:00 335 W")
    )
    assert seen.wired == {"series": 310, "parallel": 340} and seen.peak_w == 340
    assert sun_seen(read_notes("10:00 300 Wh\n11:00 400 Wh")).peak_w is None
