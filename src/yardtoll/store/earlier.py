"""How files of earlier versions kept what recordings hold now: for migrations and old packages."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.roles import Role
from yardtoll.core.electrical.trace import FloatArray
from yardtoll.core.methods import METHODS
from yardtoll.store.packed import unpack

LOGGER = "irradiance"
"""In a run's conditions up to version 5: a logger's file, {"name", "time_s", "w_m2"}."""
END_WORDS = ("Cut-off", "Charged")
"""Marks of these words said up to version 5 that a run ended then."""


def role_of(method: str) -> Role:
    """The role of a run's only meter."""
    known = METHODS.get(method)
    return known.role if known is not None else Role.AC_OUTPUT


def logger_of(
    conditions: Mapping[str, Any],
) -> tuple[str, FloatArray, FloatArray] | None:
    """(name, s from the run's start, W/m²) of a logger kept in a run's conditions.

    None where there is none, or where what is there cannot be read.
    """
    kept = conditions.get(LOGGER)
    if not isinstance(kept, dict):
        return None
    try:
        time_s, w_m2 = unpack(kept["time_s"]), unpack(kept["w_m2"])
    except (KeyError, TypeError, ValueError, AttributeError):
        return None
    if time_s.shape != w_m2.shape or time_s.size < 2 or not np.isfinite(w_m2).all():
        return None
    if not np.isfinite(time_s).all():
        return None
    return str(kept.get("name", "")), time_s, w_m2


LOGGER_QUANTITIES = (Quantity.IRRADIANCE,)
