"""The one way to an instrument: by its meter's profile and address, or on the simulated bench."""

from collections.abc import Iterable
from typing import TypeVar

from yardtoll.bench.drivers.scpi_scope import ScopeProfile, ScpiScope
from yardtoll.bench.errors import ProfileError
from yardtoll.bench.instrument import Connection, Instrument
from yardtoll.bench.profiles.files import profile_named, shipped_profiles
from yardtoll.bench.simulated.instrument import SIMULATED_PROFILE, SimulatedInstrument
from yardtoll.bench.simulated.rig import SimulatedRig
from yardtoll.bench.simulated.scpi_server import SimulatedBench

M = TypeVar("M", bound=Connection)
SCOPE_PROFILE = "scope"
"""The shipped profile that the simulated rig's scope speaks."""


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


def takes_curves(meter: Connection) -> bool:
    """Whether an instrument is a scope and no meter of power."""
    if not meter.address:
        return False
    try:
        return profile_named(meter.profile).driver.takes_curves
    except ProfileError:
        return False


def power_meters(meters: Iterable[M]) -> list[M]:
    """Those that measure power, and no scopes."""
    return [meter for meter in meters if not takes_curves(meter)]


def open_scope(meter: Connection) -> ScpiScope:
    """The scope at an address; it connects when it is opened.

    Raises:
        ProfileError: its profile cannot be used, or is none of a scope.
    """
    profile = profile_named(meter.profile)
    if not isinstance(profile.commands, ScopeProfile):
        raise ProfileError(f"the profile {meter.profile} is of a meter, not of a scope")
    return ScpiScope(meter.address, profile.commands)


def open_rig_scope(rig: SimulatedRig) -> ScpiScope:
    """The simulated rig's scope, read over its socket by the driver that reads real ones."""
    commands = shipped_profiles()[SCOPE_PROFILE].commands
    assert isinstance(commands, ScopeProfile)
    return ScpiScope(rig.resource, commands)


def refuse_unreadable(meter: Connection) -> None:
    """See that a meter's profile can be used, without connecting.

    Raises:
        ProfileError: it cannot.
    """
    if meter.address and not meter.is_simulated:
        profile_named(meter.profile)
