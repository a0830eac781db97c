"""What an instrument measures in a run."""

from enum import StrEnum


class Role(StrEnum):
    """What an instrument measures in a run."""

    AC_OUTPUT = "ac_output"
    DC_OUTPUT = "dc_output"
    WALL_INPUT = "wall_input"
    SUN_INPUT = "sun_input"
    DC_INPUT = "dc_input"
    """A car socket, or a USB-C charger."""
    TEMPERATURE = "temperature"
    IRRADIANCE = "irradiance"
    SOUND = "sound"
    WAVEFORM = "waveform"
    """A scope, or a sound card through a divider: volts many times a cycle."""
    DISPLAY = "display"
    """The station's own display, filmed or read."""
    NOTES = "notes"

    @property
    def is_energy(self) -> bool:
        """Whether it is energy that went in or came out."""
        return self in _ENERGY

    @property
    def is_volts(self) -> bool:
        """Whether a scope can record it."""
        return self is Role.WAVEFORM

    @property
    def is_dc(self) -> bool:
        """Whether a power meter uses its DC range there; its AC range shares no gain with that."""
        return self in _DC


_ENERGY = {Role.AC_OUTPUT, Role.DC_OUTPUT, Role.WALL_INPUT, Role.SUN_INPUT, Role.DC_INPUT}
_DC = {Role.DC_OUTPUT, Role.SUN_INPUT, Role.DC_INPUT}
