"""An array against a station's solar input, before anything is plugged in.

Series adds volts, parallel adds amps. Cold raises volts: Voc(T) = Voc·(1 + β·(T − 25)), and a cold
morning's first light finds cells as cold as the air. Over the volts is never connected; over the
amps or watts is clipped.
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

from yardtoll.core.electrical.trace import Code, Notice
from yardtoll.core.errors import FieldError, ValueOutOfRangeError

STC_C = 25.0
LABEL_TOLERANCE = 1.03
"""A module's Voc may be this far above its label (common practice, no source)."""
HOT_ABOVE_AMBIENT_K = 30.0
"""Cells in full sun are so much hotter than the air (common practice, no source)."""
_LOWEST_C, _HIGHEST_C = -60.0, 70.0
_LOWEST_BETA = -0.01


class Connect(StrEnum):
    """Whether it may be connected."""

    NEVER = "never"
    TOO_LOW = "too_low"
    OVER_PANELLED = "ok_over_panelled"
    OK = "ok"


@dataclass(frozen=True, kw_only=True)
class Module:
    """One module, from its label, at 1000 W/m² and 25 °C.

    Attributes:
        voc_v, vmp_v: open circuit, and at full power.
        isc_a, imp_a: short circuit, and at full power.
        beta_voc, beta_vmp: change of the volts with temperature in 1/K, below 0.

    Raises:
        ValueOutOfRangeError: a figure is outside its range.
        UnusableDataError: Voc below Vmp or Isc below Imp: they are swapped.
    """

    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    beta_voc: float
    beta_vmp: float | None = None

    def __post_init__(self) -> None:
        for name in ("voc_v", "vmp_v", "isc_a", "imp_a"):
            value = getattr(self, name)
            if not (math.isfinite(value) and value > 0):
                raise ValueOutOfRangeError(name[:-2], value, "above 0")
        for name in ("beta_voc", "beta_vmp"):
            beta = getattr(self, name)
            if beta is not None and not _LOWEST_BETA <= beta < 0:
                raise ValueOutOfRangeError(
                    name,
                    beta,
                    "from -0.01 to below 0 1/K, such as -0.0029",
                )
        if self.voc_v < self.vmp_v:
            raise FieldError(
                f"{{voc}} {self.voc_v:g} V is below {{vmp}} {self.vmp_v:g} V: they are swapped "
                "(voc_below_vmp)"
            )
        if self.isc_a < self.imp_a:
            raise FieldError(
                f"{{isc}} {self.isc_a:g} A is below {{imp}} {self.imp_a:g} A: they are swapped"
            )


@dataclass(frozen=True, kw_only=True)
class InputLimits:
    """What the station's solar input is claimed to bear; None where nothing is claimed."""

    highest_v: float
    lowest_v: float | None = None
    highest_a: float | None = None
    highest_w: float | None = None

    def __post_init__(self) -> None:
        for name, value in (
            ("limit_v", self.highest_v),
            ("limit_v_min", self.lowest_v),
            ("limit_a", self.highest_a),
            ("limit_w", self.highest_w),
        ):
            if value is not None and not (math.isfinite(value) and value > 0):
                raise ValueOutOfRangeError(name, value, "above 0")
        if self.lowest_v is not None and self.lowest_v >= self.highest_v:
            raise FieldError(
                f"{{limit_v_min}} {self.lowest_v:g} V is not below {{limit_v}} {self.highest_v:g} V"
            )


@dataclass(frozen=True, kw_only=True)
class ArrayCheck:
    """The string's volts, amps and watts.

    Attributes:
        voc_stc_v, voc_cold_v, vmp_hot_v: of the string at 25 °C, in the cold, in the heat.
        isc_a, power_stc_w: of the array.
        max_series: how many modules in series stay below the limit in the cold.
    """

    voc_stc_v: float
    voc_cold_v: float
    vmp_hot_v: float
    isc_a: float
    power_stc_w: float
    connect: Connect
    max_series: int
    notices: tuple[Notice, ...]


