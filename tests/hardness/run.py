"""Every attack for as long as is asked, and the table of what came of it.

Usage: python -m tests.hardness.run [--minutes N] [--jobs N] [--seed N] [--only WORD]
       [--sums FILE] [--write]
With --write the table in docs/reliability.md is replaced by the one made now.
"""

import argparse
import itertools
import json
import os
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from dataclasses import asdict
from datetime import UTC, datetime
from multiprocessing import get_context
from pathlib import Path

from tests.hardness import full_disk, fuzz, kills, stops
from tests.hardness.kills import Outcome

from yardtoll.whole_files import write_whole

_STANDSTILL_MS = 1000
"""A window that stands still for so long counts as hung."""
ROOT = Path(__file__).parents[2]
DOC = ROOT / "docs" / "reliability.md"
HERE = Path(__file__).parent
GUIDE = ROOT / "build" / "hardness"
"""Where script/hardness puts Atheris, which only this needs, and what it learned."""
Attack = tuple[str, Callable[[int], Outcome | None], int]
"""Name, what is done for a seed, and how often it is done in one round of it."""


def attacks() -> Iterator[Attack]:
    """One round of each takes some seconds to a minute."""
    for kind in kills.KINDS:
        times = 3 if kind in ("export", "pdf") else 10 if kind == "import" else 40
        yield f"kill -9: {kind}", lambda s, k=kind, n=times: kills.kill_many(k, n, s), times
    for kind in full_disk.KINDS:
        yield f"disk full: {kind}", lambda s, k=kind: full_disk.fill_many(k, 10, s), 10
    for name, reader in fuzz.READERS.items():
        times = reader.times
        yield f"damaged: {name}", lambda s, r=name, n=times: fuzz.fuzz(r, n, s), times
    for name in fuzz.READERS if GUIDE.exists() else ():
        times = fuzz.READERS[name].times
        yield f"led by coverage: {name}", lambda s, r=name, n=times: guided(r, n, s), times
    yield "damaged: data package", lambda s: fuzz.fuzz_packages(150, s), 150
    yield "stopped (SIGSTOP) while recording", stopped, 3
    yield "clock set 1 h on, 1 h back, end of summer time", clock, 3
    yield "walk of the window, two live runs", walk, 1000
    yield "hostile meter beside the window", heartbeat, 1


def guided(reader: str, times: int, seed: int) -> Outcome:
    """Inputs made from those that reached new lines of the reader."""
    corpus = GUIDE / "corpus" / re.sub(r"\W+", "-", reader)
    corpus.mkdir(parents=True, exist_ok=True)
    said = program(["guided.py", reader, str(corpus), str(times), str(seed)])
    done = re.search(r"Done (\d+) runs", said)
    return Outcome(int(done[1]), 0) if done else Outcome(times, 1, (said[-500:],))


def stopped(seed: int) -> Outcome:
    """`yardtoll record` stopped for some seconds: the gap is as long, nothing else is missing."""
    outcome = Outcome()
    for away_s in (3 + seed % 3, 8, 60):
        outcome.add(stops.stopped_for(away_s))
    return outcome


def clock(_: int) -> Outcome:
    """`yardtoll record` while the clock is set: no sample moves."""
    outcome = Outcome()
    for shift_s in (3600.0, -3600.0):
        outcome.add(stops.clock_set_by(shift_s))
    outcome.add(stops.clocks_go_back())
    return outcome


def walk(seed: int) -> Outcome:
    """A thousand station and view changes under two live runs."""
    command = ["soak_window.py", "--seed", str(seed), "--changes", "1000", "--warm", "400"]
    said = program([*command, "--live", "2"])
    found = re.search(r"warm (\d+) MB  end (\d+) MB", said)
    grown = found and int(found[2]) > 1.05 * int(found[1])
    wrong = "" if found and not grown else said[-300:]
    return Outcome(1000, int(bool(wrong)), (wrong,) if wrong else ())


def heartbeat(seed: int) -> Outcome:
    """All bad ways of a meter, the window answering all the time."""
    said = program(["heartbeat_window.py", "--seconds", str(0.5 + seed % 3 / 2)])
    found = re.search(r"longest (\d+) ms .*wrong 0", said)
    wrong = "" if found and int(found[1]) < _STANDSTILL_MS else said[-300:]
    return Outcome(1, int(bool(wrong)), (wrong,) if wrong else ())


