"""The simulated rig for a yard's own station: made from its records, the same for the same."""

import zlib

import numpy as np

from yardtoll.bench.simulated.outlets import MODIFIED, SINE, OutletModel
from yardtoll.bench.simulated.overload import OverloadModel
from yardtoll.store.records import Station

_SMALL_W = 400.0


def rig_model_for(station: Station, nominal_v: float, nominal_hz: float) -> OutletModel:
    """A believable truth for a station's sockets.

    Small inverters are more often modified sines, and sag more (common practice, no source).

    Args:
        nominal_v, nominal_hz: as claimed, or as usual where the bench is.
    """
    random = np.random.default_rng(zlib.crc32(f"{station.name}/{station.rated_w:g}".encode()))
    small = station.rated_w < _SMALL_W
    modified = small and random.uniform() < 0.5
    return OutletModel(
        rated_w=station.rated_w,
        nominal_v=nominal_v,
        hertz=nominal_hz + float(random.normal(0, 0.03)),
        sag_ratio=float(random.uniform(0.02, 0.06) if small else random.uniform(0.004, 0.02)),
        shape=MODIFIED if modified else SINE,
        thd_idle=float(random.uniform(0.004, 0.012)),
        thd_full=float(random.uniform(0.015, 0.045)),
        duty=float(random.uniform(0.55, 0.8)),
        gap_ms=float(random.uniform(6, 18)),
        back_ms=float(random.uniform(1, 6)),
        bypass_w=0.9 * station.rated_w,
        charge_w=0.4 * station.rated_wh,
        overload=OverloadModel(
            for_ever=float(random.uniform(1.02, 1.12)),
            seconds_at_half_more=float(random.uniform(1, 20)),
            reset=str(random.choice(["off_on", "itself", "cooled"])),
        ),
    )
