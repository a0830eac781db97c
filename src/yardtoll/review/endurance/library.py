"""Appliances that can be put into an outage: the reviewer's own, and common kinds."""

from collections.abc import Iterator
from dataclasses import dataclass

from yardtoll.core.endurance.common_kinds import COMMON_KINDS, TYPICAL, CommonKind
from yardtoll.core.methods.appliances import METHOD as TRIED
from yardtoll.core.output.entries import number_in
from yardtoll.review.appliance_library import appliance_library
from yardtoll.store.records import Appliance, OutageUse
from yardtoll.store.yard_file import YardFile

_NAMEPLATE_LOW = 0.5
"""An appliance may draw so little of its nameplate (common practice, no source)."""


@dataclass(frozen=True, kw_only=True)
class Offered:
    """An appliance that can be put into an outage.

    Attributes:
        words: what is known of it, and from where.
        appliance: the reviewer's own record; None for others.
    """

    use: OutageUse
    words: str
    appliance: Appliance | None = None


def offered(yard: YardFile) -> list[Offered]:
    """The reviewer's own appliances, common kinds, then those of tries and loads."""
    own = [_of_own(appliance) for appliance in yard.appliances()]
    known = {each.use.name.casefold() for each in own}
    tried = [each for each in _of_tries(yard) if each.use.name.casefold() not in known]
    return [*own, *(of_kind(kind) for kind in COMMON_KINDS), *tried]


def _of_own(appliance: Appliance) -> Offered:
    use = use_of(appliance)
    measured = "measured" if appliance.run_id is not None else "as typed"
    return Offered(use=use, words=f"{use_words(use)}; {measured}", appliance=appliance)


def use_of(appliance: Appliance) -> OutageUse:
    """An own appliance, on all day."""
    return OutageUse(
        name=appliance.name,
        watts=appliance.watts,
        duty=appliance.duty,
        inrush_w=appliance.inrush_w,
        low_share=appliance.low_share,
        high_share=appliance.high_share,
    )


def _of_tries(yard: YardFile) -> Iterator[Offered]:
    for name, known in appliance_library(yard, TRIED.entry_fields).items():
        watts = number_in(known, "nameplate_w")
        if watts:
            use = OutageUse(
                name=name, watts=watts, inrush_w=number_in(known, "inrush_w"),
                low_share=_NAMEPLATE_LOW,
            )  # fmt: skip
            yield Offered(use=use, words=f"up to {watts:.0f} W, by its nameplate or load")


def of_kind(kind: CommonKind) -> Offered:
    """A common kind, with its range."""
    use = OutageUse(
        name=kind.name,
        watts=kind.watts,
        duty=kind.duty,
        from_h=kind.from_h,
        to_h=kind.to_h,
        inrush_w=kind.inrush * kind.watts if kind.inrush is not None else None,
        low_share=kind.low_w / kind.watts,
        high_share=kind.high_w / kind.watts,
    )
    return Offered(use=use, words=f"{use_words(use)}; {TYPICAL}")


def use_words(use: OutageUse) -> str:
    """Like "60 to 120 W, 40 % of the time, 22:00 to 7:00"."""
    low, high = use.watts * use.low_share, use.watts * use.high_share
    digits = 0 if high >= 10 else 1
    same = f"{low:.{digits}f}" == f"{high:.{digits}f}"
    parts = [f"{high:.{digits}f} W" if same else f"{low:.{digits}f} to {high:.{digits}f} W"]
    if use.duty < 1:
        parts.append(f"{100 * use.duty:.0f} % of the time")
    if use.from_h is not None and use.to_h is not None:
        parts.append(f"{hour_words(use.from_h)} to {hour_words(use.to_h)}")
    return ", ".join(parts)


def hour_words(hour: float) -> str:
    """A clock hour like "22:30"."""
    minutes = round(60 * hour) % 1440
    return f"{minutes // 60}:{minutes % 60:02d}"
