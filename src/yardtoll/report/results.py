"""Results as strict JSON: its shape, from which the shipped JSON Schema is made."""

import json
from importlib import resources

from pydantic import BaseModel, ConfigDict, Field

SCHEMA_FILE = "results.schema.json"


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class BudgetLine(_Strict):
    """One contribution to an uncertainty."""

    name: str
    kind: str = Field(pattern="^[AB]$")
    u: float = Field(ge=0, description="standard uncertainty in the figure's unit")
    share: float = Field(ge=0, le=1)
    why: str


class FigureResult(_Strict):
    """A value with its unit, U (k as given) and budget; null where it is not known."""

    value: float
    unit: str
    expanded: float | None = Field(description="U = k·u; null where no meter is stated")
    coverage_factor: float | None
    budget: list[BudgetLine]


class RunResult(_Strict):
    """The results of one run."""

    number: int
    method: str
    state: str
    void_reason: str
    started_at: str
    soc_from: float
    soc_to: float
    mean_w: float | None
    duration_s: float | None
    delivered_wh: FigureResult | None
    usable_ratio: FigureResult | None
    drawn_wh: FigureResult | None
    idle_w: FigureResult | None
    further: dict[str, FigureResult] = Field(description="further figures, by quantity")
    found: str = Field(description="what a test at the outlets found, in a sentence")
    lines: list[dict[str, float | str]] = Field(
        description="lines of a test at the outlets, with what captures say of them"
    )
    ended_by: str = Field(description="trip, hand, battery; empty where it is not known")
    warnings: list[str]
    doubts: list[str] = Field(description="codes that keep a verdict from meets, unexplained")
    explained: dict[str, str] = Field(description="doubts by code, and what explains them")


class FittedResult(_Strict):
    """A figure fitted from several runs."""

    name: str
    outlet: str
    at_most: bool = Field(description="a bound, because a term had to be held; judged by nothing")
    figure: FigureResult


class ClaimResult(_Strict):
    """One claim with its verdict."""

    kind: str
    claimed: float | None
    unit: str
    condition: str
    wording: str
    read_as: str = Field(description="how the claim was judged, in words")
    source: str
    verdict: str = Field(
        pattern="^(meets|falls_short|too_close_to_call|not_tested|cannot_be_judged)$"
    )
    measured: float | None
    expanded: float | None
    probability: float | None = Field(ge=0, le=1)
    runs: list[int]
    sentence: str


class StationResult(_Strict):
    """Everything about one station."""

    station: str
    rated_wh: float
    rated_w: float
    rule: str
    repeatability: float = Field(ge=0, description="relative standard deviation, run to run")
    round_trip: FigureResult | None
    fitted: list[FittedResult]
    runs: list[RunResult]
    claims: list[ClaimResult]


class Results(_Strict):
    """The results of a yard."""

    program: str
    stations: list[StationResult]


def results_schema() -> str:
    """The JSON Schema of results as text."""
    made = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **Results.model_json_schema(),
    }
    return f"{json.dumps(made, indent=2, sort_keys=True)}\n"


def shipped_schema() -> str:
    """The schema that is shipped with the program."""
    return (resources.files("yardtoll.report") / SCHEMA_FILE).read_text("utf-8")
