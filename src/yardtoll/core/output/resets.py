"""How a station came back from an overload: error code, what it took, and how long."""

from collections.abc import Iterator, Sequence

from yardtoll.core.formatting import format_span
from yardtoll.core.output.appliances import RESETS
from yardtoll.core.output.entries import EntryField, Fields, number_in, word_in

FIELDS = (
    EntryField(key="step_w", title="At", unit="W", needed=True),
    EntryField(key="error_code", title="Error code", hint="E07, overload lamp"),
    EntryField(key="reset", title="Came back", choices=RESETS),
    EntryField(key="after_min", title="After", unit="min", decimals=1, high=1440),
    EntryField(key="temperature_c", title="Station at", unit="°C", low=-50, high=300),
)
"""One line a trip."""
_MINUTE_S = 60.0


def reset_words(lines: Sequence[Fields]) -> Iterator[str]:
    """A sentence a trip."""
    for line in lines:
        step_w, reset = number_in(line, "step_w"), word_in(line, "reset")
        code, after = word_in(line, "error_code").strip(), number_in(line, "after_min")
        heat = number_in(line, "temperature_c")
        said = f"At {step_w:.0f} W" if step_w else "At the trip"
        parts = [f"it showed {code}"] if code else []
        if reset:
            later = f" after {format_span(after * _MINUTE_S)}" if after else ""
            back = dict(RESETS).get(reset, reset)
            parts.append(
                f"did not come back{later}" if reset == "not" else f"came back {back}{later}"
            )
        if heat is not None:
            parts.append(f"the station was at {heat:.0f} °C")
        if parts:
            yield f"{said} {', '.join(parts)}."
