"""What the Sun view says before anything is plugged in: the array against the claimed window."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.sun.array_check import (
    HOT_ABOVE_AMBIENT_K,
    Connect,
    Module,
    volts_at,
)
from yardtoll.core.sun.claimed_input import (
    SourceCheck,
    check_claims,
    mixed_strings,
    panels_in_series,
)
from yardtoll.store.records import Receiving, Site, SolarArray

USUAL_COLDEST_C, USUAL_HOTTEST_C = -20.0, 40.0
"""Where the site's records are not known (a guess, and said so)."""
ADAPTER = "Solar adapter"
_POINTS = 24


@dataclass(frozen=True, kw_only=True)
class WiringPage:
    """The array check in words and as a picture.

    Attributes:
        air_c: (n,) °C of the air, from the record low to the record high.
        voc_v, vmp_v: (n,) of the string at that air: cells as cold as the air, and in full sun.
        checks: against every claim of volts, the deciding one first.
        facts: (sign, sentence); signs are "!" for what forbids, "·" else.
        module, series: for a measured Voc; None where there is no array.
    """

    headline: str
    verdict: Connect | None
    air_c: tuple[float, ...] = ()
    voc_v: tuple[float, ...] = ()
    vmp_v: tuple[float, ...] = ()
    checks: tuple[SourceCheck, ...] = ()
    facts: tuple[tuple[str, str], ...] = ()
    module: Module | None = None
    series: int = 1


def wiring_page(
    arrays: Sequence[SolarArray],
    claims: Sequence[Claim],
    site: Site,
    receiving: Receiving | None = None,
) -> WiringPage:
    """The chosen array, and a second one beside it, against the station's claims."""
    if not arrays:
        return WiringPage(headline="No panels yet: add the array you have", verdict=None)
    array = arrays[0]
    coldest = USUAL_COLDEST_C if site.coldest_c is None else site.coldest_c
    hottest = max(USUAL_HOTTEST_C if site.hottest_c is None else site.hottest_c, coldest)
    try:
        module = module_of(array)
        checks = check_claims(
            module,
            array.series,
            array.parallel,
            claims,
            coldest_c=coldest,
            hottest_c=hottest,
        )
    except UnusableDataError as error:
        return WiringPage(headline=f"{array.name}: {error}", verdict=None)
    air = tuple(coldest + (hottest - coldest) * i / (_POINTS - 1) for i in range(_POINTS))
    return WiringPage(
        headline=_headline(array, checks),
        verdict=checks[0].check.connect if checks else None,
        air_c=air,
        voc_v=tuple(array.series * volts_at(module.voc_v, module.beta_voc, c) for c in air),
        vmp_v=tuple(
            array.series * volts_at(module.vmp_v, module.beta_voc, c + HOT_ABOVE_AMBIENT_K)
            for c in air
        ),
        checks=tuple(checks),
        facts=tuple(_facts(arrays, checks, site, receiving)),
        module=module,
        series=array.series,
    )


def module_of(array: SolarArray) -> Module:
    """One module of an array as the core reasons about it."""
    return Module(
        voc_v=array.voc_v,
        vmp_v=array.vmp_v,
        isc_a=array.isc_a,
        imp_a=array.imp_a,
        beta_voc=array.beta_voc,
    )


def measured_words(page: WiringPage, measured_v: float, cell_c: float) -> tuple[str, bool]:
    """What a measured Voc says, and whether it is a warning."""
    if page.module is None:
        return "", False
    try:
        found = panels_in_series(measured_v, page.module, page.series, cell_c)
    except UnusableDataError as error:
        return f"{str(error)[:1].upper()}{str(error)[1:]}.", True
    should = f"{found.expected_v:.1f} V are expected of {page.series} in series at {cell_c:g} °C"
    if found.count is None:
        return (
            f"{should}, and {measured_v:g} V fit no whole number of panels of "
            f"{found.per_module_v:.1f} V: look for shade, a loose plug, or another label.",
            True,
        )
    if found.count != page.series:
        many = f"{found.count} panel{'s' if found.count > 1 else ''}"
        return f"{should}; {measured_v:g} V look like {many} in series.", True
    limit = page.checks[0] if page.checks else None
    if limit is not None and measured_v > limit.limits.highest_v:
        return (
            f"{measured_v:g} V are over the {limit.limits.highest_v:g} V of the {limit.source}: "
            "do not connect.",
            True,
        )
    return f"{should}: {measured_v:g} V fit. Check the polarity before you plug in.", False


