"""What the core raises when it cannot do its work.

UnusableDataError            the data or a value cannot be used; the message is one sentence
└── FieldError               … because of fields that the message names
    └── ValueOutOfRangeError a single value is outside what is physically or logically possible
"""

import re
from collections.abc import Callable

FIELD_WORDS = {
    "rated_wh": "the rated energy",
    "rated_w": "the rated power",
    "soc_from": "the state of charge at the start",
    "soc_to": "the state of charge at the end",
    "energy_wh": "the energy",
    "delivered_wh": "the delivered energy",
    "duration": "the duration",
    "own_draw_w": "the meter's own draw",
    "reading": "a reading of the display",
    "target_w": "the target power",
    "inverter_w": "the inverter's power",
    "hours": "the time in hours",
    "store_wh": "the usable store",
    "store_U": "the uncertainty of the usable store",
    "idle_w": "the idle draw",
    "idle_U": "the uncertainty of the idle draw",
    "repeatability": "the repeatability",
    "run": "the run's",
    "pf": "the power factor",
    "lat": "the latitude",
    "lon": "the longitude",
    "tilt": "the tilt",
    "azimuth": "the azimuth",
    "altitude_m": "the altitude",
    "albedo": "the albedo",
    "array_w": "the array's power",
    "cap_w": "the input's cap",
    "gamma": "the temperature coefficient of power",
    "beta_voc": "the temperature coefficient of Voc",
    "wiring_loss": "the wiring loss",
    "ambient_c": "the air's temperature",
    "wind_ms": "the wind speed",
    "voc": "Voc",
    "vmp": "Vmp",
    "isc": "Isc",
    "imp": "Imp",
    "limit_v": "the input's highest voltage",
    "limit_v_min": "the input's lowest voltage",
    "limit_a": "the input's highest current",
    "limit_w": "the input's highest power",
    "series": "the number in series",
    "parallel": "the number in parallel",
    "tmin": "the lowest temperature",
    "tmax": "the highest temperature",
}
"""Fields as a person calls them. A command line calls them by its options."""
_FIELD = re.compile(r"\{(\w+)\}")


class UnusableDataError(ValueError):
    """The data or a value cannot be used; ``str()`` is one clear sentence."""


class FieldError(UnusableDataError):
    """Fields do not fit; ``str()`` names them in words.

    Args:
        sentence: with each field's name in braces.
    """

    def __init__(self, sentence: str) -> None:
        self.sentence = sentence
        super().__init__(self.naming(lambda field: FIELD_WORDS.get(field, field)))

    def naming(self, name: Callable[[str], str]) -> str:
        """The sentence with every field called by another name."""
        return _FIELD.sub(lambda found: name(found[1]), self.sentence)


class ValueOutOfRangeError(FieldError):
    """One value is outside its permitted range.

    Args:
        field: the field's name, or words with it in braces.
        permitted: what the value may be, as it follows "it must be".
    """

    def __init__(self, field: str, value: float, permitted: str) -> None:
        named = f"{{{field}}}" if field.isidentifier() else field
        super().__init__(f"{named} is {value:g}; it must be {permitted}")
        self.field = field
        self.value = value
        self.permitted = permitted
