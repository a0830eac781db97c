"""Charges that panels feed, alone or beside the wall."""

from yardtoll.review.kinds.solar.kind import KIND

__all__ = ["KIND"]
