"""A station's ports as its claims describe them, grouped as on a real box."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.contradictions import binding_limit
from yardtoll.core.claims.kinds import PORTS, Claim

_AC = "ac"
_OF_OUTLET = {"rated_wh", "continuous_w", "surge_w"}
"""A run that speaks to any of these was at the AC outlet."""


@dataclass(frozen=True, kw_only=True)
class PanelPort:
    """One port, or several alike.

    Attributes:
        shape: "ac", "usb_a", "usb_c", "car", "dc", "wall", "sun".
        count: how many alike.
        rating: each one's rating in words.
        tested: whether a finished run speaks to it.
    """

    shape: str
    label: str
    count: int
    rating: str
    tested: bool


@dataclass(frozen=True, kw_only=True)
class PortGroup:
    """Ports that stand together; ``shared`` is a limit they have in common, in words."""

    title: str
    ports: tuple[PanelPort, ...]
    shared: str = ""
    is_input: bool = False

    @property
    def is_mains(self) -> bool:
        """Whether these are AC outlets."""
        return any(port.shape == _AC for port in self.ports)

    def names_of(self, port: PanelPort) -> list[str]:
        """A name for each of several alike: their rating where others have another, and a number.

        Such as "USB-C 100 W", "USB-A 1", "USB-A 2".
        """
        alike = [other for other in self.ports if other.label == port.label]
        name = f"{port.label} {port.rating}".strip() if len(alike) > 1 else port.label
        if port.count == 1:
            return [name]
        return [f"{name} {number}" for number in range(1, port.count + 1)]


def port_groups(
    claims: Sequence[Claim], rated_w: float, tested: Collection[str] = ()
) -> list[PortGroup]:
    """Outputs first, then inputs; a group without claims is absent.

    Args:
        claims: of one station.
        rated_w: the AC outlets' continuous rating in W, shared by all of them.
        tested: kinds of claims that finished runs speak to.
    """
    groups = [_ac(claims, rated_w, bool(_OF_OUTLET & set(tested)))]
    usb = [group for port in ("usb_c", "usb_a") if (group := _dc(claims, port, tested))]
    groups += _joined_usb(usb, _value(claims, "usb_shared_w"))
    for port in ("car_out", "dc"):
        if group := _dc(claims, port, tested):
            groups.append(group)
    groups += _inputs(claims, set(tested))
    return groups


def _value(claims: Sequence[Claim], kind: str) -> float | None:
    return next((claim.value for claim in claims if claim.kind == kind and claim.value), None)


def _ac(claims: Sequence[Claim], rated_w: float, tested: bool) -> PortGroup:
    count = int(_value(claims, "ac_outlets") or 1)
    volts, amps = _value(claims, "ac_v"), _value(claims, "ac_a")
    rating = " · ".join(
        part for part in (f"{volts:g} V" if volts else "", f"{amps:g} A" if amps else "") if part
    )
    surge = _value(claims, "surge_w")
    shared = f"{rated_w:g} W together" if count > 1 else f"{rated_w:g} W"
    shared += f", surge {surge:g} W" if surge else ""
    port = PanelPort(shape=_AC, label="AC", count=count, rating=rating, tested=tested)
    return PortGroup(title="AC output", ports=(port,), shared=shared)


def _dc(claims: Sequence[Claim], port: str, tested: Collection[str]) -> PortGroup | None:
    """One sort of DC port; those with ratings of their own apart."""
    mine = [c for c in claims if c.kind.startswith(f"{port}_") and c.about.group.name == "PORTS"]
    if not mine:
        return None
    total = int(_value(mine, f"{port}_ports") or 0)
    watts = [c for c in mine if c.kind == f"{port}_w"]
    split: list[tuple[int, str]] = [
        (c.ports_meant, c.shown) for c in watts if c.ports_meant is not None
    ]
    if not split:
        rating = " · ".join(
            c.shown
            for unit in ("w", "v", "a")
            for c in [next((c for c in mine if c.kind == f"{port}_{unit}"), None)]
            if c is not None
        )
        split = [(total or 1, rating)]
    elif total > sum(count for count, _ in split):
        split.append((total - sum(count for count, _ in split), ""))
    shared = _value(mine, f"{port}_shared_w")
    ports = tuple(
        PanelPort(
            shape=port,
            label=PORTS[port],
            count=count,
            rating=rating,
            tested=f"{port}_w" in tested and port in ("car_out", "dc"),
        )
        for count, rating in split
    )
    return PortGroup(
        title=PORTS[port], ports=ports, shared=f"{shared:g} W together" if shared else ""
    )


def _joined_usb(groups: list[PortGroup], shared_w: float | None) -> list[PortGroup]:
    """USB-C and USB-A stand together on a box, unless each has a shared limit of its own."""
    if not groups or any(group.shared for group in groups):
        return groups
    shared = f"{shared_w:g} W together" if shared_w else ""
    ports = tuple(port for group in groups for port in group.ports)
    title = "USB" if len(groups) > 1 else groups[0].title
    return [PortGroup(title=title, ports=ports, shared=shared)]


def _inputs(claims: Sequence[Claim], tested: set[str]) -> list[PortGroup]:
    """The inputs that something is claimed of, in one group."""
    ratings = (
        ("wall", "Wall", "recharge_w", _rating(claims, "recharge_w", "wall_a")),
        ("sun", "Sun", "solar_w", _sun_rating(claims)),
        ("car", "Car", "car_in_w", _rating(claims, "car_in_w", "car_in_v", "car_in_a")),
        ("usb_c", "USB-C in", "usb_in_w", _rating(claims, "usb_in_w")),
    )
    ports = tuple(
        PanelPort(shape=shape, label=label, count=1, rating=rating, tested=kind in tested)
        for shape, label, kind, rating in ratings
        if rating
    )
    if not ports:
        return []
    together = _value(claims, "combined_in_w")
    shared = f"{together:g} W together" if together else ""
    return [PortGroup(title="Inputs", ports=ports, shared=shared, is_input=True)]


def _rating(claims: Sequence[Claim], *kinds: str) -> str:
    """The figures of several kinds, the safer where sources disagree."""
    found = (binding_limit(claims, kind) for kind in kinds)
    return " · ".join(claim.shown for claim in found if claim is not None)


def _sun_rating(claims: Sequence[Claim]) -> str:
    """The window that a connection must keep to, and the limits of A and W."""
    low, high = binding_limit(claims, "solar_v_min"), binding_limit(claims, "solar_v_max")
    amps, watts = binding_limit(claims, "solar_a"), _value(claims, "solar_w")
    window = ""
    if low and high:
        window = f"{low.value:g}–{high.value:g} V"
    elif high:
        window = f"up to {high.shown}"
    parts = (f"{watts:g} W" if watts else "", window, amps.shown if amps else "")
    return " · ".join(part for part in parts if part)
