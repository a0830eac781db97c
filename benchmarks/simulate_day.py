"""24 h of the simulated bench at one sample a second."""

import time

from yardtoll.bench.simulated.models import BenchModel, LoadModel, Simulation, station_model_for


def main() -> None:
    model = BenchModel(
        seed=1, station=station_model_for(20_000, 2000, 1), load=LoadModel(watts=400)
    )
    took = []
    for _ in range(7):
        start = time.perf_counter()
        Simulation(model).advance(86_400)
        took.append(time.perf_counter() - start)
    print(f"24 h at 1 s: {1000 * min(took):.0f} ms (bar 200 ms)")


if __name__ == "__main__":
    main()
