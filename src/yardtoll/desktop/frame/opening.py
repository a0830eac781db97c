"""Yards as the window takes them up: read on a worker, or made anew."""

from dataclasses import replace
from pathlib import Path
from typing import Protocol

from yardtoll.desktop.workbench.jobs import CancelledError, JobHandle, Jobs
from yardtoll.desktop.workbench.preferences import Preferences
from yardtoll.store.site_time import system_zone_name
from yardtoll.store.yard_file import YardFile


class Taker(Protocol):
    """What can take a yard up."""

    jobs: Jobs

    def take(self, yard: YardFile, *, soon: bool = False) -> None: ...
    def say(self, text: str) -> None: ...


def open_soon(taker: Taker, path: Path) -> None:
    """Open a yard while the window goes on answering: one on a slow disk, or of an old version."""

    def work(handle: JobHandle) -> YardFile:
        yard = YardFile.open(path)
        if handle.cancelled.is_set():
            yard.close()
            raise CancelledError
        yard.read_ahead()
        return yard

    taker.jobs.start(
        f"Opening {path.name}",
        work,
        lambda yard: taker.take(yard, soon=True),
        lambda error: taker.say(str(error)),
    )


def made_yard(path: Path, prefers: Preferences) -> YardFile:
    """A new yard with a simulated bench ready to try.

    Raises:
        StoreError: it cannot be made there.
    """
    from yardtoll.demo.starter_bench import add_starter_bench

    yard = YardFile.create(path, path.stem, system_zone_name())
    yard.put(replace(yard.info(), rule=prefers.rule, repeatability=prefers.repeatability))
    add_starter_bench(yard)
    return yard
