"""The yard itself, its stations, and what is said and noted of them."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.conformance.scorecard import ScorePoint
from yardtoll.core.cost.prices import Price
from yardtoll.core.ledger.loss_fit import REPEATABILITY


@dataclass(frozen=True, kw_only=True)
class YardInfo:
    """The yard itself.

    ``repeatability`` is the relative standard deviation from run to run where no repeats show it;
    ``uid`` tells it from every other yard, whatever either is called.
    """

    id: int = 1
    name: str
    created_at: str
    rule: str = "guarded"
    repeatability: float = REPEATABILITY
    yardstick_id: int | None = None
    uid: str = ""


@dataclass(frozen=True, kw_only=True)
class Station:
    """A station under test, with the two rated figures every discharge needs.

    Attributes:
        base_id: the station that this is a configuration of, with packs or several together; its
            claims and runs are its own. None for a station alone.
        packs_wh: rated Wh of each pack that is put on; they are in ``rated_wh`` too.
        units: how many stations are put together.
        tags: words of the reviewer's own to find it by.
    """

    id: int | None = None
    name: str
    rated_wh: float
    rated_w: float
    chemistry: str = ""
    source: str = ""
    note: str = ""
    base_id: int | None = None
    packs_wh: tuple[float, ...] = ()
    units: int = 1
    tags: tuple[str, ...] = ()
    removed: bool = False


def in_families(stations: Sequence[Station]) -> list[Station]:
    """Configurations behind the station that they are of; else in the order given."""
    ids = {station.id for station in stations}
    alone = [s for s in stations if s.base_id is None or s.base_id not in ids]
    return [
        each
        for station in alone
        for each in (
            station,
            *(s for s in stations if s.base_id == station.id and s is not station),
        )
    ]


@dataclass(frozen=True, kw_only=True)
class StoredClaim:
    """One rated figure of a station from one source; see ``core/claims/kinds.py``."""

    id: int | None = None
    station_id: int
    kind: str
    value: float | None
    words: str = ""
    condition: str = ""
    source: str = ""
    note: str = ""
    text: str = ""
    wording: str = ""
    judged_as: str = ""
    removed: bool = False

    @property
    def claim(self) -> Claim:
        """As the core reasons about it."""
        return Claim(
            id=self.id,
            kind=self.kind,
            value=self.value,
            words=self.words,
            condition=self.condition,
            source=self.source,
            note=self.note,
            text=self.text,
            wording=self.wording,
            judged_as=self.judged_as,
        )


@dataclass(frozen=True, kw_only=True)
class Accessory:
    """A thing that the maker lists as coming with a station, and whether it was in the box."""

    name: str
    present: bool = True


@dataclass(frozen=True, kw_only=True)
class Receiving:
    """A station as it came: one record a station.

    Attributes:
        received_on: ISO date; "" where not noted.
        accessories: as listed by the maker.
        lift: one word of the site's scale.
    """

    id: int | None = None
    station_id: int
    received_on: str = ""
    price: float | None = None
    list_price: float | None = None
    currency: str = ""
    firmware: str = ""
    soc_percent: float | None = None
    weight_kg: float | None = None
    lift: str = ""
    conditioned: bool = False
    accessories: tuple[Accessory, ...] = ()
    note: str = ""
    removed: bool = False

    @property
    def missing(self) -> tuple[str, ...]:
        """Accessories that are listed and not there."""
        return tuple(a.name for a in self.accessories if not a.present)


@dataclass(frozen=True, kw_only=True)
class StoredPrice:
    """What was asked or paid for a station on a day; see ``core/cost/prices.py``."""

    id: int | None = None
    station_id: int
    kind: str
    amount: float
    currency: str = ""
    units: int = 1
    day: str = ""
    words: str = ""
    removed: bool = False

    @property
    def price(self) -> Price:
        """As the core reasons about it."""
        return Price(
            kind=self.kind,
            amount=self.amount,
            currency=self.currency,
            units=self.units,
            day=self.day,
            words=self.words,
        )


@dataclass(frozen=True, kw_only=True)
class SizeClass:
    """Stations of about one size, by their rated Wh."""

    id: int | None = None
    name: str
    low_wh: float
    high_wh: float
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class Photo:
    """A picture of a station; its bytes are fetched apart."""

    id: int | None = None
    station_id: int
    name: str
    media_type: str
    caption: str = ""
    added_at: str = ""
    size_bytes: int = 0
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class Observation:
    """What was seen of a station by eye, without a run: a yes/no claim, a point of the scorecard.

    Attributes:
        subject: a kind of claim, or a quantity of the scorecard.
        agrees: yes or no.
        observed_on: ISO date.
    """

    id: int | None = None
    station_id: int
    subject: str
    agrees: bool
    words: str = ""
    observed_on: str = ""
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class Review:
    """What the reviewer writes of a station; pros and cons are one a line."""

    id: int | None = None
    station_id: int
    summary: str = ""
    pros: str = ""
    cons: str = ""
    removed: bool = False


@dataclass(frozen=True, kw_only=True)
class StoredScorePoint:
    """One point of this yard's scorecard; see ``core/scorecard.py``."""

    id: int | None = None
    title: str
    quantity: str
    sign: str
    limit: float = 1.0
    half_limit: float | None = None
    points: float = 1.0
    position: int = 0
    removed: bool = False

    @property
    def point(self) -> ScorePoint:
        """As the core scores by it."""
        return ScorePoint(
            title=self.title,
            quantity=self.quantity,
            sign=self.sign,
            limit=self.limit,
            half_limit=self.half_limit,
            points=self.points,
        )


@dataclass(frozen=True, kw_only=True)
class ScoreTemplate:
    """A scorecard under a name and a version, to be used again; what was scored by it stands.

    Attributes:
        version: from 1 on; a changed scorecard of the same name is another version.
    """

    id: int | None = None
    name: str
    version: int
    points: tuple[ScorePoint, ...] = ()
    made_on: str = ""
    removed: bool = False

    @property
    def title(self) -> str:
        """With its version."""
        return f"{self.name}, version {self.version}"


@dataclass(frozen=True, kw_only=True)
class StoredYardstick:
    """A named limit of this yard."""

    id: int | None = None
    name: str
    limit_ratio: float
    basis: str
    removed: bool = False
