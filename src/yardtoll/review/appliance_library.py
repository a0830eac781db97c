"""The reviewer's own appliances: what the yard knows of each from its loads and earlier tries."""

from collections.abc import Iterator, Mapping

from yardtoll.core.methods import TABLES
from yardtoll.core.output.entries import EntryField, Fields
from yardtoll.store.records import Load
from yardtoll.store.yard_file import YardFile

_KNOWN = ("nameplate_w", "inrush_w")
"""What belongs to an appliance and not to one try of it."""


def appliance_library(yard: YardFile, fields: tuple[EntryField, ...]) -> Mapping[str, Fields]:
    """Appliances by name with what is known of each; none for tests that ask for no appliance.

    What was noted in a try goes before what a load of the bench is said to draw.
    """
    if not any(field.from_library for field in fields):
        return {}
    found: dict[str, dict[str, float | str]] = {}
    for load in yard.loads():
        found[load.name] = dict(_of_load(load))
    for name, known in _of_tries(yard):
        found.setdefault(name, {}).update(known)
    return dict(sorted(found.items(), key=lambda item: item[0].casefold()))


def _of_load(load: Load) -> Iterator[tuple[str, float]]:
    watts = [setting.watts for setting in load.settings]
    highest = max([*watts, load.range_high_w or 0.0], default=0.0)
    if highest:
        yield "nameplate_w", highest
        if load.inrush > 1:
            yield "inrush_w", load.inrush * highest


def _of_tries(yard: YardFile) -> Iterator[tuple[str, dict[str, float | str]]]:
    for run in yard.runs():
        about = TABLES.get(run.method)
        named = [f for f in about.entry_fields if f.from_library] if about else []
        if not named or run.id is None:
            continue
        for entry in yard.entries(run.id):
            name = entry.fields.get(named[0].key)
            if isinstance(name, str) and name.strip():
                yield name.strip(), {k: entry.fields[k] for k in _KNOWN if k in entry.fields}
