"""Scorecards as files: given to others, and taken in."""

import json
from dataclasses import asdict
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from yardtoll.core.conformance.scorecard import SIGNS, ScorePoint
from yardtoll.store.records import ScoreTemplate
from yardtoll.store.station_library import LibraryError
from yardtoll.whole_files import write_whole

FORMAT = "yard-toll-scorecard"
_LARGEST_BYTES = 1_000_000
_MOST_POINTS = 200


class _Point(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    title: str = Field(min_length=1, max_length=200)
    quantity: str = Field(min_length=1, max_length=80)
    sign: str
    limit: float = 1.0
    half_limit: float | None = None
    points: float = Field(default=1.0, ge=0, le=1000)


class _File(BaseModel):
    model_config = ConfigDict(extra="ignore")
    format: str
    name: str = Field(min_length=1, max_length=120)
    version: int = Field(ge=1, le=1_000_000)
    made_on: str = Field(default="", max_length=40)
    points: list[_Point] = Field(max_length=_MOST_POINTS)


def write_template(template: ScoreTemplate, path: Path) -> None:
    """Write a scorecard for others.

    Raises:
        LibraryError: the place cannot be written.
    """
    content = {
        "format": FORMAT,
        "name": template.name,
        "version": template.version,
        "made_on": template.made_on,
        "points": [asdict(point) for point in template.points],
    }
    try:
        write_whole(path, json.dumps(content, indent=2, ensure_ascii=False) + "\n")
    except OSError as error:
        raise LibraryError(f"{path} cannot be written: {error.strerror}") from None


def read_template(path: Path) -> ScoreTemplate:
    """A scorecard of another.

    Raises:
        LibraryError: it cannot be read, or is none.
    """
    try:
        if path.stat().st_size > _LARGEST_BYTES:
            raise LibraryError(f"{path.name} is too large to be a scorecard")
        found = _File.model_validate_json(path.read_text("utf-8"))
    except OSError as error:
        raise LibraryError(f"{path.name} cannot be read: {error.strerror}") from None
    except (UnicodeDecodeError, ValidationError):
        raise LibraryError(f"{path.name} is not a scorecard") from None
    if found.format != FORMAT or any(point.sign not in SIGNS for point in found.points):
        raise LibraryError(f"{path.name} is not a scorecard")
    return ScoreTemplate(
        name=found.name,
        version=found.version,
        made_on=found.made_on,
        points=tuple(ScorePoint(**point.model_dump()) for point in found.points),
    )
