"""What many tests start from: the examples' folder, a small station, a meter for it."""

from pathlib import Path

from yardtoll.store.records import SIMULATED, Meter, Recording, Station

EXAMPLES = Path(__file__).parent.parent / "examples"
STATION = Station(id=1, name="Clover", rated_wh=1000, rated_w=800)
METER = Meter(
    id=1, name="M", profile="p", address=SIMULATED, reading_share=0.01, floor_w=0.5, max_w=1000
)


def recording(yard, run, *quantities):
    """A recording of the output that has these quantities; its id."""
    names = tuple(q.value for q in quantities)
    return yard.put(Recording(run_id=run.id, role="ac_output", quantities=names)).id
