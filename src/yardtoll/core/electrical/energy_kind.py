"""Kinds of energy, as pictures distinguish them."""

from enum import StrEnum


class EnergyKind(StrEnum):
    """Kinds of energy, each with one colour and one name everywhere."""

    WALL = "wall"
    SUN = "sun"
    STORED = "stored"
    DELIVERED = "delivered"
    OVERHEAD = "overhead"
    CONVERSION = "conversion"
    FLOOR = "floor"
    UNACCOUNTED = "unaccounted"
