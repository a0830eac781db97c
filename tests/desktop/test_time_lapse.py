"""A time-lapse of a display: stepped through by keys, read under frames, its dark frame found."""

import io
from datetime import datetime, timedelta

import av
import numpy as np
import pytest
from conftest_helpers import TANSY, drop, in_dialog
from PIL import Image, ImageDraw
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from yardtoll.core.notes.bisection import Bisection
from yardtoll.desktop.actions.time_lapse import step_through
from yardtoll.desktop.dialogs.noted_run import NotedRunDialog
from yardtoll.desktop.dialogs.time_lapse import TimeLapseDialog
from yardtoll.review.analysis import analyse_run
from yardtoll.store.frames import FramesError, at_interval, evidence_of, read_frames

BEGAN = datetime(2026, 5, 14, 22, 0, 0)
EVERY_S, FRAMES, DARK = 120, 60, 41
BOX = (0.3, 0.4, 0.7, 0.6)


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """Sixty frames, two minutes apart; the display goes dark in the 42nd."""
    made = tmp_path_factory.mktemp("lapse")
    for number in range(FRAMES):
        picture = Image.new("RGB", (320, 240), (40, 38, 36))
        draw = ImageDraw.Draw(picture)
        if number < DARK:
            draw.rectangle((120, 105, 200, 135), fill=(120, 220, 190))
            draw.text((130, 112), f"{100 - 2 * number} %", fill=(10, 20, 20))
        exif = Image.Exif()
        at = BEGAN + timedelta(seconds=EVERY_S * number)
        exif.get_ifd(0x8769)[36867] = f"{at:%Y:%m:%d %H:%M:%S}"
        picture.save(made / f"frame{number:04d}.jpg", exif=exif)
    return made


def test_frames_come_in_order_with_the_cameras_time(folder, tmp_path):
    frames = read_frames(folder)
    assert len(frames) == FRAMES
    assert [round(f.s - frames[0].s) for f in frames[:3]] == [0, 120, 240]
    again = at_interval(frames, 0.0, 10.0)
    assert [f.s for f in again[:3]] == [0, 10, 20]
    (tmp_path / "only.txt").write_text("x")
    with pytest.raises(FramesError, match="at least two pictures"):
        read_frames(tmp_path)
    assert Image.open(io.BytesIO(evidence_of(frames[0]))).size <= (640, 640)


@pytest.mark.parametrize("dark", [1, 2, 1999, 2000, 3141, 3998, 3999])
def test_four_thousand_frames_take_at_most_twelve_looks(dark):
    found = Bisection(lit=0, dark=3999)
    while not found.is_found:
        found = found.with_look(is_lit=found.next < dark)
    assert found.dark == dark and found.looks <= 12


def test_a_night_is_stepped_through_and_kept(qtbot, demo, folder):
    session = demo.bench.session
    session.choose_station(TANSY)

    def step(dialog):
        line = dialog.line
        QTest.keyClicks(line, "on 0 Wh 240 W")
        assert dialog.said.text() == "on  ·  0 Wh  ·  240 W"
        QTest.keyClick(line, Qt.Key.Key_Return)
        QTest.keyClick(line, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        assert dialog.index == 10 and "22:20:00" in dialog.where.text()
        QTest.keyClicks(line, "80 Wh 80 Ah")
        QTest.keyClick(line, Qt.Key.Key_Return)
        assert "80 Ah" in dialog.said.text() and dialog.index == 10
        line.clear()
        QTest.keyClicks(line, "80 Wh 80 %")
        QTest.keyClick(line, Qt.Key.Key_Return)
        dialog.find_button.click()
        assert "Drag a rectangle" in dialog.asked.text()
        dialog.show()
        view = dialog.view
        place = view.picture_place()
        corners = [
            QPoint(round(place.left() + x * place.width()), round(place.top() + y * place.height()))
            for x, y in (BOX[:2], BOX[2:])
        ]
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=corners[0])
        QTest.mouseMove(view, corners[1])
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=corners[1])
        assert view.box == pytest.approx(BOX, abs=0.02)
        dialog.find_button.click()
        assert dialog.index == DARK and "found in 6 looks" in dialog.asked.text()
        assert dialog.text().splitlines()[-1] == "2026-05-14 23:21:00 off ± 60 s"
        in_dialog(lambda run: run.accept_button.click(), NotedRunDialog)
        dialog.accept_button.click()

    in_dialog(step, TimeLapseDialog)
    step_through(demo, folder)
    yard = session.yard
    qtbot.waitUntil(lambda: any(r.origin == "typed" for r in yard.runs(TANSY)), timeout=60_000)
    qtbot.waitUntil(lambda: len(yard.photos(TANSY)) >= 3, timeout=60_000)
    run = next(r for r in yard.runs(TANSY) if r.origin == "typed")
    found = analyse_run(yard, run)
    result = found.energy_out.result
    assert result.duration_s == DARK * EVERY_S - 60 and result.edges_s[1] == pytest.approx(80)
    shown = [photo.caption for photo in yard.photos(TANSY)]
    assert f"Run {run.number}, 22:20:00" in shown and f"Run {run.number}, 23:22:00" in shown
    demo.actions_by_name["Undo"].trigger()
    assert not any(r.origin == "typed" for r in yard.runs(TANSY))


