"""Notes as samples, for what is worked out or drawn from samples alone."""

import numpy as np

from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import FloatArray, Trace
from yardtoll.core.notes.quantities import NoteQuantity
from yardtoll.core.notes.read import Notes
from yardtoll.core.notes.unread import notes_notices

_COLUMNS = {
    NoteQuantity.POWER: Quantity.POWER,
    NoteQuantity.ENERGY: Quantity.ENERGY,
    NoteQuantity.VOLTS: Quantity.VOLTS,
    NoteQuantity.AMPS: Quantity.AMPS,
    NoteQuantity.HERTZ: Quantity.HERTZ,
    NoteQuantity.POWER_FACTOR: Quantity.POWER_FACTOR,
    NoteQuantity.SOC: Quantity.SOC,
    NoteQuantity.CELSIUS: Quantity.TEMPERATURE,
    NoteQuantity.IRRADIANCE: Quantity.IRRADIANCE,
}


def trace_of(notes: Notes) -> Trace:
    """Each line as a sample; watts going in count as power where no other were noted.

    Lines of one time are one sample: what a later line says stands.
    """
    time_s = np.unique(np.array([note.s for note in notes.notes]))
    columns: dict[Quantity, FloatArray] = {}
    for noted, quantity in _COLUMNS.items():
        found = notes.values(noted)
        if noted is NoteQuantity.POWER and not found:
            found = notes.values(NoteQuantity.INPUT)
        if not found:
            continue
        values = np.full(time_s.size, np.nan)
        for note, value in found:
            values[int(np.searchsorted(time_s, note.s))] = value.value
        columns[quantity] = values
    return Trace(
        name=notes.name,
        time_s=time_s,
        columns=columns,
        clock_s=notes.clock_s,
        clock_basis=notes.clock_basis,
        notices=tuple(notes_notices(notes)),
    )
