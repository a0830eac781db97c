"""Charges: the station takes energy in."""

from yardtoll.review.kinds.charge.kind import KIND

__all__ = ["KIND"]
