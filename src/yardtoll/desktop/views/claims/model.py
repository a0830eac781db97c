"""What the Claims view says of a station: rows by group, contradictions, ports, receiving."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from yardtoll.core.claims.contradictions import Contradiction, find_contradictions
from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim, Group
from yardtoll.core.claims.packs import check_pack, outlet_words
from yardtoll.core.claims.ports import PortGroup, port_groups
from yardtoll.core.cost.price import three_way_index
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import METHODS, method_testing
from yardtoll.store.records import Receiving, Station, StoredClaim
from yardtoll.store.shown_region import day

_WORKED_WITH = ("rated_wh", "continuous_w")


@dataclass(frozen=True, kw_only=True)
class ClaimRow:
    """One quantity with what every source says of it.

    Attributes:
        values: (figure with its condition, source, its record), in the order they came.
        role: "bad" where a connection is at stake, "unsure" where figures disagree, else "quiet".
        tested_by: the method's title; "" where nothing here tests it.
        tested: a run of that method is finished.
    """

    title: str
    good_side: str
    values: tuple[tuple[str, str, StoredClaim], ...]
    role: str
    tested_by: str
    tested: bool


@dataclass(frozen=True, kw_only=True)
class ClaimsPage:
    """What the view shows."""

    headline: str
    subtitle: str
    groups: tuple[tuple[str, tuple[ClaimRow, ...]], ...]
    contradictions: tuple[Contradiction, ...]
    ports: tuple[PortGroup, ...]
    pack: str
    missing: tuple[str, ...]
    receiving: str


def claims_page(
    station: Station,
    stored: Sequence[StoredClaim],
    receiving: Receiving,
    tested: set[str],
    photo_count: int = 0,
) -> ClaimsPage:
    """Lay out a station's claims; an implausible record is left out."""
    pairs = [(claim, kept) for kept in stored if (claim := _meant(kept)) is not None]
    claims = [claim for claim, _ in pairs]
    disagreeing = find_contradictions(claims, station.rated_wh)
    torn = {
        claim.id: "bad" if found.binding is not None else "unsure"
        for found in reversed(disagreeing)
        for claim in found.claims
    }
    pack = check_pack(claims, station.rated_wh)
    sums = [
        pack.sentence if pack is not None and not pack.flagged else "",
        outlet_words(claims, station.rated_wh),
    ]
    groups = []
    for group in Group:
        rows = [
            _row(kind.key, pairs, torn, tested, station)
            for kind in CLAIM_KINDS.values()
            if kind.group is group and any(claim.kind == kind.key for claim in claims)
        ]
        if rows:
            groups.append((group.value, tuple(rows)))
    return ClaimsPage(
        headline=_headline(station, claims, disagreeing),
        subtitle=_subtitle(claims, tested),
        groups=tuple(groups),
        contradictions=tuple(disagreeing),
        ports=tuple(port_groups(claims, station.rated_w, tested)) if claims else (),
        pack=" ".join(f"{sum_}." for sum_ in sums if sum_),
        missing=tuple(_missing(name) for name in receiving.missing),
        receiving=_received(receiving, claims, photo_count),
    )


def _meant(kept: StoredClaim) -> Claim | None:
    try:
        return kept.claim
    except UnusableDataError:
        return None


def _row(
    key: str,
    pairs: Sequence[tuple[Claim, StoredClaim]],
    torn: dict[int | None, str],
    tested: set[str],
    station: Station,
) -> ClaimRow:
    kind = CLAIM_KINDS[key]
    mine = [(claim, kept) for claim, kept in pairs if claim.kind == key]
    rated = {"rated_wh": station.rated_wh, "continuous_w": station.rated_w}.get(key)
    several = len({claim.value for claim, _ in mine}) > 1
    values = []
    for claim, kept in mine:
        said = claim.shown + (f" ({claim.condition})" if claim.condition else "")
        if several and rated is not None and claim.value == rated:
            said += " · runs are compared with this"
        values.append((said, claim.source or "no source", kept))
    return ClaimRow(
        title=kind.title,
        good_side=kind.good_side.words,
        values=tuple(values),
        role=next((torn[claim.id] for claim, _ in mine if claim.id in torn), "quiet"),
        tested_by=method.title if (method := method_testing(key)) is not None else "",
        tested=key in tested,
    )


