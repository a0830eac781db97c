"""Ports as typed: each alone, then added one by one; what gave way, and whose limit it was."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import Claim
from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in
from yardtoll.core.output.ports import PortsResult, analyse_ports

FIELDS = (
    EntryField(key="port", title="Port", needed=True, hint="USB-C 1"),
    EntryField(key="watts_w", title="Power", unit="W", high=5000, decimals=1, needed=True),
    EntryField(key="together", title="Together, set", unit="", high=99, default=0.0, zero="alone"),
    EntryField(key="volts_v", title="Volts", unit="V", high=100, decimals=2),
    EntryField(key="sink_w", title="The load could take", unit="W", high=5000),
    EntryField(key="sink", title="Load", hint="tablet, another station", in_list=False),
    EntryField(key="plug_c", title="Plug", unit="°C", low=-50, high=300, in_list=False),
)
SINK_SHARE = 0.98
"""A load that could take less than this share of the claim was the limit itself."""
METER_SHARE = 0.01
"""U of a usual in-line USB meter, where nothing better is stated (common practice, no source)."""
_SHARED = {"usb_shared_w": "USB", "usb_a_shared_w": "USB-A", "usb_c_shared_w": "USB-C"}
_PORT_CLAIMS = {"usb_a_w": "USB-A", "usb_c_w": "USB-C", "car_out_w": "12 V", "dc_w": "DC"}


@dataclass(frozen=True, kw_only=True)
class PortFinding:
    """One claim of a port, or of ports together, and what was read for it.

    Attributes:
        kind: of the claim.
        sink_was_limit: the load could not have taken the claim: nothing is judged.
    """

    kind: str
    claimed_w: float
    measured_w: float
    port: str
    sink_was_limit: bool


@dataclass(frozen=True, kw_only=True)
class PortLines:
    """Everything that was typed, worked out.

    Attributes:
        result: alone and together.
        hottest_plug: (port, °C) of the hottest plug; None where none was read.
        volts: V of each port, the lowest read.
    """

    result: PortsResult
    findings: tuple[PortFinding, ...]
    hottest_plug: tuple[str, float] | None
    volts: Mapping[str, float]


def analyse_port_lines(lines: Sequence[Fields], claims: Sequence[Claim] = ()) -> PortLines:
    """Work the lines out.

    Args:
        lines: of :data:`FIELDS`; a line without a port or watts is left out; of two lines of one
            port in one set the later counts.
        claims: of the station.
    """
    good = [line for line in lines if word_in(line, "port") and _watts(line) is not None]
    alone: dict[str, float] = {}
    sets: dict[int, dict[str, float]] = {}
    volts: dict[str, float] = {}
    plugs: list[tuple[str, float]] = []
    for line in good:
        port, number = word_in(line, "port").strip(), int(number_in(line, "together") or 0)
        (sets.setdefault(number, {}) if number else alone)[port] = _watts(line) or 0.0
        if (read := number_in(line, "volts_v")) is not None:
            volts[port] = min(read, volts.get(port, read))
        if (heat := number_in(line, "plug_c")) is not None:
            plugs.append((port, heat))
    together = [sets[number] for number in sorted(sets)]
    return PortLines(
        result=analyse_ports(alone, together),
        findings=tuple(_findings(good, alone, together, claims)),
        hottest_plug=max(plugs, key=lambda found: found[1], default=None),
        volts=volts,
    )


def _watts(line: Fields) -> float | None:
    watts = number_in(line, "watts_w")
    return watts if watts is not None and watts >= 0 else None


def _findings(
    lines: Sequence[Fields],
    alone: Mapping[str, float],
    together: Sequence[Mapping[str, float]],
    claims: Sequence[Claim],
) -> list[PortFinding]:
    found = []
    for claim in claims:
        if claim.value is None:
            continue
        if claim.kind in _PORT_CLAIMS:
            ratings = {c.value for c in claims if c.kind == claim.kind}
            found += _of_port(claim, lines, rated_apart=len(ratings) > 1)
        elif claim.kind in _SHARED:
            found += _of_sum(claim, lines, alone, together)
    return found


def _of_port(claim: Claim, lines: Sequence[Fields], *, rated_apart: bool) -> list[PortFinding]:
    """The best that one such port gave.

    Where ports of one sort have ratings of their own, the port's name must tell which it is.
    """
    assert claim.value is not None
    prefix, rating = _PORT_CLAIMS[claim.kind], _bare(f"{claim.value:g} W")
    mine = [
        line
        for line in lines
        if _is_sort(word_in(line, "port"), prefix)
        and (not rated_apart or rating in _bare(word_in(line, "port")))
    ]
    if not mine:
        return []
    best = max(mine, key=lambda line: _watts(line) or 0.0)
    measured_w, sink_w = _watts(best) or 0.0, number_in(best, "sink_w")
    could = sink_w is not None and sink_w >= SINK_SHARE * claim.value
    return [
        PortFinding(
            kind=claim.kind,
            claimed_w=claim.value,
            measured_w=measured_w,
            port=word_in(best, "port").strip(),
            sink_was_limit=measured_w < claim.value and not could,
        )
    ]


def _of_sum(
    claim: Claim,
    lines: Sequence[Fields],
    alone: Mapping[str, float],
    together: Sequence[Mapping[str, float]],
) -> list[PortFinding]:
    """The highest sum at once; the loads together must have been able to take the claim."""
    assert claim.value is not None
    prefix = _SHARED[claim.kind]
    sets = [{p: w for p, w in ports.items() if _is_sort(p, prefix)} for ports in together]
    best = max(sets, key=lambda ports: sum(ports.values()), default={})
    total = sum(best.values())
    if total <= 0:
        return []
    asked = sum(max(_sink_w(port, lines), alone.get(port, 0.0)) for port in best)
    return [
        PortFinding(
            kind=claim.kind,
            claimed_w=claim.value,
            measured_w=total,
            port=f"{prefix} ports together",
            sink_was_limit=total < claim.value and asked < SINK_SHARE * claim.value,
        )
    ]


def _sink_w(port: str, lines: Sequence[Fields]) -> float:
    """The most that a load on a port is known to be able to take."""
    mine = (line for line in lines if word_in(line, "port").strip() == port)
    return max((number_in(line, "sink_w") or 0.0 for line in mine), default=0.0)


def _is_sort(port: str, prefix: str) -> bool:
    """Whether a port's name begins so, written "USB-C 1", "usb c1", "USBC"."""
    return _bare(port).startswith(_bare(prefix))


def _bare(text: str) -> str:
    return "".join(c for c in text.casefold() if c.isalnum())
