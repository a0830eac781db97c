"""What a kind of test is made of. Code asks its traits and never its key."""

from dataclasses import dataclass
from enum import Enum, StrEnum

from yardtoll.core.claims.kinds import CLAIM_KINDS, ClaimKind
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.roles import Role
from yardtoll.core.methods.sources import Source
from yardtoll.core.output.entries import EntryField


class Flow(StrEnum):
    """The direction of the measured energy."""

    OUT = "out"
    IN = "in"
    IDLE = "idle"
    SEEN = "seen"
    """None is counted: what is seen, typed or captured is the result."""


class Ending(StrEnum):
    """What ends a run of it."""

    CUT_OFF = "cut_off"
    """The station shuts its output off."""
    TIME = "time"
    """A set time has passed, or the station shuts off before."""
    CHARGED = "charged"
    """The input falls to nearly nothing."""
    BY_HAND = "by_hand"


class Outlet(StrEnum):
    """Which kind of outlet is loaded, or switched on."""

    AC = "AC"
    DC = "DC"


class Capacity(Enum):
    """What a method shows of a station's store."""

    NONE = "none"
    CYCLE = "cycle"
    """It empties the station at a steady load, before results count."""
    RESULT = "result"
    """It empties the station at a steady load, and is what a reader means by its capacity."""


@dataclass(frozen=True, kw_only=True)
class Size:
    """One load level or duration of a method.

    Attributes:
        c_rate: target W = c_rate × rated Wh.
        share_of_rated_w: target W = share × rated W.
        asks_w: the reviewer gives the W, as for a load that is simply there.
        is_appliance: the load is a named appliance rather than a mix of the bench's loads.
        hold_s: how long it is held; None to the method's own end.
    """

    key: str
    title: str
    c_rate: float | None = None
    share_of_rated_w: float | None = None
    asks_w: bool = False
    is_appliance: bool = False
    hold_s: float | None = None

    def target_w(self, rated_wh: float, rated_w: float) -> float | None:
        """W to aim at; None where the reviewer, or the charger, gives it."""
        if self.c_rate is not None:
            return self.c_rate * rated_wh
        if self.share_of_rated_w is not None:
            return self.share_of_rated_w * rated_w
        return None


@dataclass(frozen=True, kw_only=True)
class Method:
    """One kind of test, in words for the person who does it, and its traits.

    Attributes:
        order: its place among the methods.
        steps: setting up, in order.
        needs: accessories it cannot do without, by their usual names.
        sizes: load levels or durations; the first is the default.
        sources: where the method comes from.
        soc: state of charge in % at start and end.
        steady: its load is held for as long as it runs.
        role: what its power meter measures.
        outlet: the kind of outlet that is loaded, or switched on; None for none.
        source: where a charge comes from; None for what is no charge.
        energy: the kind of energy that its power is drawn as.
        uses_panels: solar panels feed it.
        may_exceed_rating: a load above the rated power is meant.
        capacity: what it shows of the station's store.
        ends_early: a run of it may end by a trip, by hand or empty, and it matters which.
        claims: keys of the kinds of claims it speaks to.
        entry_fields: columns of what is entered line by line of a run.
        entry_noun: what one such line is called.
        captures: what an instrument's file gives a line of; None where lines are only typed.
        by_port: a line is about one of the station's ports.
    """

    key: str
    order: int
    title: str
    aim: str
    flow: Flow
    ending: Ending
    steps: tuple[str, ...]
    cautions: tuple[str, ...]
    ends_when: str
    sizes: tuple[Size, ...]
    sources: tuple[str, ...]
    role: Role
    energy: EnergyKind
    needs: tuple[str, ...] = ()
    soc: tuple[float, float] = (100.0, 0.0)
    steady: bool = True
    outlet: Outlet | None = None
    source: Source | None = None
    uses_panels: bool = False
    may_exceed_rating: bool = False
    capacity: Capacity = Capacity.NONE
    ends_early: bool = False
    claims: tuple[str, ...] = ()
    entry_fields: tuple[EntryField, ...] = ()
    entry_noun: str = "line"
    captures: Role | None = None
    by_port: bool = False

    @property
    def loads_slowly(self) -> bool:
        """Whether working a run out needs large libraries, of the sky or of curves."""
        return self.uses_panels or self.captures is not None

    @property
    def speaks_to(self) -> tuple[ClaimKind, ...]:
        """The kinds of claims that it tests."""
        return tuple(CLAIM_KINDS[key] for key in self.claims)

    @property
    def delivers(self) -> bool:
        """Whether the station gives energy to a load."""
        return self.flow is Flow.OUT

    @property
    def charges(self) -> bool:
        """Whether the station takes energy in."""
        return self.flow is Flow.IN

    @property
    def is_table(self) -> bool:
        """Whether its runs are kept as a table of what was seen, and have no power over time."""
        return self.flow is Flow.SEEN

    @property
    def is_timed(self) -> bool:
        """Whether it ends after a set time."""
        return self.ending is Ending.TIME

    @property
    def is_whole_discharge(self) -> bool:
        """Whether it empties the station at a steady load, and so shows its store."""
        return self.capacity is not Capacity.NONE

    @property
    def counts_for_capacity(self) -> bool:
        """Whether it is what a reader means by the capacity of a station."""
        return self.capacity is Capacity.RESULT

    @property
    def rests(self) -> bool:
        """Whether the station only uses energy by itself."""
        return self.flow is Flow.IDLE

    def until(self, span: str, soc_to: float) -> str:
        """What ends it after about a span, in words."""
        return {
            Ending.CUT_OFF: f"About {span} to empty",
            Ending.TIME: span,
            Ending.CHARGED: f"About {span} to {soc_to:g} %",
            Ending.BY_HAND: f"About {span}",
        }[self.ending]

    def size(self, key: str) -> Size:
        """One of its sizes; the default where the key is not known."""
        return next((size for size in self.sizes if size.key == key), self.sizes[0])
