"""Where a station's claims disagree, which figure bounds what is connected, and what to judge."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import CLAIM_KINDS, PORTS, Claim, GoodSide, impossible_together
from yardtoll.core.claims.packs import check_pack

ROUNDING_SHARE = 0.01
"""Two sources may round one figure differently; within this they agree."""


@dataclass(frozen=True, kw_only=True)
class Contradiction:
    """Claims that cannot all be so.

    Attributes:
        title: what it is about.
        claims: those that disagree; empty where sums disagree.
        sentence: what disagrees, which figure limits a connection, how each is judged.
        binding: for a limit of a connection the claim that must be kept to; else None.
    """

    title: str
    claims: tuple[Claim, ...]
    sentence: str
    binding: Claim | None = None


def find_contradictions(claims: Sequence[Claim], rated_wh: float) -> list[Contradiction]:
    """Everything in a station's claims that does not fit together, safety first."""
    found = [_between_sources(same) for same in _differing(claims)]
    found += [
        Contradiction(title="Not possible together", claims=(), sentence=f"{sentence}.")
        for sentence in impossible_together(claims)
    ]
    found += _sums(claims)
    pack = check_pack(claims, rated_wh)
    if pack is not None and pack.flagged:
        found.append(
            Contradiction(title="Pack arithmetic", claims=(), sentence=f"{pack.sentence}.")
        )
    return sorted(found, key=lambda c: c.binding is None)


def binding_limit(claims: Sequence[Claim], kind: str) -> Claim | None:
    """The claim of a kind that a connection must keep to: the safer of those that disagree."""
    same = [claim for claim in claims if claim.kind == kind and claim.value is not None]
    if not same:
        return None
    pick = max if CLAIM_KINDS[kind].safer == "max" else min
    return pick(same, key=lambda claim: claim.value or 0.0)


def _differing(claims: Sequence[Claim]) -> list[list[Claim]]:
    """Groups of one kind under one condition whose values differ; alternatives do not."""
    groups: dict[tuple[str, str], list[Claim]] = {}
    for claim in claims:
        if claim.condition != "selectable":
            groups.setdefault((claim.kind, _plain(claim.condition)), []).append(claim)
    return [same for same in groups.values() if _differ(same)]


def _plain(condition: str) -> str:
    return "".join(condition.casefold().split())


def _differ(same: Sequence[Claim]) -> bool:
    about = same[0].about
    if about.in_words:
        return len({claim.words.casefold() for claim in same}) > 1
    values = [claim.value for claim in same if claim.value is not None]
    if len(values) < 2:
        return False
    exact = about.good_side is GoodSide.YES_NO or about.unit == ""
    return max(values) - min(values) > (0.0 if exact else ROUNDING_SHARE * max(map(abs, values)))


def _between_sources(same: Sequence[Claim]) -> Contradiction:
    about = same[0].about
    said = ", ".join(f"{claim.source or 'no source named'} says {claim.shown}" for claim in same)
    when = f" ({same[0].condition})" if same[0].condition else ""
    if about.limits_connection:
        binding = binding_limit(same, about.key)
        assert binding is not None
        judged = (
            " Each claim is judged on its own."
            if about.good_side is not GoodSide.STATED
            else " The other figure is not tested."
        )
        return Contradiction(
            title=about.title,
            claims=tuple(same),
            sentence=f"{said}{when}. Connect nothing beyond {binding.shown}: the safer figure "
            f"holds.{judged}",
            binding=binding,
        )
    return Contradiction(
        title=about.title,
        claims=tuple(same),
        sentence=f"{said}{when}. {_judged(same)}",
    )


def _judged(same: Sequence[Claim]) -> str:
    good_side = same[0].about.good_side
    values = [claim.value for claim in same if claim.value is not None]
    if good_side is GoodSide.STATED or not values:
        return "Both are kept; neither is judged here."
    if good_side is GoodSide.AT_LEAST:
        return f"Each is judged on its own; {max(values):g} is the harder to meet."
    if good_side is GoodSide.AT_MOST:
        return f"Each is judged on its own; {min(values):g} is the harder to meet."
    return "Each is judged on its own."


def _sums(claims: Sequence[Claim]) -> list[Contradiction]:
    """Figures that add up, or multiply, to something else than is claimed."""
    found = []
    for total in (c for c in claims if c.kind == "combined_in_w" and c.value):
        parts = [_best(claims, "recharge_w"), _best(claims, "solar_w")]
        given = [part for part in parts if part is not None]
        together = sum(part.value or 0.0 for part in given)
        if len(given) > 1 and abs(together - (total.value or 0.0)) > ROUNDING_SHARE * together:
            words = " + ".join(f"{part.about.title.lower()} {part.shown}" for part in given)
            side = (
                "the station caps the sum"
                if together > (total.value or 0)
                else "more is promised together than by the parts"
            )
            found.append(
                Contradiction(
                    title="Charging together",
                    claims=(total, *given),
                    sentence=f"{words} make {together:g} W, but {total.shown} is claimed for both: "
                    f"{side}. Each is judged on its own.",
                )
            )
    for port, title in PORTS.items():
        found += _port_product(claims, port, title)
    return found


def _port_product(claims: Sequence[Claim], port: str, title: str) -> list[Contradiction]:
    """V × A of a port against its W, where it has one figure of each."""
    volts, amps, watts = (
        [c for c in claims if c.kind == f"{port}_{unit}" and c.value] for unit in "vaw"
    )
    if not (len(volts) == len(amps) == len(watts) == 1):
        return []
    product = (volts[0].value or 0.0) * (amps[0].value or 0.0)
    if abs(product - (watts[0].value or 0.0)) <= 0.05 * product:
        return []
    return [
        Contradiction(
            title=f"{title} power",
            claims=(volts[0], amps[0], watts[0]),
            sentence=f"{volts[0].shown} × {amps[0].shown} make {product:g} W, but "
            f"{watts[0].shown} is claimed. Each is judged on its own.",
        )
    ]


def _best(claims: Sequence[Claim], kind: str) -> Claim | None:
    return max(
        (c for c in claims if c.kind == kind and c.value), key=lambda c: c.value or 0, default=None
    )
