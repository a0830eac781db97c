"""The site and its arrays as the core reasons about them."""

from collections.abc import Sequence

from yardtoll.core.sun.panels import CLOSE_TO_GROUND, OPEN_RACK, SunArray
from yardtoll.core.sun.sky import Obstacle, SunSite
from yardtoll.store.records import Site, SolarArray

_USUAL_C = 20.0

Parts = list[tuple[SunSite, SunArray]]


def parts_of(site: Site, arrays: Sequence[SolarArray], cap_w: float | None = None) -> Parts:
    """Arrays as the core reasons about them; empty where the site has no place.

    Args:
        cap_w: what the station takes at most; held by the first.
    """
    if site.latitude is None or site.longitude is None:
        return []
    obstacles: tuple[Obstacle, ...] = ()
    if site.obstacle_height_deg > 0:
        obstacles = (
            Obstacle(
                from_deg=site.obstacle_from_deg,
                to_deg=site.obstacle_to_deg,
                height_deg=site.obstacle_height_deg,
            ),
        )
    return [
        (
            SunSite(
                latitude=site.latitude,
                longitude=site.longitude,
                tilt=array.tilt_deg,
                azimuth=array.azimuth_deg,
                altitude_m=site.altitude_m,
                horizon_deg=site.horizon_deg,
                obstacles=obstacles,
            ),
            sun_array(array, site, cap_w),
        )
        for array in arrays
    ]


def sun_array(array: SolarArray, site: Site, cap_w: float | None = None) -> SunArray:
    """One array's making of the light."""
    return SunArray(
        power_stc_w=array.power_stc_w,
        cap_w=cap_w,
        gamma=array.gamma,
        wiring_loss=array.wiring_loss,
        ambient_c=_USUAL_C if site.temperature_c is None else site.temperature_c,
        mount=CLOSE_TO_GROUND if array.on_ground else OPEN_RACK,
    )
