"""What a kind of test is made of."""

from dataclasses import dataclass
from enum import StrEnum

from yardtoll.core.claims.kinds import CLAIM_KINDS, ClaimKind


class Flow(StrEnum):
    """Which way the energy goes while it is measured."""

    OUT = "out"
    IN = "in"
    IDLE = "idle"


class Ending(StrEnum):
    """What ends a run of it."""

    CUT_OFF = "cut_off"
    """The station shuts its output off."""
    TIME = "time"
    """A set time has passed, or the station shuts off before."""
    CHARGED = "charged"
    """The input falls to nearly nothing."""
    BY_HAND = "by_hand"


@dataclass(frozen=True, kw_only=True)
class Size:
    """One way of choosing how much power, or how long.

    Attributes:
        c_rate: target W = c_rate × rated Wh.
        share_of_rated_w: target W = share × rated W.
        asks_w: the reviewer gives the W, as for a load that is simply there.
        hold_s: how long it is held; None to the method's own end.
    """

    key: str
    title: str
    c_rate: float | None = None
    share_of_rated_w: float | None = None
    asks_w: bool = False
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
    """One kind of test, in words for the person who does it.

    Attributes:
        order: its place among the methods.
        steps: setting up, in order.
        needs: accessories it cannot do without, by their usual names.
        sizes: schools of choosing the power; the first is the default.
        sources: where the method comes from.
        soc: state of charge in % at start and end.
        ends_early: a run of it may end by a trip, by hand or empty, and it matters which.
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
    needs: tuple[str, ...] = ()
    soc: tuple[float, float] = (100.0, 0.0)
    steady: bool = True
    gives_capacity: bool = False
    ends_early: bool = False

    @property
    def speaks_to(self) -> tuple[ClaimKind, ...]:
        """The kinds of claims that it tests."""
        return tuple(kind for kind in CLAIM_KINDS.values() if kind.method == self.key)

    def size(self, key: str) -> Size:
        """One of its sizes; the default where the key is not known."""
        return next((size for size in self.sizes if size.key == key), self.sizes[0])
