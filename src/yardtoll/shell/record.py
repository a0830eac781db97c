"""`yardtoll record`: a run recorded without the window, to its end, to be resumed if it breaks."""

import queue
import signal
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import capitalised, format_clock, format_span, quoted
from yardtoll.shell.options import cannot

if TYPE_CHECKING:
    from yardtoll.core.electrical.roles import Role
    from yardtoll.core.planning.expected import EarlierRun
    from yardtoll.core.planning.loads import MixPart
    from yardtoll.running.plan import RunPlan
    from yardtoll.running.session import RunSession
    from yardtoll.store.records import Meter, Run, Station
    from yardtoll.store.yard_file import YardFile

_LOOK_EVERY_S = 0.2
_LINE_EVERY_S = 60.0
"""On a terminal one line is written over; elsewhere a line a minute is enough."""


def record(
    yard: Annotated[Path, typer.Argument(metavar="FILE.yard", help="The yard.")],
    station: Annotated[str, typer.Option("--station", help="The station's name.")],
    method: Annotated[
        str | None, typer.Option("--method", help="What is done: capacity_ac, recharge_wall, …")
    ] = None,
    meter: Annotated[
        str | None, typer.Option("--meter", help="The meter's name, where the yard has several.")
    ] = None,
    also: Annotated[
        list[str] | None,
        typer.Option(
            "--also", metavar="METER=ROLE", help="A further meter, and its role (repeatable)."
        ),
    ] = None,
    load: Annotated[
        str | None, typer.Option("--load", metavar="NAME[, SETTING]", help="A load of the yard.")
    ] = None,
    watts: Annotated[
        float | None, typer.Option("--watts", help="W of the load or charger, if no --load.")
    ] = None,
    size: Annotated[
        str | None, typer.Option("--size", help="The method's load level or duration.")
    ] = None,
    speed: Annotated[
        float, typer.Option("--speed", help="Bench seconds a second, on the simulated bench.")
    ] = 1.0,
    resume: Annotated[
        bool, typer.Option("--resume", help="Go on with the station's run that was left.")
    ] = False,
) -> None:
    """Record a run until the station shuts off or is full, or Ctrl-C finishes it.

    If the program is killed, or its terminal closes, what was recorded is kept; --resume goes on.
    Wiring and settings are not checked here: a plan in the window does that.
    """
    if resume == (method is not None):
        raise typer.BadParameter("give either --method, or --resume for a run that was left")
    if not speed > 0:
        raise typer.BadParameter("--speed must be above 0")
    from yardtoll.store.yard_file import YardFile

    with YardFile.open(yard) as opened:
        tested = opened.station_named(station)
        left = [run for run in opened.unfinished_runs() if run.station_id == tested.id]
        if resume and not left:
            raise UnusableDataError(f"no run of {tested.name} was left to be resumed")
        if left and not resume:
            raise UnusableDataError(
                f"run {left[-1].number} of {tested.name} was left unfinished; --resume continues "
                "it, the window can close it as it is"
            )
        plan = None
        if method is not None:
            plan = _plan(opened, tested, method, meter, also or [], load, watts, size)
        # Analysed before the run begins: its clock must not wait for the runs before it.
        earlier = _earlier(opened, tested)
        run = _begin(opened, plan) if plan is not None else left[-1]
        _Recording(opened, run, speed, earlier).go(resumed=resume)


def _plan(
    yard: "YardFile",
    station: "Station",
    method: str,
    meter: str | None,
    also: list[str],
    load: str | None,
    watts: float | None,
    size: str | None,
) -> "RunPlan":
    """What the options ask for.

    Raises:
        typer.BadParameter: an option names something that the program does not know.
        UnusableDataError: the yard does not hold it, or it cannot be recorded.
    """
    from yardtoll.core.methods import WITH_POWER
    from yardtoll.core.planning.loads import MixPart
    from yardtoll.running.plan import RunPlan

    if method not in WITH_POWER:
        raise typer.BadParameter(f"{quoted(method)} is not one of {', '.join(WITH_POWER)}")
    about = WITH_POWER[method]
    sizes = {each.key: each for each in about.sizes}
    if size is not None and size not in sizes:
        raise typer.BadParameter(f"{quoted(size)} is not one of {', '.join(sizes)}")
    given_w = (each for each in about.sizes if each.asks_w and (load or watts))
    chosen = sizes[size] if size is not None else next(given_w, about.sizes[0])
    main = _meter(yard, meter)
    parts: tuple[MixPart, ...] = ()
    if load is not None:
        parts = (_load_part(yard, load),)
    elif watts is not None and about.delivers:
        parts = (MixPart(name="Load", setting="", count=1, watts=watts),)
    if about.delivers and not parts:
        raise typer.BadParameter(f"{about.title} needs --load or --watts")
    return RunPlan(
        station=station,
        meter=main,
        method=method,
        size=chosen.key,
        parts=parts,
        target_w=watts or chosen.target_w(station.rated_wh, station.rated_w),
        soc=about.soc,
        also=tuple(_further_meter(yard, each, main) for each in also),
    )


