"""Each seam takes something new by one file being added: in a copy of the program, which then runs.

The files added here are those that ``docs/architecture.md`` tells a newcomer to write.
"""

import os
import shutil
import subprocess
import sys
from pathlib import Path
from textwrap import dedent

import pytest

SOURCE = Path(__file__).parents[1] / "src"


@pytest.fixture
def tree(tmp_path):
    """A copy of the program."""
    ignored = shutil.ignore_patterns("__pycache__")
    shutil.copytree(SOURCE / "yardtoll", tmp_path / "src" / "yardtoll", ignore=ignored)
    return tmp_path


def add(tree, name, text):
    """A new file of the program; there must not be one yet."""
    path = tree / "src" / "yardtoll" / name
    path.parent.mkdir(exist_ok=True)
    assert not path.exists()
    path.write_text(dedent(text), "utf-8")


def said_by(tree, script):
    """What a script prints that runs in the copy."""
    (tree / "script.py").write_text(dedent(script), "utf-8")
    environment = {**os.environ, "PYTHONPATH": str(tree / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    done = subprocess.run(  # noqa: PLW1510 - its error is shown below
        [sys.executable, "script.py"], cwd=tree, env=environment, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr
    return done.stdout


METHOD = """
    from yardtoll.core.electrical.energy_kind import EnergyKind
    from yardtoll.core.electrical.roles import Role
    from yardtoll.core.methods.method import Ending, Flow, Method, Size

    METHOD = Method(
        key="shake", order=500, title="Shake test", aim="How far it moves.", flow=Flow.OUT,
        ending=Ending.BY_HAND, steps=("Shake it.",), cautions=(), ends_when="it has been shaken",
        sizes=(Size(key="once", title="once", asks_w=True),),
        sources=("common practice, no source",), role=Role.AC_OUTPUT, energy=EnergyKind.DELIVERED,
    )
    """
KIND = """
    from yardtoll.core.uncertainty.figure import Figure
    from yardtoll.review.kinds.kind import RunKind
    from yardtoll.review.outcome import Outcome
    from yardtoll.store.records import ReadingKind


    class Shake(RunKind):
        order = 1

        def serves(self, method):
            return method.key == "shake"

        def analyse(self, run):
            moved = max(r.value for r in run.records.readings_of(ReadingKind.SOC))
            return Outcome(figures=(Figure(key="moved_mm", title="Moved", value=moved, unit="mm"),))


    KIND = Shake()
    """


def test_a_method(tree):
    """It can be planned, recorded from a shell, and is analysed by the kind that serves it."""
    add(tree, "core/methods/shake.py", METHOD)
    said = said_by(tree, """
        from yardtoll.core.methods import METHODS
        from yardtoll.review.kinds import kind_of
        print(list(METHODS)[-1], METHODS["shake"].title, type(kind_of("shake")).__name__)
        """)  # fmt: skip
    assert said == "shake Shake test Discharge\n"


def test_a_kind_of_run(tree):
    """Its figure is in the run's page, its caption, the ledger of a window, and the results."""
    add(tree, "core/methods/shake.py", METHOD)
    add(tree, "review/kinds/shake.py", KIND)
    said = said_by(tree, """
        from pathlib import Path
        from yardtoll.review.analysis import analyses_of
        from yardtoll.review.pages import run_caption, run_page
        from yardtoll.review.results import write_results
        from yardtoll.review.station.runs import station_runs
        from yardtoll.store.records import Reading, Run, Station
        from yardtoll.store.yard_file import YardFile

        with YardFile.create(Path("a.yard"), "A") as yard:
            station = yard.put(Station(name="Clover", rated_wh=1000, rated_w=800))
            run = yard.put(Run(station_id=station.id, number=1, method="shake", state="finished",
                               origin="typed", started_at="2026-01-01T00:00:00+00:00"))
            yard.put(Reading(run_id=run.id, time_s=1, kind="soc", value=42))
            analyses = analyses_of(yard, station)
            print(run_caption(analyses[0]))
            print(run_page(analyses[0], station_runs(analyses), []).headline)
            write_results(yard, Path("."))
        print("moved_mm" in Path("results.json").read_text("utf-8"))

        from yardtoll.desktop.app import make_app
        from yardtoll.desktop.frame.main_window import MainWindow
        from yardtoll.desktop.workbench.settings import UserSettings
        app = make_app()
        window = MainWindow(UserSettings(Path("s.ini")))
        window.open_yard(Path("a.yard"))
        window.open_run(1)
        window.show()
        bench = window.bench
        from yardtoll.desktop.turns import Turns
        def is_busy():
            waiting = not bench.analyses.settled or bench.jobs.busy
            return waiting or any(t.is_under_way for t in window.findChildren(Turns))
        while is_busy():
            app.processEvents()
        from PySide6.QtWidgets import QLabel
        texts = {w.text() for w in window.stack.current_view().findChildren(QLabel)}
        print("Moved: 42.0 mm" in texts or any("Moved" in text for text in texts))
        window.close()
        """)  # fmt: skip
    assert said.splitlines() == ["Run 1 · 42 mm", "Moved: 42.0 mm", "True", "True"]


def test_an_instrument_of_a_new_protocol(tree):
    """Its profile is offered, and a run is recorded with it to its end."""
    add(tree, "bench/drivers/counting.py", """
        import numpy as np
        from pydantic import BaseModel
        from yardtoll.bench.instrument import Driver
        from yardtoll.bench.samples import SampleBlock
        from yardtoll.core.electrical.quantities import Quantity


        class Commands(BaseModel):
            watts: float


        class Counting:
            keeps_time = True
            interval_s = 0.05

            def __init__(self, address, commands):
                self.watts, self.at = commands.watts, 0

            def open(self, *, prepare=True):
                return "a counting meter"

            def read_new(self):
                time_s = np.arange(self.at, self.at + 600.0)
                self.at += 600
                on = time_s < 3600
                return SampleBlock(time_s=time_s, columns={
                    Quantity.POWER: np.where(on, self.watts, 0.0),
                    Quantity.VOLTS: np.where(on, 120.0, 0.0),
                })

            def close(self):
                pass


        DRIVER = Driver(protocol="counting", title="Counting", commands=Commands, connect=Counting,
                        address_example="n/a", address_problem=lambda address: "")
        """)  # fmt: skip
    add(tree, "bench/profiles/counter.toml", """
        name = "Counter"
        protocol = "counting"
        watts = 150
        """)  # fmt: skip
    said = said_by(tree, """
        from pathlib import Path
        from yardtoll.store.records import Meter, Station
        from yardtoll.store.yard_file import YardFile
        from yardtoll.bench.profiles.files import known_profiles

        print(known_profiles()[0]["counter"].name)
        with YardFile.create(Path("a.yard"), "A") as yard:
            yard.put(Station(name="Clover", rated_wh=200, rated_w=300))
            yard.put(Meter(name="C", profile="counter", address="here", reading_share=0.01,
                           floor_w=0.5))
        from yardtoll.cli import main
        main(["record", "a.yard", "--station", "Clover", "--method", "capacity_ac", "--watts",
              "150"])
        """)  # fmt: skip
    assert said.splitlines()[0] == "Counter"
    assert said.splitlines()[1].startswith("run 1 of Clover: Delivered 150.0 ± ")
    assert "the outlet switched off" in said


def test_a_stop(tree):
    """It is on the rail in its place, has its key, and its view is built when it is seen."""
    add(tree, "desktop/views/attic/__init__.py", '"""Attic."""\n')
    add(tree, "desktop/views/attic/stop.py", """
        from yardtoll.desktop.views.stop import Stop
        from yardtoll.desktop.views.stop_view import StopView


        class Attic(StopView):
            pass


        STOP = Stop(key="attic", title="Attic", order=35, build=lambda host, bench: Attic(bench))
        """)  # fmt: skip
    said = said_by(tree, """
        from pathlib import Path
        from yardtoll.desktop.app import make_app
        from yardtoll.desktop.frame.main_window import MainWindow
        from yardtoll.desktop.views.stops import STOPS
        from yardtoll.desktop.workbench.settings import UserSettings
        app = make_app()
        window = MainWindow(UserSettings(Path("s.ini")))
        window.new_yard(Path("a.yard"))
        print(list(STOPS)[2:5], window.actions_by_name["Go to Attic"].shortcut().toString())
        window.actions_by_name["Go to Attic"].trigger()
        while window.visits.is_under_way:
            app.processEvents()
        print(type(window.stack.current_view()).__name__, window.rail.current)
        window.close()
        """)  # fmt: skip
    assert said.splitlines() == ["['plan', 'attic', 'run'] Alt+4", "Attic attic"]