def test_by_eye_each_answer_halves_what_is_left(qtbot, folder):
    dialog = TimeLapseDialog(read_frames(folder))
    qtbot.addWidget(dialog)
    dialog.look(is_lit=True)
    looks = 0
    while dialog.bisection is not None:
        (dialog.lit_button if dialog.index < DARK else dialog.dark_button).click()
        looks += 1
    assert dialog.index == DARK and looks <= 6
    assert dialog.text().endswith("off ± 60 s")


@pytest.fixture(scope="module")
def video(tmp_path_factory):
    """Thirty seconds at four frames a second; the display goes dark after 20 s."""
    path = tmp_path_factory.mktemp("video") / "night.mp4"
    with av.open(str(path), "w") as container:
        stream = container.add_stream("mpeg4", rate=4)
        stream.width, stream.height, stream.pix_fmt = 320, 240, "yuv420p"
        for number in range(120):
            pixels = np.full((240, 320, 3), 40, dtype=np.uint8)
            if number < 80:
                pixels[105:135, 120:200] = (120, 220, 190)
            for packet in stream.encode(av.VideoFrame.from_ndarray(pixels, format="rgb24")):
                container.mux(packet)
        for packet in stream.encode():
            container.mux(packet)
    return path


def test_a_video_is_stepped_through_like_pictures(qtbot, video, tmp_path):
    frames = read_frames(video)
    assert len(frames) == 120
    assert frames[-1].s - frames[0].s == pytest.approx(29.75, abs=0.01)
    dialog = TimeLapseDialog(frames)
    qtbot.addWidget(dialog)
    assert dialog.view.show_frame(frames[119]) and dialog.view.show_frame(frames[3])
    dialog.view.set_box(BOX)
    dialog.times.setCurrentIndex(1)
    dialog.every.setValue(60.0)
    dialog.find_dark()
    assert dialog.index == 80 and "found in 7 looks" in dialog.asked.text()
    assert dialog.text().endswith("off ± 30 s")
    assert evidence_of(frames[80])[:2] == b"\xff\xd8"
    bad = tmp_path / "bad.mp4"
    bad.write_bytes(video.read_bytes()[:500])
    with pytest.raises(FramesError, match=r"bad\.mp4 is no video"):
        read_frames(bad)


def test_a_folder_or_a_video_is_dropped(qtbot, demo, folder, video):
    demo.bench.session.choose_station(TANSY)
    for path, frames in ((folder, FRAMES), (video, 120)):
        seen = []
        in_dialog(lambda dialog, seen=seen: (seen.append(len(dialog.frames)), dialog.reject()),
                  TimeLapseDialog)  # fmt: skip
        drop(demo, path)
        qtbot.waitUntil(lambda seen=seen: bool(seen), timeout=60_000)
        assert seen == [frames]
