"""Runs: what was done, what was noted meanwhile, and what each instrument recorded."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from yardtoll.store.records.conditions import Conditions

TYPED = "typed"
"""Origin of a run whose meter is read by eye."""


class RunState(StrEnum):
    """A run's life. A void run is kept, with the reason."""

    PLANNED = "planned"
    RUNNING = "running"
    FINISHED = "finished"
    VOID = "void"
    DROPPED = "dropped"
    """A plan that was taken back; kept for undo, shown nowhere."""


class ReadingKind(StrEnum):
    """What a typed reading is of."""

    SOC = "soc"
    DISPLAY_W = "display_w"
    TIME_LEFT = "time_left_s"
    INPUT_W = "input_w"
    METER_WH = "meter_wh"
    """A meter's counter read by eye."""
    METER_W = "meter_w"
    VOLTS = "volts"
    AMPS = "amps"
    HERTZ = "hertz"
    POWER_FACTOR = "power_factor"
    IRRADIANCE = "irradiance_w_m2"
    """Of a hand-held sensor held in the panels' plane."""
    SOUND = "sound_db"
    TEMPERATURE = "temperature_c"
    PORT_W = "port_w"
    """Watts of one port, named by the reading's subject."""
    GAP = "gap_ms"
    FRAMES = "frames"
    """Frames of a video for which the output was off."""

    @property
    def label(self) -> str:
        """As shown."""
        return {
            "soc": "SOC",
            "display_w": "display W",
            "time_left_s": "time left",
            "input_w": "input W",
            "meter_wh": "meter Wh",
            "meter_w": "meter W",
            "volts": "volts",
            "amps": "amps",
            "hertz": "hertz",
            "power_factor": "power factor",
            "irradiance_w_m2": "irradiance",
            "sound_db": "sound level",
            "temperature_c": "temperature",
            "port_w": "port W",
            "gap_ms": "gap",
            "frames": "frames dark",
        }[self.value]


@dataclass(frozen=True, kw_only=True)
class Run:
    """One execution of a method.

    ``own_draw_w`` is the meter's own draw where it was fed by the station; ``origin`` is "live",
    "import", "typed" or "demo". ``ended_by`` is one of ``core/ended_by.py``;
    ``explained`` has the doubts that the reviewer has explained, by code, with his words.
    """

    id: int | None = None
    station_id: int
    number: int
    method: str
    state: str
    origin: str
    started_at: str
    ended_at: str | None = None
    meter_id: int | None = None
    load_id: int | None = None
    target_w: float | None = None
    own_draw_w: float = 0.0
    soc_from: float = 100.0
    soc_to: float = 0.0
    void_reason: str = ""
    ended_by: str = ""
    explained: Mapping[str, str] = field(default_factory=dict)
    conditions: Conditions = field(default_factory=Conditions)

    @property
    def has_ended(self) -> bool:
        """Whether it is finished or void."""
        return self.state in (RunState.FINISHED.value, RunState.VOID.value)


@dataclass(frozen=True, kw_only=True)
class Mark:
    """An instant of a run with a word, s from its first sample.

    Attributes:
        ends_run: the run had ended by then.
        seen: somebody saw it end at that moment; else it was found so.
        starts_run: load or charging was switched on then.
        within_s: ± of the time; None for one stamped as it was typed.
    """

    id: int | None = None
    run_id: int
    time_s: float
    word: str
    ends_run: bool = False
    withdrawn: bool = False
    within_s: float | None = None
    starts_run: bool = False
    seen: bool = True


@dataclass(frozen=True, kw_only=True)
class Reading:
    """One typed value of a run, s from its first sample.

    Attributes:
        subject: of what: a port, a spot, a distance; "" where the kind says it all.
        step: the last digit it was read to, in its unit; None where that is not known.
        within_s: ± of the time; None for one stamped as it was typed.
    """

    id: int | None = None
    run_id: int
    time_s: float
    kind: str
    value: float
    subject: str = ""
    withdrawn: bool = False
    step: float | None = None
    within_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One line of a run that is kept as a table: a try, a port's watts, a level.

    Attributes:
        position: its place in the table, rising.
        fields: values by the keys of the method's entry fields, which carry their units.
    """

    id: int | None = None
    run_id: int
    position: int
    fields: Mapping[str, float | str] = field(default_factory=dict)
    withdrawn: bool = False


@dataclass(frozen=True, kw_only=True)
class Recording:
    """What one instrument recorded of a run. Its samples are fetched apart.

    Attributes:
        role: what the instrument measured; see ``core/electrical/roles.py``.
        instrument: its name, as it was then.
        meter_id: the meter whose accuracy holds; None for the run's own.
        name: the file it was read from; "" for what was recorded live.
        quantities: what its columns are, in order.
        offset_s: from the run's first sample to this recording's.
        clock_s: time of the first sample in s, by ``clock_basis``; None where it is not known.
        notices: (code, message) of what was found on reading.
    """

    id: int | None = None
    run_id: int
    role: str
    instrument: str = ""
    meter_id: int | None = None
    name: str = ""
    quantities: tuple[str, ...] = ()
    offset_s: float = 0.0
    clock_s: float | None = None
    clock_basis: str | None = None
    notices: tuple[tuple[str, str], ...] = ()
    withdrawn: bool = False
