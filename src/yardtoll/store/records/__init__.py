"""What a yard holds, one frozen record a row. Numbers are in SI-based units, times ISO 8601 UTC."""

from yardtoll.store.records.bench import (
    SENSOR_SHARE,
    SIMULATED,
    Load,
    Meter,
    Site,
    SolarArray,
    StoredCircuit,
    StoredCord,
)
from yardtoll.store.records.conditions import Conditions, Override
from yardtoll.store.records.endurance import (
    Appliance,
    OutageFeed,
    OutageUse,
    StoredOutage,
    SunFrom,
)
from yardtoll.store.records.run import (
    TYPED,
    Entry,
    Mark,
    Reading,
    ReadingKind,
    Recording,
    Run,
    RunState,
)
from yardtoll.store.records.station import (
    Accessory,
    Observation,
    Photo,
    Receiving,
    Review,
    ScoreTemplate,
    SizeClass,
    Station,
    StoredClaim,
    StoredPrice,
    StoredScorePoint,
    StoredYardstick,
    YardInfo,
    in_families,
)

__all__ = [
    "SENSOR_SHARE",
    "SIMULATED",
    "TYPED",
    "Accessory",
    "Appliance",
    "Conditions",
    "Entry",
    "Gear",
    "Load",
    "Mark",
    "Meter",
    "Observation",
    "OutageFeed",
    "OutageUse",
    "Override",
    "Photo",
    "Reading",
    "ReadingKind",
    "Receiving",
    "Record",
    "Recording",
    "Removable",
    "Review",
    "Run",
    "RunState",
    "ScoreTemplate",
    "Site",
    "SizeClass",
    "SolarArray",
    "Station",
    "StoredCircuit",
    "StoredClaim",
    "StoredCord",
    "StoredOutage",
    "StoredPrice",
    "StoredScorePoint",
    "StoredYardstick",
    "SunFrom",
    "YardInfo",
    "in_families",
]

Gear = Meter | Load | StoredCircuit | StoredCord | SolarArray
"""What the bench owns."""
Removable = (
    Station
    | StoredClaim
    | Receiving
    | Photo
    | Observation
    | Review
    | StoredYardstick
    | StoredScorePoint
    | Appliance
    | StoredOutage
    | StoredPrice
    | SizeClass
    | ScoreTemplate
    | Gear
)
"""What can be taken out of sight."""
Record = YardInfo | Site | Run | Recording | Entry | Mark | Reading | Removable