def _headline(array: SolarArray, checks: Sequence[SourceCheck]) -> str:
    if not checks:
        return f"{array.name}: what volts the input bears is not claimed, so connect nothing"
    decides = checks[0]
    volts, limit = decides.check.voc_cold_v, decides.limits.highest_v
    source = f" ({decides.source})" if decides.source else ""
    return {
        Connect.NEVER: f"Never connect it: {volts:.1f} V in the cold is over {limit:g} V{source}",
        Connect.TOO_LOW: f"It would not start: {decides.check.vmp_hot_v:.1f} V in the heat",
        Connect.OVER_PANELLED: f"It may be connected, and gives more than the input takes: "
        f"{volts:.1f} V at most",
        Connect.OK: f"It may be connected: {volts:.1f} V at most, under {limit:g} V{source}",
    }[decides.check.connect]


def _facts(
    arrays: Sequence[SolarArray],
    checks: Sequence[SourceCheck],
    site: Site,
    receiving: Receiving | None,
) -> list[tuple[str, str]]:
    facts: list[tuple[str, str]] = []
    if len(checks) > 1:
        claimed = ", ".join(f"{c.limits.highest_v:g} V by the {c.source}" for c in checks)
        facts.append(("!", f"The claims disagree: {claimed}. Keep to the lowest."))
    if checks:
        facts += _of_deciding(checks[0])
    if site.coldest_c is None:
        facts.append(
            ("!", f"The site's record low is not noted; {USUAL_COLDEST_C:g} °C is assumed.")
        )
    if len(arrays) > 1:
        facts.append(_second(arrays[0], arrays[1]))
    facts.append(_adapter(receiving))
    return facts


def _of_deciding(decides: SourceCheck) -> list[tuple[str, str]]:
    check, limits = decides.check, decides.limits
    facts = [
        (
            "!" if check.connect is Connect.NEVER else "·",
            f"{check.voc_cold_v:.1f} V in the cold, {check.voc_stc_v:.1f} V at 25 °C; "
            f"at most {check.max_series} in series.",
        )
    ]
    if limits.lowest_v is not None:
        low = check.vmp_hot_v < limits.lowest_v
        facts.append(
            (
                "!" if low else "·",
                f"{check.vmp_hot_v:.1f} V at full power in the heat; the input needs "
                f"{limits.lowest_v:g} V.",
            )
        )
    if limits.highest_a is not None:
        over = check.isc_a > limits.highest_a
        facts.append(
            (
                "·",
                f"{check.isc_a:.1f} A of {limits.highest_a:g} A"
                + (": the input takes no more, the rest is clipped." if over else "."),
            )
        )
    if limits.highest_w is not None:
        over = check.power_stc_w > limits.highest_w
        facts.append(
            (
                "·",
                f"{check.power_stc_w:.0f} W of {limits.highest_w:g} W"
                + (": over-panelled, which is allowed; the rest is clipped." if over else "."),
            )
        )
    return facts


def _second(first: SolarArray, second: SolarArray) -> tuple[str, str]:
    """Whether a second array may be connected with the first on one input."""
    volts = [array.series * array.vmp_v for array in (first, second)]
    apart = mixed_strings(*volts)
    if apart is None:
        return ("·", f"{second.name} beside it: {volts[1]:.1f} and {volts[0]:.1f} V go together.")
    return (
        "!",
        f"{second.name} beside it: {volts[1]:.1f} V against {volts[0]:.1f} V, "
        f"{100 * apart:.0f} % apart. "
        "In parallel the lower one drags the higher down; give each an input of its own.",
    )


def _adapter(receiving: Receiving | None) -> tuple[str, str]:
    noted = receiving.accessories if receiving is not None else ()
    for accessory in noted:
        if accessory.name.casefold() == ADAPTER.casefold():
            if accessory.present:
                return ("·", "The solar adapter is on hand.")
            return ("!", "The solar adapter was missing from the box: get one before the day.")
    return ("·", "Whether the solar adapter is on hand is not noted under Receiving.")
