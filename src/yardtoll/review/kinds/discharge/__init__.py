"""Discharges: the station gives energy to a load."""

from yardtoll.review.kinds.discharge.kind import KIND

__all__ = ["KIND"]
