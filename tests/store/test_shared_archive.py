"""A shared archive against a real server: two benches at once, a server killed, nothing twice."""

import shutil
import threading
from dataclasses import replace

import keyring
import keyring.backend
import numpy as np
import pytest
from tests.store.shared_server import Server, program

from yardtoll.demo.yard import fresh_demo
from yardtoll.review.analysis import analyses_of
from yardtoll.store import schema
from yardtoll.store.package.bulk import rows_of
from yardtoll.store.records import Mark, Receiving, Station
from yardtoll.store.shared.address import FROM_ENVIRONMENT, SERVICE, ArchiveError, archive_url
from yardtoll.store.shared.archive import SENT_TABLES, SharedArchive
from yardtoll.store.yard_file import YardFile

needs_server = pytest.mark.skipif(program("initdb") is None, reason="PostgreSQL is not installed")


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    made = Server(tmp_path_factory.mktemp("server"))
    made.make()
    made.start()
    yield made
    made.kill()


@pytest.fixture
def address(server, request):
    return server.fresh(request.node.name[:50])


@pytest.fixture
def archive(address):
    made = SharedArchive(address)
    yield made
    made.close()


@pytest.fixture
def yard(tmp_path):
    with YardFile.open(fresh_demo(tmp_path)) as opened:
        opened.put(replace(opened.info(), uid="0" * 31 + "1"))
        yield opened


def assert_same(one, other):
    for table in SENT_TABLES:
        assert rows_of(one, table) == rows_of(other, table), table.name


@needs_server
def test_a_yard_comes_back_as_it_was(tmp_path, archive, yard):
    sent = archive.send(yard)
    assert sent.stations == 3 and sent.rows > 200
    assert archive.send(yard).stations == 0  # nothing is sent again
    (there,) = archive.yards()
    assert there.name == yard.info().name and there.uid == yard.info().uid
    archive.fetch(there.uid, tmp_path / "back.yard")
    with YardFile.open(tmp_path / "back.yard") as back:
        assert_same(yard, back)
        for station in yard.stations():
            before, after = analyses_of(yard, station), analyses_of(back, station)
            assert [a.figures for a in before] == [a.figures for a in after]


@needs_server
def test_only_what_changed_is_sent_and_old_samples_do_not_stay(tmp_path, archive, yard):
    archive.send(yard)
    run = yard.runs(2)[0]
    yard.put(Mark(run_id=run.id, time_s=5.0, word="later \x00 on"))
    yard.put(Receiving(station_id=3, price=99.0))
    assert archive.send(yard).stations == 2
    yard.append_samples(
        yard.main_recording(run.id).id, np.array([1e6, 1e6 + 1]),
        {q: np.ones(2) for q in yard.main_recording(run.id).quantities},
    )  # fmt: skip
    assert archive.send(yard).stations == 1
    yard.merge_samples(run.id)  # the blocks are others now, with the same samples
    archive.send(yard)
    archive.fetch(yard.info().uid, tmp_path / "back.yard")
    with YardFile.open(tmp_path / "back.yard") as back:
        one, other = yard.trace(run.id), back.trace(run.id)
        assert (one.time_s == other.time_s).all() and one.time_s.size == other.time_s.size
        assert any("later" in mark.word for mark in back.marks(run.id))


@needs_server
def test_two_benches_send_at_once(tmp_path, address, yard):
    yard.stay_whole()
    other_path = tmp_path / "other.yard"
    shutil.copy(yard.path, other_path)
    failed = []

    def send(path, uid):
        try:
            with YardFile.open(path) as opened:
                opened.put(replace(opened.info(), uid=uid, name=f"Bench {uid[-1]}"))
                archive = SharedArchive(address)
                for number in range(3):
                    opened.put(Station(name=f"New {number}", rated_wh=100, rated_w=100))
                    archive.send(opened)
                archive.close()
        except Exception as error:
            failed.append(error)

    paths = (yard.path, other_path)
    threads = [
        threading.Thread(target=send, args=(path, "0" * 31 + str(n)))
        for n, path in enumerate(paths, 2)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failed == []
    archive = SharedArchive(address)
    assert [there.name for there in archive.yards()] == ["Bench 2", "Bench 3"]
    for there, path in zip(archive.yards(), paths, strict=True):
        archive.fetch(there.uid, tmp_path / f"{there.name}.yard")
        with YardFile.open(tmp_path / f"{there.name}.yard") as back, YardFile.open(path) as own:
            assert_same(own, back)
            assert len(back.stations()) == 6
    archive.close()


@needs_server
def test_a_server_killed_in_the_middle_loses_nothing_and_keeps_nothing_twice(
    tmp_path, server, address, yard
):
    archive = SharedArchive(address)

    def kill_at_the_second(text, _):
        if text.startswith("Station 2"):
            server.kill()

    with pytest.raises(ArchiveError, match="is not there|refused"):
        archive.send(yard, kill_at_the_second)
    with pytest.raises(ArchiveError, match="is not there"):
        archive.send(yard)
    yard.put(Station(name="Meanwhile", rated_wh=500, rated_w=400))  # the bench goes on
    server.start()
    sent = archive.send(yard)
    assert sent.stations == 3  # the first was there whole
    with server.connect(address.rsplit("/", 1)[1]) as direct:
        name = f'"yard_{yard.info().uid}"'
        for table in SENT_TABLES:
            count = direct.execute(f"SELECT count(*) FROM {name}.{table.name}").fetchone()[0]
            assert count == len(rows_of(yard, table)), table.name
    archive.fetch(yard.info().uid, tmp_path / "back.yard")
    with YardFile.open(tmp_path / "back.yard") as back:
        assert_same(yard, back)
    archive.close()


@needs_server
def test_what_is_asked_for_wrongly_is_one_sentence(tmp_path, archive, yard):
    with pytest.raises(ArchiveError, match="holds no such yard"):
        archive.fetch("f" * 32, tmp_path / "x.yard")
    assert not (tmp_path / "x.yard").exists()
    yard.put(replace(yard.info(), uid='1"; DROP TABLE x; --'))
    with pytest.raises(ArchiveError, match="no mark of its own"):
        archive.send(yard)


@pytest.mark.parametrize(
    "text", ["", "archive", "sqlite:///x", "postgresql://host", "mysql://u@h/x"]
)
def test_an_address_that_is_none(text):
    with pytest.raises(ArchiveError, match="should look like"):
        archive_url(text)


def test_the_password_is_not_in_the_address(monkeypatch):
    class Ring(keyring.backend.KeyringBackend):
        priority = 1

        def get_password(self, service, username):
            return "from the ring" if (service, username) == (SERVICE, "me@h/x") else None

        def set_password(self, *_): ...

        def delete_password(self, *_): ...

    monkeypatch.delenv(FROM_ENVIRONMENT, raising=False)
    monkeypatch.setattr(keyring.core, "_keyring_backend", Ring())
    assert archive_url("postgresql://me@h/x").password == "from the ring"
    assert archive_url("postgresql://you@h/x").password is None
    monkeypatch.setenv(FROM_ENVIRONMENT, "of the environment")
    assert archive_url("postgresql://me@h/x").password == "of the environment"
    with pytest.raises(ArchiveError, match="must not hold the password") as refused:
        archive_url("postgresql://me:secret@h/x")
    assert "secret" not in str(refused.value)


def test_every_table_is_sent_or_only_kept_ready():
    assert set(schema.metadata.sorted_tables) - set(SENT_TABLES) == {schema.standing}
