"""A window whose yard goes to a shared archive: away and there again; others' yards beside it."""

import pytest
from conftest_helpers import FENNEL
from PySide6.QtWidgets import QInputDialog
from tests.store.shared_server import Server, program

from yardtoll.cli import main
from yardtoll.desktop.actions.shared_archive import ask_archive, ask_archived_yard, use_archive
from yardtoll.desktop.app import run_window
from yardtoll.desktop.views.stop import LINEUP
from yardtoll.store.records import Station
from yardtoll.store.shared.archive import SharedArchive
from yardtoll.store.yard_file import YardFile

needs_server = pytest.mark.skipif(program("initdb") is None, reason="PostgreSQL is not installed")


@pytest.fixture
def server(tmp_path):
    made = Server(tmp_path / "server")
    made.make()
    made.start()
    yield made
    made.kill()


def sent(qtbot, sender):
    def is_sent():
        sender.send()
        return sender.is_settled and sender.is_sent

    qtbot.waitUntil(is_sent, timeout=60_000)


@needs_server
def test_recorded_here_first_and_sent_when_it_is_there(qtbot, demo, server, tmp_path, monkeypatch):
    address = server.fresh("yards")
    use_archive(demo, address)
    sender = demo.bench.archive_sender
    sent(qtbot, sender)
    session = demo.bench.session
    server.kill()
    session.add(Station(name="Meanwhile", rated_wh=500, rated_w=400), "Add")
    sender.send()
    qtbot.waitUntil(lambda: sender.is_settled, timeout=60_000)
    assert "is not there" in demo.notice.text and "Everything is kept here" in demo.notice.text
    server.start()
    sent(qtbot, sender)
    assert "The archive is there again" in demo.notice.text
    # Another bench sends its own; it is looked into from the line-up.
    with YardFile.create(tmp_path / "theirs.yard", "Their bench") as theirs:
        theirs.put(Station(name="Basil", rated_wh=700, rated_w=600))
        archive = SharedArchive(address)
        archive.send(theirs)
        assert len(archive.yards()) == 2
        archive.close()
    demo.go_to(LINEUP)
    view = demo.stack.current_view()
    qtbot.waitUntil(lambda: len(view.entrants) == 4 and not demo.jobs.busy, timeout=60_000)
    assert view.side.archive_button.isVisible()
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **_: (a[3][0], True))
    ask_archived_yard(demo, view.add_yard)
    qtbot.waitUntil(lambda: len(view.entrants) == 5 and not demo.jobs.busy, timeout=60_000)
    assert view.entrants[-1].name == "Basil" and view.entrants[-1].station_id is None


def test_an_address_is_asked_for_and_a_wrong_one_changes_nothing(demo, monkeypatch):
    answers = iter([("nonsense", True), ("postgresql://me:secret@h/x", True), ("", True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: next(answers))
    ask_archive(demo)
    assert "should look like" in demo.notice.text and demo.settings.archive == ""
    ask_archive(demo)
    assert "must not hold the password" in demo.notice.text and "secret" not in demo.notice.text
    ask_archive(demo)
    assert demo.bench.archive_sender is None and demo.bench.session.station.id in (FENNEL, 2, 3)


def test_the_command_line_refuses_what_is_no_address(capsys):
    assert run_window(["--archive", "x://y"]) == 1
    assert "should look like postgresql" in capsys.readouterr().err
    assert run_window(["--archive"]) == 2


@needs_server
def test_from_a_shell(server, demo, tmp_path, capsys):
    address = server.fresh("shell")
    yard = demo.bench.session.yard
    yard.stay_whole()
    copy = tmp_path / "copy.yard"
    copy.write_bytes(yard.path.read_bytes())
    for arguments, words in (
        (["send", str(copy), "--archive", address, "--json"], '"stations": 3'),
        (["list", "--archive", address], yard.info().name),
        (
            ["fetch", yard.info().uid, "-o", str(tmp_path / "b.yard"), "--archive", address],
            "written",
        ),
    ):
        with pytest.raises(SystemExit) as ended:
            main(["archive", *arguments])
        assert ended.value.code == 0
        assert words in capsys.readouterr().out
    with YardFile.open(tmp_path / "b.yard") as back:
        assert len(back.runs()) == len(yard.runs())
    with pytest.raises(SystemExit) as ended:
        main(["archive", "fetch", "0" * 32, "-o", str(tmp_path / "c.yard"), "--archive", address])
    assert ended.value.code == 1 and not (tmp_path / "c.yard").exists()
