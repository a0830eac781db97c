"""How the drift of many cycles was worked out, with its own numbers put in."""

from yardtoll.core.endurance.burn_in import Drift
from yardtoll.core.uncertainty.budget import Worked


def drift(found: Drift) -> Worked:
    """Along the line through what each cycle delivered."""
    last_wh = found.first_wh * (1 + found.share)
    return Worked(
        formula="(last − first) ÷ first, both on the line through what each cycle delivered over "
        "all that went out before it",
        put_in=f"{found.cycles} cycles, {found.over_kwh:.1f} kWh: ({last_wh:.1f} Wh − "
        f"{found.first_wh:.1f} Wh) ÷ {found.first_wh:.1f} Wh = {100 * found.share:.3f} %",
        source="least squares; ± from the scatter about the line (JCGM 100:2008, H.3)",
    )
