"""The one way to an instrument: by its meter's profile and address, or on the simulated bench."""

from yardtoll.bench.errors import ProfileError
from yardtoll.bench.instrument import Connection, Instrument
from yardtoll.bench.profiles.files import profile_named, shipped_profiles
from yardtoll.bench.simulated.instrument import SIMULATED_PROFILE, SimulatedInstrument
from yardtoll.bench.simulated.scpi_server import SimulatedBench


def open_instrument(meter: Connection) -> Instrument:
    """The instrument at a meter's address; it connects when it is opened.

    Raises:
        ProfileError: its profile cannot be used, or it has no address.
    """
    if not meter.address or meter.is_simulated:
        raise ProfileError("this meter has no address: it is read by eye, or simulated")
    profile = profile_named(meter.profile)
    return profile.driver.connect(meter.address, profile.commands)


def open_simulated(bench: SimulatedBench) -> SimulatedInstrument:
    """The simulated bench's meter, read over its socket by the driver that reads real ones."""
    profile = shipped_profiles()[SIMULATED_PROFILE]
    inner = profile.driver.connect(bench.resource, profile.commands)
    return SimulatedInstrument(bench, inner)


def refuse_unreadable(meter: Connection) -> None:
    """See that a meter's profile can be used, without connecting.

    Raises:
        ProfileError: it cannot.
    """
    if meter.address and not meter.is_simulated:
        profile_named(meter.profile)
