"""A yard that is renamed or deleted under the window, and one that is opened again."""

from yardtoll.store.records import Station
from yardtoll.store.yard_file import YardFile


def test_renamed_it_is_said_and_can_be_kept_here(window, tmp_path):
    window.new_yard(tmp_path / "a.yard")
    bench, path = window.bench, tmp_path / "a.yard"
    path.rename(tmp_path / "elsewhere.yard")
    bench.look_for_yard()
    assert "was renamed, moved or deleted" in window.notice.text
    bench.session.add(Station(name="Clover", rated_wh=1, rated_w=1), "Add")
    assert not path.exists()
    window.notice.action_button.click()
    assert path.exists() and "is where it was again" in window.notice.text
    bench.session.add(Station(name="Fennel", rated_wh=1, rated_w=1), "Add")
    window.close_yard()
    with YardFile.open(path) as kept, YardFile.open(tmp_path / "elsewhere.yard") as moved:
        assert [s.name for s in kept.stations()] == ["Clover", "Fennel"]
        assert [s.name for s in moved.stations()] == ["Clover"]


def test_opening_the_open_yard_again_changes_nothing(window, tmp_path):
    window.new_yard(tmp_path / "a.yard")
    bench = window.bench
    (tmp_path / "link.yard").symlink_to(tmp_path / "a.yard")
    window.open_yard(tmp_path / "link.yard")
    assert window.bench is bench and "is open here already" in window.notice.text
    bench.session.add(Station(name="Clover", rated_wh=1, rated_w=1), "Add")
    window.close_yard()
    with YardFile.open(tmp_path / "a.yard") as kept:
        assert [s.name for s in kept.stations()] == ["Clover"]
