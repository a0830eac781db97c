"""How much of a clear sky's sun comes through the weather. Common practice, no source."""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Weather:
    """A sort of day, with the shares of a clear day's energy that it lies between."""

    title: str
    low: float
    high: float

    @property
    def middle(self) -> float:
        """The share that is reckoned with."""
        return (self.low + self.high) / 2


WEATHER: dict[str, Weather] = {
    "clear": Weather(title="Clear", low=0.85, high=1.0),
    "mixed": Weather(title="Sun and clouds", low=0.4, high=0.8),
    "overcast": Weather(title="Overcast", low=0.1, high=0.3),
    "unknown": Weather(title="Not known", low=0.1, high=1.0),
}
"""By their keys in the yard file."""
