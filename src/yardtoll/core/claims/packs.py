"""Pack arithmetic: nominal energy from cells, held against the rated Wh."""

from collections.abc import Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.errors import ValueOutOfRangeError

FLAGGED_SHARE = 0.02
"""A pack that differs from the rated Wh by more than this is pointed at."""

NOMINAL_CELL_V = {"LFP": 3.2, "NMC": 3.6, "NCA": 3.6, "LTO": 2.3}
"""Nominal volts by chemistry (common practice, no source)."""


def pack_wh(cells_series: float, cell_v: float, pack_ah: float) -> float:
    """Nominal Wh = cells in series × nominal V × Ah (Ah of the pack, parallel strings added up).

    Raises:
        ValueOutOfRangeError: a figure is not above 0.
    """
    for name, value in (("cells", cells_series), ("cell V", cell_v), ("Ah", pack_ah)):
        if not value > 0:
            raise ValueOutOfRangeError(name, value, "above 0")
    return cells_series * cell_v * pack_ah


@dataclass(frozen=True, kw_only=True)
class PackCheck:
    """A pack's arithmetic against a rated energy, in Wh.

    Attributes:
        sum_text: the sum written out.
        apart: (pack − rated) ÷ rated.
    """

    pack_wh: float
    rated_wh: float
    sum_text: str

    @property
    def apart(self) -> float:
        """Relative difference; above 0 when the pack holds more."""
        return self.pack_wh / self.rated_wh - 1

    @property
    def flagged(self) -> bool:
        """Whether the difference is too large for rounding."""
        return abs(self.apart) > FLAGGED_SHARE

    @property
    def sentence(self) -> str:
        """For the reader."""
        if not self.flagged:
            return f"{self.sum_text} = {self.pack_wh:.1f} Wh, which fits {self.rated_wh:g} Wh rated"
        side = "more" if self.apart > 0 else "less"
        return (
            f"{self.sum_text} = {self.pack_wh:.1f} Wh, {abs(self.apart):.1%} {side} than the "
            f"{self.rated_wh:g} Wh rated: one of the figures is wrong, or meant another way"
        )


def check_pack(claims: Sequence[Claim], rated_wh: float) -> PackCheck | None:
    """The pack as claimed against the rated energy; None where its figures are not all there.

    Pack volts serve, or cells in series times a cell's volts (the chemistry's where not claimed).
    """
    first = {claim.kind: claim for claim in reversed(claims)}

    def value(kind: str) -> float | None:
        return first[kind].value if kind in first else None

    amp_hours = value("pack_ah")
    if not amp_hours:
        return None
    series, pack_v, cell_v = value("cells_series"), value("pack_v"), value("cell_v")
    if cell_v is None and "chemistry" in first:
        cell_v = NOMINAL_CELL_V.get(first["chemistry"].words.upper())
    if series and cell_v:
        return PackCheck(
            pack_wh=pack_wh(series, cell_v, amp_hours),
            rated_wh=rated_wh,
            sum_text=f"{series:g} × {cell_v:g} V × {amp_hours:g} Ah",
        )
    volts = pack_v or value("cell_v")
    if volts is None:
        return None
    return PackCheck(
        pack_wh=pack_wh(1, volts, amp_hours),
        rated_wh=rated_wh,
        sum_text=f"{amp_hours:g} Ah × {volts:g} V",
    )


def outlet_words(claims: Sequence[Claim], rated_wh: float) -> str:
    """What the maker's own figures leave for the outlet; "" where no window or efficiency is told.

    A restricted window is deliberate: longer life for less energy.
    """
    shares, parts = 1.0, [f"{rated_wh:g} Wh"]
    for kind in ("window_percent", "inverter_percent"):
        percent = next((c.value for c in claims if c.kind == kind and c.value), None)
        if percent:
            shares *= percent / 100
            parts.append(f"{percent:g} %")
    if len(parts) == 1:
        return ""
    return f"{' × '.join(parts)} = {rated_wh * shares:.0f} Wh at the outlet, by the maker's figures"
