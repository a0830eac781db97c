"""Play the demo in a real window and leave a picture: tools/play_demo.py FILE [SECONDS]."""

import sys

from stage import close_stage, open_stage, spin, start_run

SPEED = 600.0
SECONDS = 8.0


def main() -> None:
    seconds = float(sys.argv[2]) if len(sys.argv) > 2 else SECONDS
    window = open_stage()
    start_run(window, station_id=1, speed=SPEED)
    spin(round(seconds * 500))
    bench = window.bench
    assert bench is not None
    assert bench.live is not None
    bench.live.mark("Fan on")
    spin(round(seconds * 500))
    window.grab().save(sys.argv[1])
    live = bench.live
    print(
        f"The demo plays: {live.station.name} has delivered {live.delivered_wh:.0f} Wh "
        f"in {live.elapsed_s() / 3600:.2f} h of bench time."
    )
    close_stage(window)


if __name__ == "__main__":
    main()
