"""Ten million samples in the power chart: frames a second while it is zoomed and panned."""

import os
import statistics
import time
from pathlib import Path

os.environ.setdefault(
    "QT_QPA_PLATFORM",
    f"offscreen:configfile={Path(__file__).parents[1] / 'tools' / 'offscreen.json'}",
)

import numpy as np
from rows import Row, at_least, show

COUNT = 10_000_000
FRAMES = 40


def frames_a_second(count: int = COUNT) -> dict[str, float]:
    """Zooming and panning of a noisy trace at 1280 × 800, in frames/s, and the set-up in s."""
    from yardtoll.core.electrical.energy_kind import EnergyKind
    from yardtoll.desktop.app import make_app
    from yardtoll.desktop.widgets.power_chart import PowerChart
    from yardtoll.report.charts.curve import Curve

    make_app()
    time_s = np.arange(count) * 0.1
    power_w = np.random.default_rng(1).normal(400, 5, count)
    curve = Curve(key="c", title="c", kind=EnergyKind.DELIVERED, time_s=time_s, power_w=power_w)
    start = time.perf_counter()
    _ = curve.pyramid
    built_s = time.perf_counter() - start
    chart = PowerChart("c")
    chart.resize(1280, 800)
    chart.show()
    chart.show_curve(curve)
    chart.grab()
    whole = time_s[-1]
    spans = {
        "zoom": [
            (whole * 0.3 * (1 - 0.9**n), whole * (1 - 0.6 * (1 - 0.9**n))) for n in range(FRAMES)
        ],
        "pan": [(whole * n / 100, whole * (n / 100 + 0.4)) for n in range(FRAMES)],
    }
    found = {"levels": built_s}
    for name, parts in spans.items():
        took = []
        for low, high in parts:
            start = time.perf_counter()
            chart.plot.setXRange(low, high, padding=0)
            chart.grab()
            took.append(time.perf_counter() - start)
        found[name] = 1 / statistics.median(took)
    return found


def rows() -> list[Row]:
    """Frames a second; the levels are made on a worker."""
    found = frames_a_second()
    return [
        at_least("10 M-point chart, zoom", found["zoom"], 60, "frames/s"),
        at_least("10 M-point chart, pan", found["pan"], 60, "frames/s"),
        Row("its levels, made once on a worker", f"{found['levels']:.2f} s", "–"),
    ]


if __name__ == "__main__":
    show(rows())