def volts_at(volts_stc: float, beta: float, cell_c: float) -> float:
    """V·(1 + β·(T − 25)); beta in 1/K, cell temperature in °C."""
    return volts_stc * (1 + beta * (cell_c - STC_C))


def check_array(
    module: Module,
    series: int,
    parallel: int,
    limits: InputLimits,
    *,
    coldest_c: float,
    hottest_c: float,
) -> ArrayCheck:
    """May ``series`` × ``parallel`` of a module be connected?

    Args:
        coldest_c, hottest_c: of the air, °C: the record low decides.

    Raises:
        ValueOutOfRangeError: counts below 1 or temperatures that cannot be.
        UnusableDataError: the temperatures are the wrong way round.
    """
    for name, count in (("series", series), ("parallel", parallel)):
        if count < 1:
            raise ValueOutOfRangeError(name, count, "1 or more")
    for name, value in (("tmin", coldest_c), ("tmax", hottest_c)):
        if not _LOWEST_C <= value <= _HIGHEST_C:
            raise ValueOutOfRangeError(name, value, f"from {_LOWEST_C:g} to {_HIGHEST_C:g} °C")
    if coldest_c > hottest_c:
        raise FieldError(f"{{tmin}} {coldest_c:g} °C is above {{tmax}} {hottest_c:g} °C")
    cold_v = volts_at(module.voc_v, module.beta_voc, coldest_c)
    beta_vmp = module.beta_voc if module.beta_vmp is None else module.beta_vmp
    hot_v = volts_at(module.vmp_v, beta_vmp, hottest_c + HOT_ABOVE_AMBIENT_K)
    found = ArrayCheck(
        voc_stc_v=series * module.voc_v,
        voc_cold_v=series * cold_v,
        vmp_hot_v=series * hot_v,
        isc_a=parallel * module.isc_a,
        power_stc_w=series * parallel * module.vmp_v * module.imp_a,
        connect=Connect.OK,
        max_series=int(limits.highest_v // cold_v),
        notices=(),
    )
    return _judged(found, limits, coldest_c)


def _judged(found: ArrayCheck, limits: InputLimits, coldest_c: float) -> ArrayCheck:
    """Volts first: nothing else matters where they are over."""
    notices = []
    over_v = found.voc_cold_v > limits.highest_v
    if over_v:
        message = (
            f"{found.voc_cold_v:.1f} V at {coldest_c:g} °C is over the {limits.highest_v:g} V the "
            f"input bears: never connect it; at most {found.max_series} in series"
        )
        notices.append(Notice(code=Code.OVER_VOLTAGE_COLD, message=message))
    elif LABEL_TOLERANCE * found.voc_cold_v > limits.highest_v:
        message = (
            f"{found.voc_cold_v:.1f} V at {coldest_c:g} °C is under the {limits.highest_v:g} V the "
            "input bears by less than the 3 % that a label leaves open: measure Voc before you "
            "connect it"
        )
        notices.append(Notice(code=Code.VOLTAGE_NEAR_LIMIT, message=message))
    over_a = limits.highest_a is not None and found.isc_a > limits.highest_a
    if over_a:
        message = f"{found.isc_a:.1f} A is over {limits.highest_a:g} A: the input takes no more"
        notices.append(Notice(code=Code.OVER_CURRENT, message=message))
    over_w = limits.highest_w is not None and found.power_stc_w > limits.highest_w
    if over_w:
        message = f"{found.power_stc_w:.0f} W is over {limits.highest_w:g} W: the rest is clipped"
        notices.append(Notice(code=Code.OVER_POWER, message=message))
    too_low = limits.lowest_v is not None and found.vmp_hot_v < limits.lowest_v
    connect = Connect.OVER_PANELLED if over_a or over_w else Connect.OK
    if too_low:
        connect = Connect.TOO_LOW
    if over_v:
        connect = Connect.NEVER
    return replace(found, connect=connect, notices=tuple(notices))
