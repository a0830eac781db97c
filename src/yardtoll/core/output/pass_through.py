"""Pass-through: a load on the outlet while the wall is connected, step by step.

What goes in is what comes out plus what charges, for as long as the wall carries the load; beyond
that the station draws on its battery or lets go of the wall.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in

AGREES_SHARE, AGREES_W = 0.05, 10.0
"""Input and load plus charging agree within the larger of these: a display's watts are no
closer (common practice, no source)."""


class Carried(StrEnum):
    """Who carried the load of a step."""

    WALL = "wall"
    BOTH = "both"
    BATTERY = "battery"
    OFF = "off"

    @property
    def words(self) -> str:
        """As shown."""
        return {
            "wall": "the wall carried it",
            "both": "wall and battery together",
            "battery": "it let go of the wall",
            "off": "the outlet went off",
        }[self.value]


PRIORITIES = (
    ("wall", "wall first"),
    ("sun", "sun first"),
    ("timed", "timed"),
    ("usual", "as it comes"),
)
CAME_BACK = (
    ("itself", "by itself"),
    ("less_load", "with less load"),
    ("replugged", "plugged in again"),
    ("off_on", "switched off and on"),
)
FIELDS = (
    EntryField(key="output_w", title="Load", unit="W", needed=True),
    EntryField(key="input_w", title="From the wall", unit="W", needed=True),
    EntryField(
        key="charging_w", title="Battery by the display", unit="W", low=-20_000, high=20_000
    ),
    EntryField(key="sun_w", title="From the sun", unit="W", in_list=False),
    EntryField(key="priority", title="Priority", choices=PRIORITIES, default="usual"),
    EntryField(key="carried", title="Seen", choices=tuple((c.value, c.words) for c in Carried)),
    EntryField(key="came_back", title="Wall came back", choices=CAME_BACK, in_list=False),
    EntryField(key="soc_percent", title="State of charge", unit="%", high=100, in_list=False),
)


@dataclass(frozen=True, kw_only=True)
class PassStep:
    """One load with the wall connected.

    Attributes:
        charging_w: into the battery by the display, below 0 out of it; None where not read.
        battery_w: load − wall − sun where that is above 0: what the battery gave at the least.
        open_w: input − load − charging: conversion, and what nobody counted; None without charging.
    """

    output_w: float
    input_w: float
    sun_w: float
    priority: str
    carried: Carried
    charging_w: float | None
    battery_w: float
    open_w: float | None
    came_back: str

    @property
    def closes(self) -> bool | None:
        """Whether input is load plus charging, conversion allowed for; None where not known."""
        if self.open_w is None:
            return None
        most = max(AGREES_SHARE * max(self.input_w + self.sun_w, self.output_w), AGREES_W)
        return -most <= self.open_w <= 3 * most

    @property
    def battery_share(self) -> float:
        """What the battery gave ÷ load."""
        return self.battery_w / self.output_w if self.output_w else 0.0


@dataclass(frozen=True, kw_only=True)
class PassResult:
    """Every step, by rising load within its priority.

    Attributes:
        carried_w: the highest load that the wall carried alone; None where it carried none.
        gave_way_w: the lowest load at which it did not; None where it always did.
    """

    steps: tuple[PassStep, ...]
    carried_w: float | None
    gave_way_w: float | None

    @property
    def was_loaded(self) -> bool:
        """Whether any step had a load."""
        return any(step.output_w > 0 for step in self.steps)

    @property
    def passes_through(self) -> bool:
        """Whether a load ran from the wall."""
        return self.carried_w is not None

    @property
    def worst_open_w(self) -> float | None:
        """The balance that closes worst; None where none was told."""
        opens = [step.open_w for step in self.steps if step.open_w is not None]
        return max(opens, key=abs, default=None)


def analyse_pass_through(lines: Sequence[Fields]) -> PassResult:
    """Work the steps out.

    Args:
        lines: of :data:`FIELDS`; one without load or input is left out.
    """
    steps = [step for line in lines if (step := _step(line)) is not None]
    steps.sort(key=lambda s: (s.priority, s.output_w))
    loaded = [s for s in steps if s.output_w > 0]
    alone = [s.output_w for s in loaded if s.carried is Carried.WALL]
    not_alone = [s.output_w for s in loaded if s.carried is not Carried.WALL]
    return PassResult(
        steps=tuple(steps),
        carried_w=max(alone, default=None),
        gave_way_w=min(not_alone, default=None),
    )


def _step(line: Fields) -> PassStep | None:
    output_w, input_w = number_in(line, "output_w"), number_in(line, "input_w")
    if output_w is None or input_w is None:
        return None
    sun_w = number_in(line, "sun_w") or 0.0
    charging_w = number_in(line, "charging_w")
    word = word_in(line, "carried")
    return PassStep(
        output_w=output_w,
        input_w=input_w,
        sun_w=sun_w,
        priority=word_in(line, "priority") or "usual",
        carried=Carried(word) if word in list(Carried) else _carried(output_w, input_w, sun_w),
        charging_w=charging_w,
        battery_w=max(output_w - input_w - sun_w, 0.0),
        open_w=None if charging_w is None else input_w + sun_w - output_w - charging_w,
        came_back=word_in(line, "came_back"),
    )


def _carried(output_w: float, input_w: float, sun_w: float) -> Carried:
    """By the watts alone: what the wall does not bring comes from the battery."""
    if input_w + sun_w >= output_w * (1 - AGREES_SHARE):
        return Carried.WALL
    return Carried.BATTERY if input_w <= AGREES_W else Carried.BOTH