def program(command: list[str]) -> str:
    """What a program of this folder prints, run in a process of its own."""
    name, *options = command
    with tempfile.TemporaryDirectory(prefix="yardtoll-hardness-") as folder:
        ran = subprocess.run(
            [sys.executable, "-X", "faulthandler", str(HERE / name), folder, *options],
            capture_output=True,
            text=True,
            check=False,
            timeout=1800,
            env={**os.environ, "PYTHONPATH": os.pathsep.join((str(ROOT), str(GUIDE)))},
        )
        return ran.stdout + ran.stderr


def perform(name: str, seed: int) -> tuple[str, Outcome | None]:
    """One round of an attack; in a process of its own."""
    work = next(work for known, work, _ in attacks() if known == name)
    return name, work(seed)


def main() -> None:
    """Go round and round until the time is over."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--minutes", type=float, default=5.0)
    asked.add_argument("--jobs", type=int, default=2)
    asked.add_argument("--seed", type=int, default=int(time.time()))
    asked.add_argument("--only", default="", help="attacks whose name holds this word")
    asked.add_argument("--sums", type=Path, help="JSON file of earlier runs, added to")
    asked.add_argument("--write", action="store_true")
    given = asked.parse_args()
    names = [name for name, _, _ in attacks() if given.only in name]
    sums = _earlier(given.sums)
    until_s = time.monotonic() + 60 * given.minutes
    rounds = itertools.count()
    with ProcessPoolExecutor(given.jobs, mp_context=get_context("spawn")) as pool:
        waiting: set[Future[tuple[str, Outcome | None]]] = set()
        turns = ((name, given.seed + turn) for turn in rounds for name in names)
        left = len(names)
        while waiting or left > 0:
            while len(waiting) < given.jobs and (left > 0 or time.monotonic() < until_s):
                waiting.add(pool.submit(perform, *next(turns)))
                left -= 1
            done, waiting = wait(waiting, return_when=FIRST_COMPLETED)
            for future in done:
                name, outcome = future.result()
                _add(sums, name, outcome)
                print(f"{name}: {sums[name]}", flush=True)
    if given.sums:
        kept = {name: outcome and asdict(outcome) for name, outcome in sums.items()}
        write_whole(given.sums, json.dumps(kept, indent=1))
    known = [name for name, _, _ in attacks() if name in sums]
    table = _table({name: sums[name] for name in known}, given.seed)
    print(f"\n{table}")
    if given.write:
        text = DOC.read_text("utf-8")
        begin, end = "<!-- table -->\n", "<!-- end of table -->"
        before, _, rest = text.partition(begin)
        DOC.write_text(f"{before}{begin}{table}\n{end}{rest.partition(end)[2]}", "utf-8")
    if any(outcome and outcome.lost for outcome in sums.values()):
        raise SystemExit(1)


def _earlier(path: Path | None) -> dict[str, Outcome | None]:
    if path is None or not path.exists():
        return {}
    stored = json.loads(path.read_text("utf-8"))
    return {name: outcome and Outcome(**outcome) for name, outcome in stored.items()}


def _add(sums: dict[str, Outcome | None], name: str, outcome: Outcome | None) -> None:
    before = sums.get(name)
    if outcome is None or before is None:  # not possible here, or the first
        sums[name] = outcome
        return
    before.tried += outcome.tried
    before.lost += outcome.lost
    before.said = (*before.said, *outcome.said)[:10]


def _table(sums: dict[str, Outcome | None], seed: int) -> str:
    lines = ["| attack | tried | held | lost |", "|---|---|---|---|"]
    for name, outcome in sums.items():
        if outcome is None:
            lines.append(f"| {name} | not possible here | | |")
        else:
            held = outcome.tried - outcome.lost
            lines.append(f"| {name} | {outcome.tried:,} | {held:,} | {outcome.lost} |")
    day = datetime.now(UTC).date()
    return "\n".join([*lines, "", f"{day}, last seed {seed}, Python {sys.version.split()[0]}."])


if __name__ == "__main__":
    main()
