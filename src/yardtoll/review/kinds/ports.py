"""USB and 12 V ports as a kind of run: each alone, all together, and who gives way."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardtoll.core.claims.kinds import CLAIM_KINDS, Claim
from yardtoll.core.conformance.findings import Finding
from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.methods import Outlet
from yardtoll.core.output import worked
from yardtoll.core.output.port_lines import FIELDS, PortFinding, PortLines, analyse_port_lines
from yardtoll.core.uncertainty.budget import Budget
from yardtoll.core.uncertainty.energy_budget import DC, power_budget
from yardtoll.core.uncertainty.figure import Figure
from yardtoll.report.charts.outputs import ports_scene
from yardtoll.report.charts.palette import Palette
from yardtoll.report.charts.scene import Scene
from yardtoll.review.budgets import of_station
from yardtoll.review.kinds.tables import TableKind, lines_of
from yardtoll.review.outcome import Outcome
from yardtoll.review.run_analysis import RunAnalysis
from yardtoll.review.station.outlet_runs import REGULATED_SHARE, is_whole
from yardtoll.review.station.runs import StationRuns

_HOT_C = 60.0
"""A plug that is too hot to hold (common practice, no source)."""
_SHARED_ONES = ("usb_shared_w", "usb_a_shared_w", "usb_c_shared_w")
NO_PORT_METER = "The meter at the ports is not stated: choose it under Outputs, Instrument."


@dataclass(frozen=True, kw_only=True)
class PortsOutcome(Outcome):
    """What the ports gave."""

    ports: PortLines


class Ports(TableKind):
    """Watts of ports alone and together."""

    order = 56
    fields = FIELDS

    def analyse(self, run: RunAnalysis) -> PortsOutcome:
        """Alone, together, and against the claims."""
        try:
            found = analyse_port_lines(lines_of(run, "no port read"), run.records.claims)
        except ValueOutOfRangeError as error:
            raise UnusableDataError(str(error)) from None
        total = found.result.total_w
        if total is None:
            raise UnusableDataError("no line has a port and its watts")
        figures = [
            Figure(
                key="ports_w", title="Most at once", value=total, unit="W",
                budget=_budget(total, run), note=f" of {len(found.result.alone)} ports",
                worked=worked.together(found.result),
            )
        ]  # fmt: skip
        figures += [
            Figure(
                key=f"port_w_{name}",
                title=name,
                value=watts,
                unit="W",
                budget=_budget(watts, run),
                worked=worked.alone(name, watts),
            )
            for name, watts in found.result.alone.items()
        ]
        return PortsOutcome(ports=found, figures=tuple(figures))

    def headline(self, run: RunAnalysis) -> str:
        """Like "195 W from all ports together: USB-C 1 gives way, 100 to 60 W"."""
        result = _found(run).result
        together = [s for s in result.together if len(s.ports) > 1]
        if not together:
            return f"{len(result.alone)} ports alone; not loaded together yet"
        said = f"{max(s.total_w for s in together):.0f} W from the ports together"
        if result.yields:
            worst = min(result.yields, key=lambda y: y.share)
            said += f": {worst.port} gives way, {worst.alone_w:.0f} to {worst.together_w:.0f} W"
        else:
            said += ": none gives way"
        return said

    def output_words(self, run: RunAnalysis) -> Iterator[str]:
        """Alone, who gives way, limits of the loads, volts, hot plugs."""
        found = _found(run)
        alone = [f"{name} {watts:.0f} W" for name, watts in found.result.alone.items()]
        if alone:
            yield f"Alone: {', '.join(alone)}."
        for group in found.result.together:
            if len(group.ports) > 1:
                parts = ", ".join(f"{name} {watts:.0f}" for name, watts in group.ports.items())
                yield f"Together {group.total_w:.0f} W: {parts} W."
        for gives in found.result.yields:
            yield (
                f"Beside others {gives.port} gives {gives.together_w:.0f} W of its "
                f"{gives.alone_w:.0f} W ({100 * gives.share:.0f} %)."
            )
        for finding in found.findings:
            if finding.sink_was_limit:
                yield _sink_words(finding)
        if found.volts:
            low = min(found.volts.items(), key=lambda item: item[1])
            parts = ", ".join(f"{name} {volts:.2f} V" for name, volts in found.volts.items())
            yield f"Under load: {parts}." if len(found.volts) > 1 else f"{low[0]}: {low[1]:.2f} V."
        if found.hottest_plug is not None:
            port, heat = found.hottest_plug
            hot = ": too hot to hold" if heat >= _HOT_C else ""
            yield f"The hottest plug was at {port}, {heat:.0f} °C{hot}."

    def beside_words(self, station: StationRuns) -> Iterator[str]:
        """Volts of a DC port from full to empty, from any discharge through one."""
        for other in station.analyses:
            out = other.energy_out
            if out is None or other.method.outlet is not Outlet.DC or other.is_void:
                continue
            mean_v, low_v = out.result.volts_mean, out.result.volts_min
            if not mean_v or low_v is None:
                continue
            fall = 1 - low_v / mean_v
            span = "from full to empty" if is_whole(other) else "as far as it went"
            held = "held" if fall <= REGULATED_SHARE else "not held"
            yield (
                f"Run {other.run.number} through DC: {mean_v:.2f} V in the mean, lowest "
                f"{low_v:.2f} V {span}: {held} within ±{100 * REGULATED_SHARE:.0f} %."
            )

    def scenes(self, run: RunAnalysis, size: tuple[float, float], palette: Palette) -> list[Scene]:
        """Bars alone and together."""
        return [ports_scene(_found(run), *size, palette)]

    def findings(
        self, run: RunAnalysis, station: StationRuns, claims: Sequence[Claim]
    ) -> Iterator[Finding]:
        """Watts of a port, or of ports together, where the load was not the limit."""
        for found in _found(run).findings:
            could = CLAIM_KINDS[found.kind].title
            yield Finding(
                kind=found.kind,
                value=found.measured_w,
                budget=of_station(found.measured_w, _budget(found.measured_w, run), run),
                unknown=NO_PORT_METER,
                runs=(run.run.number,),
                method=run.run.method,
                for_value=found.claimed_w,
                lower_bound=found.sink_was_limit,
                why_bound=f"{could}: the load was the limit; use one that can take "
                f"{found.claimed_w:g} W."
                if found.sink_was_limit
                else "",
                seen=f"at {found.port}",
            )


def _found(run: RunAnalysis) -> PortLines:
    assert isinstance(run.outcome, PortsOutcome)
    return run.outcome.ports


def _budget(watts: float, run: RunAnalysis) -> Budget | None:
    """By the accuracy of the meter at the ports, its DC range."""
    if run.meter is None:
        return None
    return power_budget(watts, run.meter.accuracy, str(run.meter.id), range_=DC, level="port")


def _sink_words(finding: PortFinding) -> str:
    return (
        f"{finding.port}: {finding.measured_w:.0f} W of {finding.claimed_w:g} W claimed, but the "
        "load was not known to be able to take more: the load was the limit, not the station."
    )


KIND = Ports()
