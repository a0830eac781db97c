"""What was set, chosen and noted for a run. It is JSON at the store's edge alone."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from typing import Any, Self

from yardtoll.core.planning.loads import MixPart


@dataclass(frozen=True, kw_only=True)
class Override:
    """Checks that were open when the run was started anyway, and the reviewer's reason."""

    reason: str
    checks: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """The circumstances of a run.

    Attributes:
        load: the loads in words, or where the readings came from.
        loads: the devices, their settings and watts.
        size: key of the method's load level or duration.
        settings: of the station, by the keys of ``core/planning/checks.py``.
        cord, circuit: names of the wiring used.
        temperature_c: of the air.
        confirmed: keys of the checks that the reviewer ticked.
        override: None where no check was open.
        expected_s: how long the run was expected to take.
        arrays: ids of the arrays that fed it.
        sensor_plane: how the irradiance sensor lay, "poa" or "ghi"; "" where not said.
        file: name of the imported log.
        mapping: purpose → column of that log, as chosen.
        end_reason: why it ended, in words.
        simulated_bench: what the simulated bench was made of; it alone reads this.
        other: what a file holds beyond these; kept as it is.
    """

    load: str = ""
    loads: tuple[MixPart, ...] = ()
    size: str = ""
    settings: Mapping[str, str] = field(default_factory=dict)
    cord: str = ""
    circuit: str = ""
    temperature_c: float | None = None
    confirmed: tuple[str, ...] = ()
    override: Override | None = None
    expected_s: float | None = None
    arrays: tuple[int, ...] = ()
    sensor_plane: str = ""
    file: str = ""
    mapping: str = ""
    end_reason: str = ""
    simulated_bench: Mapping[str, Any] | None = None
    other: Mapping[str, Any] = field(default_factory=dict)

    @property
    def floor(self) -> str:
        """The discharge floor as noted, without its percent sign; "" where it was not."""
        return self.settings.get("floor", "").rstrip("% ")

    @property
    def lowers_voltage(self) -> bool:
        """Whether voltage-lowering mode was on."""
        return self.settings.get("voltage_lowering", "").strip().lower() == "on"

    def as_json(self) -> dict[str, Any]:
        """An object for JSON; what was not noted has no key."""
        made: dict[str, Any] = dict(self.other)
        for name, (key, _) in _FIELDS.items():
            value = getattr(self, name)
            if value or value == 0.0:
                made[key] = _plain(value)
        return made

    @classmethod
    def from_json(cls, stored: Mapping[str, Any]) -> Self:
        """Read again; a value that has not the shape it should have is kept under ``other``."""
        known: dict[str, Any] = {}
        other = dict(stored)
        for name, (key, read) in _FIELDS.items():
            if key not in stored:
                continue
            try:
                known[name] = read(stored[key])
            except (TypeError, ValueError, KeyError, AttributeError):
                continue
            del other[key]
        return cls(**known, other=other)


def _plain(value: Any) -> Any:
    if isinstance(value, Override):
        return {"reason": value.reason, "gates": list(value.checks)}
    if isinstance(value, tuple):
        return [asdict(v) if isinstance(v, MixPart) else v for v in value]
    return dict(value) if isinstance(value, Mapping) else value


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise TypeError
    return value


def _number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise TypeError
    return float(value)


def _loads(value: Any) -> tuple[MixPart, ...]:
    return tuple(
        MixPart(
            name=_text(part["name"]),
            setting=_text(part["setting"]),
            count=int(part["count"]),
            watts=_number(part["watts"]),
        )
        for part in value
    )


def _override(value: Any) -> Override:
    return Override(
        reason=_text(value["reason"]),
        checks=tuple(_text(check) for check in value.get("gates", ())),
    )


def _object(value: Any) -> dict[str, Any]:
    if not isinstance(value, dict):
        raise TypeError
    return value


def _ids(value: Any) -> tuple[int, ...]:
    if not isinstance(value, list) or not all(type(id_) is int for id_ in value):
        raise TypeError
    return tuple(value)


_FIELDS: dict[str, tuple[str, Callable[[Any], Any]]] = {
    "load": ("load", _text),
    "loads": ("loads", _loads),
    "size": ("size", _text),
    "settings": ("settings", lambda v: {k: _text(t) for k, t in _object(v).items()}),
    "cord": ("cord", _text),
    "circuit": ("circuit", _text),
    "temperature_c": ("temperature_c", _number),
    "confirmed": ("confirmed", lambda v: tuple(_text(key) for key in v)),
    "override": ("overridden", _override),
    "expected_s": ("expected_s", _number),
    "arrays": ("arrays", _ids),
    "sensor_plane": ("irradiance_plane", _text),
    "file": ("file", _text),
    "mapping": ("mapping", _text),
    "end_reason": ("ended", _text),
    "simulated_bench": ("bench", _object),
}
"""Field → its key in the file, and how it is read."""
