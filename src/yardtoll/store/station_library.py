"""A library of stations as JSON: ratings, claims, and how they came; no runs, no photos."""

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from yardtoll.core.claims.kinds import value_is_wrong
from yardtoll.store.errors import StoreError
from yardtoll.store.records import Accessory, Receiving, Record, Station, StoredClaim
from yardtoll.store.yard_file import YardFile
from yardtoll.whole_files import write_whole

FORMAT = "yardtoll-stations"
VERSION = 1
LARGEST_BYTES = 4 * 1024 * 1024
"""A thousand stations with twenty claims each."""


class LibraryError(StoreError):
    """A library cannot be read or written."""


class _Claim(BaseModel):
    model_config = ConfigDict(extra="ignore")
    kind: str
    value: float | None = None
    words: str = ""
    condition: str = ""
    source: str = ""
    note: str = ""
    text: str = ""


class _Accessory(BaseModel):
    name: str
    present: bool = True


class _Received(BaseModel):
    model_config = ConfigDict(extra="ignore")
    received_on: str = ""
    price: float | None = None
    list_price: float | None = None
    currency: str = ""
    firmware: str = ""
    soc_percent: float | None = Field(None, ge=0, le=100)
    weight_kg: float | None = Field(None, gt=0)
    lift: str = ""
    conditioned: bool = False
    accessories: list[_Accessory] = []
    note: str = ""


class _Station(BaseModel):
    model_config = ConfigDict(extra="ignore")
    name: str = Field(min_length=1, max_length=120)
    rated_wh: float = Field(gt=0, le=1e6)
    rated_w: float = Field(gt=0, le=1e5)
    chemistry: str = ""
    source: str = ""
    note: str = ""
    claims: list[_Claim] = []
    received: _Received | None = None


class _Library(BaseModel):
    model_config = ConfigDict(extra="ignore")
    format: str
    version: int
    stations: list[_Station]


@dataclass(frozen=True, kw_only=True)
class LibraryEntry:
    """A station and what belongs to it; ``station_id`` is filled in once it is kept."""

    station: Station
    claims: tuple[_Claim, ...]
    received: _Received | None

    def came_from(self, origin: str) -> "LibraryEntry":
        """The same with where it was taken in from, in its note and as a tag to find it by."""
        note = "; ".join(filter(None, (self.station.note, f"taken in from {origin}")))
        tags = tuple(dict.fromkeys((*self.station.tags, "taken in")))
        return replace(self, station=replace(self.station, note=note, tags=tags))

    def belongings(self, station_id: int) -> Sequence[StoredClaim | Receiving]:
        """Claims and receiving for a station that is kept now."""
        found: list[StoredClaim | Receiving] = [
            StoredClaim(station_id=station_id, **claim.model_dump()) for claim in self.claims
        ]
        if self.received is not None:
            facts = self.received.model_dump(exclude={"accessories"})
            accessories = tuple(
                Accessory(name=a.name, present=a.present) for a in self.received.accessories
            )
            found.append(Receiving(station_id=station_id, accessories=accessories, **facts))
        return found


def export_stations(yard: YardFile, path: Path) -> int:
    """Write every station of a yard; how many.

    Raises:
        LibraryError: the place cannot be written.
    """
    stations = [_as_json(yard, station) for station in yard.stations()]
    text = json.dumps(
        {"format": FORMAT, "version": VERSION, "stations": stations}, indent=2, ensure_ascii=False
    )
    try:
        write_whole(path, text + "\n")
    except OSError as error:
        raise LibraryError(f"{path} cannot be written: {error.strerror}") from None
    return len(stations)


def read_library(path: Path) -> list[LibraryEntry]:
    """The stations of a library file, checked whole before any is handed out.

    Raises:
        LibraryError: it cannot be read, is no library, or a figure in it is not plausible.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise LibraryError(f"{path.name} is too large to be a library of stations")
        text = path.read_text("utf-8")
    except OSError as error:
        raise LibraryError(f"{path.name} cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise LibraryError(f"{path.name} is not a library of stations: it is not text") from None
    try:
        library = _Library.model_validate_json(text)
    except ValidationError as error:
        raise LibraryError(f"{path.name} is not a library of stations: {_first(error)}") from None
    if library.format != FORMAT:
        raise LibraryError(f"{path.name} is not a library of stations")
    if library.version > VERSION:
        raise LibraryError(f"{path.name} was made by a newer version of Yard Toll")
    return [_entry(path, station) for station in library.stations]


def keep_entries(yard: YardFile, entries: Sequence[LibraryEntry]) -> list[Record]:
    """Put stations with what belongs to them; returned as kept, stations and belongings.

    Raises:
        YardError: they cannot be kept; a part of the stations may be there then.
    """
    stations = yard.put_all([entry.station for entry in entries])
    belongings = [
        record
        for entry, station in zip(entries, stations, strict=True)
        for record in entry.belongings(station.id or 0)
    ]
    return [*stations, *yard.put_all(belongings)]


def _entry(path: Path, station: _Station) -> LibraryEntry:
    for claim in station.claims:
        wrong = value_is_wrong(claim.kind, claim.value, claim.words)
        if wrong:
            raise LibraryError(f"{path.name}, {station.name}: {wrong}")
    facts = station.model_dump(exclude={"claims", "received"})
    return LibraryEntry(
        station=Station(**facts), claims=tuple(station.claims), received=station.received
    )


def _first(error: ValidationError) -> str:
    """The first thing pydantic found, in a few words."""
    first = error.errors(include_url=False)[0]
    at = ".".join(str(part) for part in first["loc"])
    return f"{at}: {first['msg']}" if at else str(first["msg"])


def _as_json(yard: YardFile, station: Station) -> dict[str, Any]:
    assert station.id is not None
    receiving = yard.receiving(station.id)
    made: dict[str, Any] = {
        name: getattr(station, name)
        for name in ("name", "rated_wh", "rated_w", "chemistry", "source", "note")
    }
    made["claims"] = [
        {name: getattr(claim, name) for name in _Claim.model_fields}
        for claim in yard.claims(station.id)
    ]
    if receiving.id is not None:
        made["received"] = {name: getattr(receiving, name) for name in _Received.model_fields}
        made["received"]["accessories"] = [asdict(a) for a in receiving.accessories]
    return made
