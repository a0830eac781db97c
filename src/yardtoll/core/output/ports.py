"""Ports alone and together: watts, who gives way, the common limit."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yardtoll.core.errors import ValueOutOfRangeError

YIELDS_SHARE = 0.95
"""A port that keeps less than this of what it gave alone has given way (common practice)."""


@dataclass(frozen=True, kw_only=True)
class Together:
    """Ports loaded at once."""

    ports: Mapping[str, float]

    @property
    def total_w(self) -> float:
        """W of all of them."""
        return sum(self.ports.values())


@dataclass(frozen=True, kw_only=True)
class Yield:
    """A port that gives less beside others; ``share`` is what was kept."""

    port: str
    alone_w: float
    together_w: float

    @property
    def share(self) -> float:
        """Together ÷ alone."""
        return self.together_w / self.alone_w


@dataclass(frozen=True, kw_only=True)
class PortClaim:
    """The most that was read of a port, or of ports with a common limit, against the claim."""

    port: str
    claimed_w: float
    measured_w: float

    @property
    def share(self) -> float:
        """Measured ÷ claimed."""
        return self.measured_w / self.claimed_w


@dataclass(frozen=True, kw_only=True)
class PortsResult:
    """What the ports gave.

    Attributes:
        total_w: the highest of all sets; None where nothing was read.
        not_measured: ports with a claim that were not read.
    """

    alone: Mapping[str, float]
    together: tuple[Together, ...]
    yields: tuple[Yield, ...]
    claims: tuple[PortClaim, ...]
    not_measured: tuple[str, ...]
    total_w: float | None


def analyse_ports(
    alone: Mapping[str, float],
    together: Sequence[Mapping[str, float]] = (),
    limits: Mapping[str, float] | None = None,
    shared: Mapping[str, float] | None = None,
) -> PortsResult:
    """Work out readings of ports.

    Args:
        alone: W of each port by itself.
        together: W of ports loaded at once, a set each.
        limits: W claimed for a port.
        shared: W claimed for all ports whose name begins so.

    Raises:
        ValueOutOfRangeError: a reading below 0, or a claim not above 0.
    """
    limits, shared = limits or {}, shared or {}
    for readings in (alone, *together):
        for port, watts in readings.items():
            if not 0 <= watts < float("inf"):
                raise ValueOutOfRangeError(port, watts, "0 W or more")
    for port, watts in (*limits.items(), *shared.items()):
        if not 0 < watts < float("inf"):
            raise ValueOutOfRangeError(port, watts, "above 0 W")
    sets = tuple(Together(ports=dict(ports)) for ports in together)
    read = set(alone).union(*(found.ports for found in sets))
    claims = [
        PortClaim(port=port, claimed_w=watts, measured_w=_most_of(port, alone, sets))
        for port, watts in limits.items()
        if port in read
    ]
    missing = [port for port in limits if port not in read]
    for prefix, watts in shared.items():
        if any(port.startswith(prefix) for port in read):
            most = max(_sums_of(prefix, alone, sets))
            claims.append(PortClaim(port=prefix, claimed_w=watts, measured_w=most))
        else:
            missing.append(prefix)
    return PortsResult(
        alone=dict(alone),
        together=sets,
        yields=tuple(_yields(alone, sets)),
        claims=tuple(claims),
        not_measured=tuple(missing),
        total_w=max((s.total_w for s in (*sets, *_each(alone))), default=None),
    )


def _each(alone: Mapping[str, float]) -> list[Together]:
    return [Together(ports={port: watts}) for port, watts in alone.items()]


def _most_of(port: str, alone: Mapping[str, float], sets: Sequence[Together]) -> float:
    return max(found.ports[port] for found in (*_each(alone), *sets) if port in found.ports)


def _sums_of(prefix: str, alone: Mapping[str, float], sets: Sequence[Together]) -> list[float]:
    return [
        sum(watts for port, watts in found.ports.items() if port.startswith(prefix))
        for found in (*_each(alone), *sets)
    ]


def _yields(alone: Mapping[str, float], sets: Sequence[Together]) -> list[Yield]:
    """Each port by the set in which it kept least."""
    found = []
    for port, watts in alone.items():
        kept = [s.ports[port] for s in sets if port in s.ports]
        if kept and watts > 0 and min(kept) < YIELDS_SHARE * watts:
            found.append(Yield(port=port, alone_w=watts, together_w=min(kept)))
    return found