def _meter(yard: "YardFile", name: str | None) -> "Meter":
    """The yard's meter of that name, or its only one.

    Raises:
        UnusableDataError: there is none, several, or it is read by eye.
    """
    meters = yard.meters()
    if name is not None:
        found = [meter for meter in meters if meter.name.casefold() == name.strip().casefold()]
    else:
        found = [meter for meter in meters if not meter.is_read_by_eye]
    known = ", ".join(meter.name for meter in meters) or "none yet"
    if not found and name is not None:
        raise UnusableDataError(f"the yard holds no meter {quoted(name)}; there are: {known}")
    if len(found) != 1:
        raise UnusableDataError(f"--meter must name one of the yard's meters: {known}")
    if found[0].is_read_by_eye:
        raise UnusableDataError(f"{found[0].name} is read by eye: type the run in the window")
    return found[0]


def _further_meter(yard: "YardFile", text: str, main: "Meter") -> tuple["Meter", "Role"]:
    """Like "Wall meter=wall_input"."""
    from yardtoll.core.electrical.roles import Role

    name, separator, role = text.rpartition("=")
    if not separator or role.strip() not in {each.value for each in Role}:
        roles = ", ".join(each.value for each in Role)
        raise typer.BadParameter(
            f"{quoted(text)} should look like METER=ROLE; a role is one of {roles}"
        )
    meter = _meter(yard, name)
    if meter.is_simulated:
        raise UnusableDataError(f"{meter.name} is simulated: only a run's own meter can be")
    if meter.id == main.id:
        raise UnusableDataError(f"{meter.name} is the run's own meter already")
    return meter, Role(role.strip())


def _load_part(yard: "YardFile", text: str) -> "MixPart":
    """Like "Oil heater, low"; the first setting where none is named."""
    from yardtoll.core.planning.loads import MixPart

    name, _, setting = (part.strip() for part in text.partition(","))
    loads = yard.loads()
    found = next((each for each in loads if each.name.casefold() == name.casefold()), None)
    if found is None:
        known = ", ".join(each.name for each in loads) or "none yet"
        raise UnusableDataError(f"the yard holds no load {quoted(name)}; there are: {known}")
    settings = [s for s in found.settings if not setting or s.name.casefold() == setting.casefold()]
    if not settings:
        known = ", ".join(each.name for each in found.settings) or "none"
        raise UnusableDataError(f"{found.name} has no setting {quoted(setting)}; it has: {known}")
    return MixPart(name=found.name, setting=settings[0].name, count=1, watts=settings[0].watts)


def _begin(yard: "YardFile", plan: "RunPlan") -> "Run":
    """Keep the run as begun, after the cautions of its method were said."""
    from dataclasses import asdict

    from yardtoll.bench.instruments import refuse_unreadable
    from yardtoll.running.simulated_bench import bench_model_for

    for meter in (plan.meter, *(meter for meter, _ in plan.also)):
        refuse_unreadable(meter)
    for caution in plan.about.cautions:
        _print(f"Caution: {caution}")
    bench = asdict(bench_model_for(plan)) if plan.meter.is_simulated else None
    return plan.begin(yard, simulated_bench=bench)


def _earlier(yard: "YardFile", station: "Station") -> tuple["EarlierRun", ...]:
    """The station's finished discharges, to predict this run's end from."""
    from yardtoll.review.analysis import analyses_of
    from yardtoll.review.earlier_runs import earlier_runs

    return earlier_runs(analyses_of(yard, station))


