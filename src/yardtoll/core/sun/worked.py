"""How the figures of a solar run were worked out, with its own numbers put in."""

from yardtoll.core.formatting import format_span
from yardtoll.core.sun.solar_run import SUSTAINED_S, SolarRun
from yardtoll.core.uncertainty.budget import Worked


def harvested(run: SolarRun) -> Worked:
    """The energy of the samples."""
    return Worked(
        formula="E = Σ ½ (Pᵢ + Pᵢ₊₁) · (tᵢ₊₁ − tᵢ)",
        put_in=f"over {format_span(run.duration_s)}: {run.harvest_wh:.1f} Wh",
        source="trapezoidal rule",
    )


def peak(run: SolarRun) -> Worked:
    """The highest sample."""
    return Worked(formula="highest sample", put_in=f"{run.peak_w:.1f} W", source="definition")


def sustained(run: SolarRun) -> Worked | None:
    """The best mean over some minutes."""
    if run.sustained_w is None:
        return None
    return Worked(
        formula=f"largest mean of P over {format_span(SUSTAINED_S)}",
        put_in=f"{run.sustained_w:.1f} W",
        source="definition",
    )


def performance(run: SolarRun) -> Worked | None:
    """What came of what the sun allowed."""
    if run.performance is None or not run.expected_wh:
        return None
    light = "the irradiance measured beside it" if run.measured_sun else "the clear sky"
    return Worked(
        formula="harvested ÷ what the panels would have given, never above the station's cap",
        put_in=f"{run.harvest_wh:.1f} Wh ÷ {run.expected_wh:.1f} Wh = "
        f"{100 * run.performance:.1f} %",
        source=f"performance ratio as in IEC 61724-1 (from memory); the light is {light}",
    )


def of_nameplate(run: SolarRun) -> Worked | None:
    """What the panels gave of their label's watts, as the light was."""
    if run.nameplate_share is None:
        return None
    return Worked(
        formula="median of P ÷ (nameplate × light in W/m² ÷ 1000)",
        put_in="in good sun, where nothing but the panels limits: "
        f"{100 * run.nameplate_share:.1f} %",
        source="definition; a nameplate is the power at 1000 W/m²",
    )
