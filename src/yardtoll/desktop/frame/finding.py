"""What can be found by typing: actions, stops, stations, runs, claims and preferences, ranked."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial

from PySide6.QtGui import QAction, QKeySequence

from yardtoll.core.claims.kinds import CLAIM_KINDS
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.methods import METHODS
from yardtoll.desktop.actions.preferences import ask_preferences
from yardtoll.desktop.dialogs.preferences import PAGES
from yardtoll.desktop.frame.menu import FIND
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import CLAIMS
from yardtoll.desktop.workbench.workbench import Workbench
from yardtoll.store.records import StoredClaim
from yardtoll.store.shown_region import day, shown
from yardtoll.store.site_time import local

ACTION, STATION, RUN, CLAIM, PREFERENCE = "", "station", "run", "claim", "preference"


@dataclass(frozen=True, kw_only=True)
class Findable:
    """Something that can be found by typing.

    Attributes:
        key: by which its use is remembered.
        kind: what it is, shown beside it.
        hint: its key on the keyboard, or what is known of it; found by it too.
        do: what choosing it does.
    """

    key: str
    text: str
    kind: str
    do: Callable[[], object]
    hint: str = ""


def matches(words: str, text: str) -> bool:
    """Whether the text contains every word typed."""
    low = text.casefold()
    return all(word in low for word in words.casefold().split())


def ranked(found: Iterable[Findable], words: str, uses: Mapping[str, int]) -> list[Findable]:
    """Those that match, best first: by how they match and how often they were chosen.

    While nothing is typed, what was chosen before comes first, and of the rest only the actions.
    """
    if not words.strip():
        shown_first = [f for f in found if f.kind == ACTION or uses.get(f.key)]
        return sorted(shown_first, key=lambda f: -uses.get(f.key, 0))
    hits = [f for f in found if matches(words, f"{f.text} {f.kind} {f.hint}")]
    return sorted(hits, key=lambda f: _rank(words, f, uses.get(f.key, 0)))


def _rank(words: str, found: Findable, used: int) -> tuple[bool, int, bool]:
    """Whole words begun go before letters inside them, then what is used, then what begins so."""
    typed, text = words.casefold().strip(), found.text.casefold()
    begun = text.split()
    inside = not all(any(b.startswith(word) for b in begun) for word in typed.split())
    return inside, -used, not text.startswith(typed)


def everything(host: Host, actions: Sequence[QAction]) -> list[Findable]:
    """All that can be found now."""
    found = list(_actions(actions))
    if host.bench is not None:
        found += _records(host, host.bench)
    found += [
        Findable(
            key=f"preference {page}",
            text=f"Preferences: {title.lower()}",
            kind=PREFERENCE,
            do=partial(ask_preferences, host, page),
        )
        for page, title in PAGES.items()
    ]
    return found


def _actions(actions: Sequence[QAction]) -> Iterator[Findable]:
    for action in actions:
        text = action.text().replace("&", "")
        if text and text != FIND and action.isEnabled():
            keys = action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)
            yield Findable(key=text, text=text, kind=ACTION, do=action.trigger, hint=keys)


def _records(host: Host, bench: Workbench) -> Iterator[Findable]:
    yard, session = bench.session.yard, bench.session
    stations = {station.id: station for station in yard.stations()}
    for station in stations.values():
        assert station.id is not None
        yield Findable(
            key=f"station {station.id}",
            text=station.name,
            kind=STATION,
            do=partial(session.choose_station, station.id),
            hint=f"{station.rated_wh:g} Wh",
        )
    for run in reversed(yard.runs()):
        if run.station_id in stations and run.id is not None:
            yield Findable(
                key=f"run {run.id}",
                text=f"{stations[run.station_id].name}, run {run.number}: "
                f"{METHODS[run.method].title}",
                kind=RUN,
                do=partial(host.open_run, run.id),
                hint=day(local(run.started_at)),
            )
    for station in stations.values():
        assert station.id is not None
        for kept in yard.claims(station.id):
            kind = CLAIM_KINDS.get(kept.kind)
            if kind is None:
                continue
            yield Findable(
                key=f"claim {kept.id}",
                text=f"{station.name}: {kind.title}",
                kind=CLAIM,
                do=partial(_show_claims, host, bench, station.id),
                hint=_shown(kept),
            )


def _shown(kept: StoredClaim) -> str:
    try:
        return shown(f"{kept.claim.shown}, {kept.source or 'no source'}")
    except UnusableDataError:
        return kept.source


def _show_claims(host: Host, bench: Workbench, station_id: int) -> None:
    bench.session.choose_station(station_id)
    host.go_to(CLAIMS)
