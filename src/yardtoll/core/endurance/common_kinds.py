"""Appliances of common kinds with their ranges. Common practice, no source; from memory."""

from dataclasses import dataclass

TYPICAL = "typical, from common practice"


@dataclass(frozen=True, kw_only=True)
class CommonKind:
    """A kind of appliance: one of them may draw anything between two figures.

    Attributes:
        low_w, high_w: while it draws.
        duty: share of the time that it draws.
        from_h, to_h: clock hours of common use; None for all day.
        inrush: what its start takes, as a factor of its W; None where it takes no more.
    """

    name: str
    low_w: float
    high_w: float
    duty: float = 1.0
    from_h: float | None = None
    to_h: float | None = None
    inrush: float | None = None

    @property
    def watts(self) -> float:
        """The middle of its range."""
        return (self.low_w + self.high_w) / 2


COMMON_KINDS = (
    CommonKind(name="Fridge", low_w=60, high_w=120, duty=0.4, inrush=6),
    CommonKind(name="Chest freezer", low_w=60, high_w=110, duty=0.35, inrush=6),
    CommonKind(name="CPAP, no heated hose", low_w=20, high_w=40, from_h=22, to_h=7),
    CommonKind(name="CPAP with humidifier", low_w=50, high_w=90, from_h=22, to_h=7),
    CommonKind(name="Router", low_w=6, high_w=15),
    CommonKind(name="LED lamp", low_w=6, high_w=12, from_h=18, to_h=23),
    CommonKind(name="Laptop", low_w=30, high_w=65, from_h=9, to_h=17),
    CommonKind(name="Phones, two a night", low_w=8, high_w=14, duty=0.5, from_h=22, to_h=2),
    CommonKind(name="Television", low_w=50, high_w=130, from_h=19, to_h=23),
    CommonKind(name="Fan", low_w=25, high_w=60, from_h=20, to_h=8),
    CommonKind(name="Furnace blower", low_w=300, high_w=600, duty=0.3, inrush=4),
    CommonKind(name="Sump pump", low_w=500, high_w=1000, duty=0.05, inrush=4),
    CommonKind(name="Microwave oven", low_w=1000, high_w=1600, duty=0.2, from_h=18, to_h=19),
)
