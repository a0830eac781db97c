"""A day of the simulated bench at 1 s: under a load, and at a charger."""

from rows import Row, at_most, median_ms, show

from yardtoll.bench.simulated.charging import ChargerModel
from yardtoll.bench.simulated.models import BenchModel, LoadModel, Simulation, station_model_for


def rows() -> list[Row]:
    """Both."""
    station = station_model_for(20_000, 2000, 1)
    loaded = BenchModel(seed=1, station=station, load=LoadModel(watts=400))
    charged = BenchModel(
        seed=1,
        station=station,
        load=LoadModel(watts=0),
        charger=ChargerModel(full_w=900),
        start_share=0.0,
    )
    return [
        at_most(f"simulate 24 h {name}", median_ms(lambda m=m: Simulation(m).advance(86_400)), 100,
                "ms", 0)
        for name, m in (("under a load", loaded), ("with a charger", charged))
    ]  # fmt: skip


if __name__ == "__main__":
    show(rows())
