"""Sixty loads of five settings mixed for several targets, each with its proof."""

import random
import time

from yardtoll.core.planning.loads import KINDS, LoadSetting, LoadSpec, MixLimits
from yardtoll.core.planning.mixing import mix_loads
from yardtoll.core.planning.wiring import Circuit


def main() -> None:
    draw = random.Random(3)
    loads = [
        LoadSpec(
            name=f"Load {i}",
            kind=draw.choice(KINDS),
            count=draw.randint(1, 4),
            settings=tuple(
                LoadSetting(name=str(j), watts=round(draw.uniform(20, 1500), 1)) for j in range(5)
            ),
            inrush=draw.choice([1.0, 1.0, 3.0]),
        )
        for i in range(60)
    ]
    circuit = Circuit(breaker_a=30, volts=120)
    limits = MixLimits(inverter_w=3600, circuit=circuit, surge_w=9000, hours=4)
    mix_loads(100, loads, limits)  # the solver is imported by the first question
    for target_w in (37.0, 410.0, 1234.5, 2000.0, 3333.3):
        start = time.perf_counter()
        result = mix_loads(target_w, loads, limits)
        took_s = time.perf_counter() - start
        proof = "proven" if result.optimal else "not proven"
        print(
            f"{target_w:7.1f} W: {took_s:.2f} s, {result.best[0].off_w:+.1f} W, {proof} (bar 2 s)"
        )


if __name__ == "__main__":
    main()