class _Recording:
    """One run in a shell: everything happens on the main thread, in the order it was posted."""

    def __init__(
        self, yard: "YardFile", run: "Run", speed: float, earlier: tuple["EarlierRun", ...]
    ) -> None:
        from yardtoll.running.session import RunSession, SessionEvents

        self._yard = yard
        self._posted: queue.SimpleQueue[Callable[[], None]] = queue.SimpleQueue()
        self._was_moved = False
        self._ended = ""
        self._failed = ""
        self._asked_to_leave = False
        self._said: set[str] = set()
        self._next_line_s = 0.0
        self._session: RunSession = RunSession(
            yard,
            run,
            events=SessionEvents(
                found=lambda identity: _print(f"Reading {identity}"),
                lost=lambda reason: _print(f"{capitalised(reason)}. Trying again."),
                noted=_print,
                ended=lambda _, reason: self._end(reason),
                failed=self._fail,
            ),
            post=self._posted.put,
            speed=speed,
        )
        self._session.outlook.expect_from(earlier)

    def go(self, *, resumed: bool) -> None:
        """Record to the end; Ctrl-C finishes the run, a request to terminate leaves it.

        Raises:
            SystemExit: with 1 where the recording failed.
        """
        session = self._session
        verb = "Resuming" if resumed else "Recording"
        _print(f"{verb} run {session.run.number} of {session.station.name}: {session.method.title}")
        with _on_signals(self._interrupted, self._leave):
            if resumed:
                session.resume()
            else:
                session.start()
            while not (self._ended or self._failed or self._asked_to_leave):
                self._work()
                self._show_progress()
            if self._asked_to_leave:
                session.leave()
        if sys.stderr.isatty():
            print(file=sys.stderr)
        if self._failed:
            cannot(f"the recording stopped: {self._failed}; what came before is kept")
        print(self._outcome())

    def _work(self) -> None:
        """Do what was posted; at most a moment, so that signals are heard."""
        until = time.monotonic() + _LOOK_EVERY_S
        while (left := until - time.monotonic()) > 0:
            try:
                self._posted.get(timeout=left)()
            except queue.Empty:
                return

    def _interrupted(self) -> None:
        self._session.stop()

    def _leave(self) -> None:
        self._asked_to_leave = True

    def _end(self, reason: str) -> None:
        self._ended = reason

    def _fail(self, reason: str) -> None:
        self._failed = reason

    def _show_progress(self) -> None:
        """One line, written over on a terminal; alarms as they come."""
        alarms = [] if self._session.is_over else self._session.watch()
        for alarm in alarms:
            if alarm.bad and alarm.text not in self._said:
                self._said.add(alarm.text)
                _print(alarm.text)
        if self._yard.is_moved and not self._was_moved:
            self._was_moved = True
            self._yard.stay_whole()
            _print(
                f"{self._yard.path.name} was renamed, moved or deleted: the recording is still "
                "written to that file."
            )
        now_s, terminal = time.monotonic(), sys.stderr.isatty()
        if not len(self._session.samples) or (not terminal and now_s < self._next_line_s):
            return
        self._next_line_s = now_s + _LINE_EVERY_S
        line = progress_line(self._session)
        print(f"\r\x1b[K{line}" if terminal else line, end="" if terminal else "\n",
              file=sys.stderr, flush=True)  # fmt: skip

    def _outcome(self) -> str:
        """The result of the run, in one line."""
        from yardtoll.review.analysis import analyse_run
        from yardtoll.store.records import Run

        number, name = self._session.run.number, self._session.station.name
        if self._asked_to_leave:
            return f"run {number} of {name}: left unfinished; --resume continues it"
        run = analyse_run(self._yard, self._yard.get(Run, self._session.run_id))
        figure = run.main_figure
        result = (
            f"{figure.title} {figure.shown}" if figure is not None else capitalised(run.problem)
        )
        return f"run {number} of {name}: {result}; ended: {self._ended}"


def progress_line(session: "RunSession") -> str:
    """Like "0:12:30 · 412 W · 85.8 Wh · ends in about 1 h 20 min"."""
    from yardtoll.core.electrical.quantities import Quantity

    parts = [format_clock(session.elapsed_s())]
    watts = session.samples.latest(Quantity.POWER)
    if watts is not None:
        parts.append(f"{watts:.0f} W")
    parts.append(f"{session.delivered_wh:.1f} Wh")
    forecast = session.forecast()
    if forecast is not None:
        parts.append(f"ends in about {format_span(forecast.remaining_s)}")
    return " · ".join(parts)


def _print(sentence: str) -> None:
    """Beside the result: on stderr, on a line of its own."""
    start = "\r\x1b[K" if sys.stderr.isatty() else ""
    print(f"{start}{sentence}", file=sys.stderr, flush=True)


@contextmanager
def _on_signals(interrupted: Callable[[], None], leave: Callable[[], None]) -> Iterator[None]:
    """While recording, signals do what is asked of them here, and are put back afterwards."""
    wanted = {signal.SIGINT: interrupted, signal.SIGTERM: leave, signal.SIGHUP: leave}
    before = {}
    for number, do in wanted.items():
        before[number] = signal.signal(number, lambda *_, do=do: do())
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
