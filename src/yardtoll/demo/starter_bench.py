"""What a new yard begins with: a simulated meter and one load, so that a first run can be tried."""

from yardtoll.core.planning.loads import LoadSetting
from yardtoll.store.records import SIMULATED, Load, Meter
from yardtoll.store.yard_file import YardFile


def add_starter_bench(yard: YardFile) -> None:
    """Put a simulated meter and a load into a new yard; both can be edited or removed."""
    yard.put(
        Meter(
            name="Simulated meter",
            profile="buffered_meter",
            address=SIMULATED,
            reading_share=0.01,
            floor_w=0.5,
            max_w=1800,
            max_a=15,
        )
    )
    yard.put(
        Load(
            name="Heater",
            settings=(
                LoadSetting(name="low", watts=400.0),
                LoadSetting(name="high", watts=800.0),
            ),
            cold_share=0.1,
        )
    )
