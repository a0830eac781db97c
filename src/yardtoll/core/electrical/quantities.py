"""Every quantity a meter log or a live trace may hold, declared once.

The table feeds column guessing, file headers, chart axes and labels, so a unit has one home.
"""

from dataclasses import dataclass
from enum import StrEnum

NO_READING = 9e37
"""Instruments answer 9.91E37 for "not a number" and 9.9E37 for overload (SCPI-99, 7.2.1.4-5)."""


class Quantity(StrEnum):
    """A column of a trace, in the fixed unit of :data:`QUANTITIES`."""

    POWER = "power"
    ENERGY = "energy"
    VOLTS = "volts"
    AMPS = "amps"
    HERTZ = "hertz"
    POWER_FACTOR = "power_factor"
    TEMPERATURE = "temperature"
    SOC = "soc"
    IRRADIANCE = "irradiance"
    PRESSURE = "pressure"
    """Sound, in shares of a recording's full scale."""


LOGGED = tuple(quantity for quantity in Quantity if quantity is not Quantity.PRESSURE)
"""What a meter logs; sound comes from recordings of its own kind."""


@dataclass(frozen=True, kw_only=True)
class QuantityInfo:
    """How a quantity is named and shown."""

    label: str
    unit: str
    decimals: int


QUANTITIES: dict[Quantity, QuantityInfo] = {
    Quantity.POWER: QuantityInfo(label="Power", unit="W", decimals=1),
    Quantity.ENERGY: QuantityInfo(label="Energy counter", unit="Wh", decimals=1),
    Quantity.VOLTS: QuantityInfo(label="Voltage", unit="V", decimals=1),
    Quantity.AMPS: QuantityInfo(label="Current", unit="A", decimals=2),
    Quantity.HERTZ: QuantityInfo(label="Frequency", unit="Hz", decimals=2),
    Quantity.POWER_FACTOR: QuantityInfo(label="Power factor", unit="", decimals=3),
    Quantity.TEMPERATURE: QuantityInfo(label="Temperature", unit="°C", decimals=1),
    Quantity.SOC: QuantityInfo(label="State of charge", unit="%", decimals=0),
    Quantity.IRRADIANCE: QuantityInfo(label="Irradiance", unit="W/m²", decimals=0),
    Quantity.PRESSURE: QuantityInfo(label="Sound", unit="", decimals=6),
}