def can_be_worked_with(claim: StoredClaim, station: Station) -> bool:
    """Whether runs could be held against this figure, and are not yet."""
    if claim.kind not in _WORKED_WITH or not claim.value:
        return False
    return claim.value != (station.rated_wh if claim.kind == "rated_wh" else station.rated_w)


def _headline(station: Station, claims: Sequence[Claim], found: Sequence[Contradiction]) -> str:
    if not claims:
        return f"Nothing is claimed for {station.name} yet"
    many = f"{len(claims)} claim{'s' if len(claims) > 1 else ''} for {station.name}"
    if not found:
        return f"{many}; nothing contradicts"
    unsafe = sum(c.binding is not None for c in found)
    words = f"{len(found)} contradiction{'s' if len(found) > 1 else ''}"
    return f"{many}; {words}" + (
        f", {unsafe} of them limit{'s' if unsafe == 1 else ''} what may be connected"
        if unsafe
        else ""
    )


def _subtitle(claims: Sequence[Claim], tested: set[str]) -> str:
    if not claims:
        return "Paste a block from the listing or the manual, or add one claim after the other."
    sources = list(dict.fromkeys(claim.source for claim in claims if claim.source))
    open_ = sum(
        method_testing(claim.kind) is not None and claim.kind not in tested for claim in claims
    )
    said = f"From {', '.join(sources)}" if sources else "No source is named"
    return f"{said} · {open_} not tested yet"


def _received(receiving: Receiving, claims: Sequence[Claim], photo_count: int) -> str:
    """The receiving record in one line; "" where nothing was noted."""
    facts = _facts(receiving, claims)
    if photo_count:
        facts.append(f"{photo_count} photo{'s' if photo_count > 1 else ''}")
    text = " · ".join(facts)
    return f"{text[0].upper()}{text[1:]}." if text else ""


def _missing(name: str) -> str:
    needing = [method.title for method in METHODS.values() if name in method.needs]
    return f"Missing: {name}" + (f", needed for {' and '.join(needing)}." if needing else ".")


def _facts(receiving: Receiving, claims: Sequence[Claim]) -> list[str]:
    """What is noted of the receiving, each in a few words."""
    if receiving.id is None:
        return []
    money = receiving.currency
    noted = (
        (receiving.received_on, f"came {_came(receiving.received_on)}"),
        (receiving.price is not None, f"paid {receiving.price or 0:g} {money}"),
        (receiving.price, _price_words(receiving.price or 0.0, claims)),
        (receiving.list_price is not None, f"list {receiving.list_price or 0:g} {money}"),
        (receiving.soc_percent is not None, f"at {receiving.soc_percent or 0:g} %"),
        (receiving.firmware, f"firmware {receiving.firmware}"),
        (receiving.weight_kg is not None, _weight(receiving.weight_kg or 0.0, claims)),
        (receiving.lift, f"lifts with {receiving.lift}"),
        (True, "conditioned" if receiving.conditioned else "first cycle not done"),
        (receiving.note, receiving.note),
    )
    return [words.strip() for given, words in noted if given and words]


def _price_words(price: float, claims: Sequence[Claim]) -> str:
    """What a watt-hour costs, and the index of three where all three are claimed."""
    first = {claim.kind: claim.value for claim in reversed(claims) if claim.value}
    parts = [first.get(kind) for kind in ("rated_wh", "continuous_w", "solar_w")]
    rated_wh, inverter_w, solar_w = parts
    if not rated_wh:
        return ""
    words = f"{price / rated_wh:.2f} a rated Wh"
    if inverter_w and solar_w:
        index = three_way_index(price, rated_wh, inverter_w, solar_w)
        words += f", three-way index {index:.2f}"
    return words


def _came(received_on: str) -> str:
    try:
        return day(date.fromisoformat(received_on))
    except ValueError:  # as some other program wrote it
        return received_on


def _weight(weight_kg: float, claims: Sequence[Claim]) -> str:
    """The measured weight beside the claimed one."""
    said = f"weighs {weight_kg:.2f} kg"
    claimed = next((c.value for c in claims if c.kind == "weight_kg" and c.value), None)
    return said + (f", {weight_kg / claimed - 1:+.1%} against the claim" if claimed else "")
