"""What the maker claims, and how the station came."""

from yardtoll.desktop.actions.editing import (
    add_claim,
    edit_claim,
    edit_receiving,
    paste_claims,
    work_with,
)
from yardtoll.desktop.actions.photos import ask_photos, open_photo
from yardtoll.desktop.actions.records import ask_new_record
from yardtoll.desktop.host import Host
from yardtoll.desktop.views.stop import CLAIMS, Stop
from yardtoll.desktop.views.stop_view import StopView
from yardtoll.desktop.workbench.workbench import Workbench


def build(host: Host, bench: Workbench) -> StopView:
    """Its view, connected."""
    from yardtoll.desktop.views.claims.view import ClaimsView

    view = ClaimsView(bench)
    session = bench.session
    view.add_asked.connect(lambda: add_claim(host.widget, session))
    view.paste_asked.connect(lambda: paste_claims(host.widget, session))
    view.receiving_asked.connect(lambda: edit_receiving(host.widget, session))
    view.photos_asked.connect(lambda: ask_photos(host))
    view.edit_asked.connect(lambda claim: edit_claim(host.widget, session, claim))
    view.work_with_asked.connect(lambda claim: work_with(session, claim))
    view.photo_opened.connect(lambda photo: open_photo(host.widget, bench, photo))
    view.add_station_asked.connect(lambda: ask_new_record(host, "station"))
    return view


STOP = Stop(key=CLAIMS, title="Claims", order=20, build=build)
