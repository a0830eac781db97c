"""Can it run this? Tries of motors and appliances: started, turned, or tripped.

A start takes watts that a slow meter does not see: the peak it shows is *at least*. What was
missing is only known where both the need and what the station gave are known.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.endurance.heat import Heating
from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in

FAST_ENOUGH_S = 0.02
"""A meter sees the peak of a start when it reads at least once a cycle of the mains (common
practice, no source)."""


class Started(StrEnum):
    """What came of a try."""

    STARTED = "started"
    TURNED = "turned"
    NO_START = "no_start"
    TRIPPED = "tripped"

    @property
    def words(self) -> str:
        """As shown."""
        return {
            "started": "ran",
            "turned": "turned, did not start",
            "no_start": "did not start",
            "tripped": "the station tripped",
        }[self.value]


RESETS = (
    ("itself", "by itself"),
    ("off_on", "switched off and on"),
    ("cooled", "after cooling"),
    ("plugged_in", "plugged in"),
    ("not", "did not come back"),
)
"""How a station comes back: (word in the file, as shown)."""
MODES = (
    ("normal", "normal"),
    ("lowering", "voltage lowering"),
    ("eco", "eco"),
)
FIELDS = (
    EntryField(
        key="appliance", title="Appliance", needed=True, hint="circular saw", from_library=True
    ),
    EntryField(
        key="started",
        title="What came of it",
        choices=tuple((s.value, s.words) for s in Started),
        needed=True,
    ),
    EntryField(key="nameplate_w", title="Nameplate", unit="W"),
    EntryField(key="peak_w", title="Peak seen", unit="W"),
    EntryField(
        key="reading_every_s", title="Meter reads every", unit="s", decimals=2, high=60,
        default=1.0, in_list=False,
    ),
    EntryField(key="inrush_w", title="Start needs, as known", unit="W", in_list=False),
    EntryField(key="outlet", title="Outlet", hint="AC 1, on a 5 m cord", in_list=False),
    EntryField(key="mode", title="Mode", choices=MODES, default="normal"),
    EntryField(key="soc_percent", title="State of charge", unit="%", high=100),
    EntryField(key="water_l", title="Water warmed", unit="L", decimals=2, high=500, in_list=False),
    EntryField(key="water_from_c", title="From", unit="°C", decimals=1, high=100, in_list=False),
    EntryField(key="water_to_c", title="To", unit="°C", decimals=1, high=100, in_list=False),
    EntryField(
        key="heating_wh", title="It took", unit="Wh", decimals=1, high=100_000, in_list=False
    ),
    EntryField(
        key="reset", title="Came back", choices=RESETS, in_list=False,
        only_with=("started", "tripped"),
    ),
    EntryField(
        key="cooled_min", title="After", unit="min", high=1440, in_list=False,
        only_with=("started", "tripped"),
    ),
    EntryField(
        key="error_code", title="Error code", in_list=False, only_with=("started", "tripped")
    ),
)  # fmt: skip


def heating_share(fields: Fields) -> float | None:
    """Share of what a try took from the outlet that went into water; None where that is not said.

    By 4186 J/(kg·K); more than all of it is no measurement.
    """
    litres, low, high, took_wh = (
        number_in(fields, key) for key in ("water_l", "water_from_c", "water_to_c", "heating_wh")
    )
    if not litres or low is None or high is None or not took_wh or high <= low:
        return None
    share = Heating(litres=litres, from_c=low, to_c=high).into_water_wh / took_wh
    return share if share <= 1 else None


@dataclass(frozen=True, kw_only=True)
class Try:
    """One try of an appliance.

    Attributes:
        number: of this appliance's tries on this outlet in this mode, from 1.
        peak_at_least: the meter is too slow to have seen the peak of the start.
    """

    appliance: str
    started: Started
    number: int
    nameplate_w: float | None
    peak_w: float | None
    peak_at_least: bool
    inrush_w: float | None
    outlet: str
    mode: str
    soc_percent: float | None


@dataclass(frozen=True, kw_only=True)
class ApplianceResult:
    """All tries of one appliance in one mode on one outlet: another of these is another test.

    Attributes:
        missing_w: W that a start would have needed beyond the most that the station is known to
            have given; None where either is not known, or where it ran, here or elsewhere.
        missing_at_most: a slow meter saw what was given: it may have been more.
        ran_elsewhere: on another outlet or in another mode it ran.
    """

    appliance: str
    mode: str
    outlet: str
    tries: tuple[Try, ...]
    missing_w: float | None
    missing_at_most: bool = False
    ran_elsewhere: bool = False

    @property
    def name(self) -> str:
        """With its outlet, where one is said."""
        return f"{self.appliance} on {self.outlet}" if self.outlet else self.appliance

    @property
    def ran(self) -> bool:
        """Whether the latest try ran."""
        return self.tries[-1].started is Started.STARTED

    @property
    def starts(self) -> int:
        """How many of the tries ran."""
        return sum(t.started is Started.STARTED for t in self.tries)


def analyse_tries(
    lines: Sequence[Fields], surge_w: float | None = None
) -> tuple[ApplianceResult, ...]:
    """Tries put together by appliance, mode and outlet, in the order they were first tried.

    Args:
        lines: of :data:`FIELDS`; one without an appliance or a result is left out.
        surge_w: the most W that the station was seen to give, if only for a moment.
    """
    found: dict[tuple[str, str, str], list[Try]] = {}
    for line in lines:
        name, word = word_in(line, "appliance").strip(), word_in(line, "started")
        if not name or word not in list(Started):
            continue
        mode, outlet = word_in(line, "mode") or "normal", word_in(line, "outlet").strip()
        mine = found.setdefault((name.casefold(), mode, outlet.casefold()), [])
        every_s = number_in(line, "reading_every_s")
        mine.append(
            Try(
                appliance=name,
                started=Started(word),
                number=len(mine) + 1,
                nameplate_w=number_in(line, "nameplate_w"),
                peak_w=number_in(line, "peak_w"),
                peak_at_least=every_s is None or every_s > FAST_ENOUGH_S,
                inrush_w=number_in(line, "inrush_w"),
                outlet=outlet,
                mode=mode,
                soc_percent=number_in(line, "soc_percent"),
            )
        )
    ran = {key[0] for key, tries in found.items() if tries[-1].started is Started.STARTED}
    return tuple(_result(key, tries, surge_w, ran) for key, tries in found.items())


def _result(
    key: tuple[str, str, str], tries: Sequence[Try], surge_w: float | None, ran: set[str]
) -> ApplianceResult:
    name, mode, _ = key
    ran_here = tries[-1].started is Started.STARTED
    return ApplianceResult(
        appliance=tries[0].appliance,
        mode=mode,
        outlet=tries[0].outlet,
        tries=tuple(tries),
        missing_w=None if name in ran else _missing_w(tries, surge_w),
        missing_at_most=any(t.peak_at_least for t in tries),
        ran_elsewhere=name in ran and not ran_here,
    )


def _missing_w(tries: Sequence[Try], surge_w: float | None) -> float | None:
    needs = [t.inrush_w for t in tries if t.inrush_w]
    seen = [t.peak_w for t in tries if t.peak_w]
    given = max([*seen, *([surge_w] if surge_w else [])], default=None)
    if not needs or given is None or max(needs) <= given:
        return None
    return max(needs) - given
