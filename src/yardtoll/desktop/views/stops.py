"""The stops of the rail, in the order of the work: every folder beside this with a ``stop.py``."""

import importlib
from pathlib import Path

from yardtoll.desktop.views.stop import Stop


def _found() -> list[Stop]:
    folders = sorted(path.parent.name for path in Path(__file__).parent.glob("*/stop.py"))
    package = __name__.rpartition(".")[0]
    stops = [importlib.import_module(f"{package}.{folder}.stop").STOP for folder in folders]
    return sorted(stops, key=lambda stop: stop.order)


STOPS: dict[str, Stop] = {stop.key: stop for stop in _found()}
