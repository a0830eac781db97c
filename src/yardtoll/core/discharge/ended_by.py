"""What may end a discharge before, or when, the battery is empty."""

from enum import StrEnum


class EndedBy(StrEnum):
    """What ended a run, as the reviewer or the log says."""

    TRIP = "trip"
    """The station cut an overload off."""
    HAND = "hand"
    BATTERY = "battery"
    """It ran empty."""
    UNKNOWN = ""

    @property
    def words(self) -> str:
        """As asked and shown."""
        return {
            "trip": "it tripped",
            "hand": "I stopped it",
            "battery": "the battery was empty",
            "": "not known",
        }[self.value]
