"""The panel of the first evening: one step at a time, beside the window's own stops."""

from pathlib import Path

import platformdirs
from PySide6.QtCore import QElapsedTimer, Qt, QTimer, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from yardtoll.core.formatting import format_clock
from yardtoll.demo.evening.scene import (
    LABEL,
    Seen,
    false_alarms,
    make_practice_yard,
    mistakes_missed,
    scene,
)
from yardtoll.demo.evening.steps import Around, last_run, steps, true_wh
from yardtoll.desktop.host import Host
from yardtoll.desktop.theme.fonts import scaled
from yardtoll.desktop.theme.theme import theme
from yardtoll.desktop.widgets.basics import PressedLabel, button, label, rule, scrolled, set_role
from yardtoll.store.errors import YardError

BENCH_SPEED = 600.0
_WIDTH = 320
_LOOK_MS = 400
_ABOVE_VERDICT = 50
"""So much stays in sight above the verdict: the button that asked for it."""


class FirstEvening(QFrame):
    """Leads through a whole test on a practice bench.

    Signals:
        left: the learner has closed it.
    """

    left = Signal()

    def __init__(self, host: Host, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("evening")
        self.setAccessibleName("The first evening")
        self.host = host
        self.steps = steps()
        self.at = 0
        self.has_found = False
        self._speed_before = host.settings.simulated_speed
        self._took = QElapsedTimer()
        self._took.start()
        self.boxes: dict[str, QCheckBox] = {}
        self.count = label("", "muted")
        self.title = label("", "heading", wrap=True)
        self.words = label("", wrap=True)
        self.verdict = label("", "heading", wrap=True)
        self.answer = label("", "note", wrap=True)
        self.look_button = button("These would spoil it", self.judge, "primary")
        self.label_text = label(LABEL.strip(), "quiet", wrap=True)
        self.copy_button = button("Copy the label", self._copy_label)
        self.go_button = button("Show me where", self._go)
        self.next_button = button("Skip this step", self._skip, "link")
        self._lay_out()
        self._timer = QTimer(self, interval=_LOOK_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()
        theme.changed.connect(self._fit)
        self._fit()
        self.show_step()

    def _lay_out(self) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(18, 16, 18, 12)
        column.setSpacing(10)
        parts: tuple[QWidget, ...] = (
            self.count, self.title, self.words, self._make_scene(), self.look_button,
            self.verdict, self.answer, self.label_text, self.copy_button,
        )  # fmt: skip
        for part in parts:
            column.addWidget(part)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 8)
        self._area = scrolled(page)
        outer.addWidget(self._area, 1)
        outer.addWidget(rule())
        # Below what scrolls: how it goes on is always in sight.
        leave = button("Leave the first evening", self.leave, "link")
        for parts in ((self.go_button, self.next_button), (leave,)):
            row = QHBoxLayout()
            row.setContentsMargins(18, 0, 18, 0)
            for part in parts:
                row.addWidget(part)
            row.addStretch(1)
            outer.addLayout(row)

    def _make_scene(self) -> QWidget:
        self._scene = QWidget()
        column = QVBoxLayout(self._scene)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for seen in scene():
            column.addLayout(self._seen_row(seen))
        return self._scene

    def _seen_row(self, seen: Seen) -> QHBoxLayout:
        row = QHBoxLayout()
        box = QCheckBox()
        box.setAccessibleName(seen.words)
        self.boxes[seen.key] = box
        words = PressedLabel(seen.words)
        words.clicked.connect(box.toggle)
        row.addWidget(box, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(words, 1)
        return row

    def _fit(self) -> None:
        self.setFixedWidth(scaled(_WIDTH))

    # going on

    def show_step(self) -> None:
        """The step that is due."""
        is_over = self.at >= len(self.steps)
        is_scene, is_label = self.at == 0, self.at == 2
        self._scene.setVisible(is_scene and not self.has_found)
        self.look_button.setVisible(is_scene and not self.has_found)
        self.label_text.setVisible(is_label)
        self.copy_button.setVisible(is_label)
        self.next_button.setVisible(not is_over)
        self.verdict.setVisible(False)
        self.answer.setVisible(False)
        if is_over:
            self._show_end()
            return
        step = self.steps[self.at]
        self.count.setText(f"The first evening, step {self.at + 1} of {len(self.steps)}")
        self.title.setText(step.title)
        self.words.setText(step.words)
        self.go_button.setVisible(bool(step.stop))

    def judge(self) -> None:
        """Say what the ticks found and missed, and what each mistake would have cost."""
        ticked = {key for key, box in self.boxes.items() if box.isChecked()}
        missed, wrong = mistakes_missed(ticked), false_alarms(ticked)
        found = [s for s in scene() if s.is_mistake and s.key in ticked]
        if missed:
            words = "one mistake is" if len(missed) == 1 else f"{len(missed)} mistakes are"
            self.verdict.setText(f"Look again: {words} still there.")
        else:
            self.verdict.setText("That is all of them. Take your friend aside, and put it right.")
            self.has_found = True
            self._name_next("Go on", "primary")
        self.answer.setText("\n\n".join(f"• {s.words} {s.why}" for s in (*found, *wrong)))
        self.verdict.setVisible(True)
        self.answer.setVisible(bool(found or wrong))
        # What was ticked is all in the answer.
        self._scene.setVisible(bool(missed))
        self.look_button.setVisible(bool(missed))
        QTimer.singleShot(0, self, self._show_verdict)

    def _show_verdict(self) -> None:
        """Scroll to it, and to as much of the answer as there is room for."""
        bar = self._area.verticalScrollBar()
        above = self.verdict.mapTo(self._area, self.verdict.rect().topLeft()).y()
        bar.setValue(bar.value() + above - scaled(_ABOVE_VERDICT))

    def look(self) -> None:
        """Go on where the step that is due has been done."""
        bench = self.host.bench
        if bench is None:
            self.leave()
            return
        if self.at >= len(self.steps) or self.at == 0:
            return
        around = Around(
            yard=bench.session.yard,
            stop=self.host.current_stop,
            is_recording=bench.live is not None,
            has_found=self.has_found,
        )
        if self.steps[self.at].is_done(around):
            self.at += 1
            self.show_step()

    def _skip(self) -> None:
        self._name_next("Skip this step", "link")
        if self.at == 0 and not self.has_found:
            for seen in scene():
                self.boxes[seen.key].setChecked(seen.is_mistake)
            self.judge()
            return
        self.at += 1
        self.show_step()

    def _name_next(self, text: str, role: str) -> None:
        self.next_button.setText(text)
        set_role(self.next_button, role)

    def _go(self) -> None:
        self.host.go_to(self.steps[self.at].stop)

    def _copy_label(self) -> None:
        QGuiApplication.clipboard().setText(LABEL)
        self.host.confirm("The label is copied.")

    def _show_end(self) -> None:
        minutes = format_clock(self._took.elapsed() / 1000)
        self.count.setText(f"The first evening, {minutes}")
        self.title.setText("That was a whole test")
        self.go_button.setVisible(False)
        self.words.setText(self._compared() or "Start a yard of your own: File, New yard…")

    def _compared(self) -> str:
        """The learner's figure beside the simulated bench's own truth."""
        bench = self.host.bench
        run = last_run(bench.session.yard) if bench is not None else None
        true = true_wh(run) if run is not None else None
        analysis = bench.analyses.of(run) if bench is not None and run is not None else None
        if true is None or analysis is None:
            return ""
        figure = next((f for f in analysis.outcome.figures if f.key == "delivered_wh"), None)
        if figure is None:
            return ""
        holds = abs(figure.value - true) <= figure.expanded
        said = "inside your ±" if holds else "outside your ±: once in twenty times that is so"
        return (
            f"You measured {figure.figure}. The simulated station really delivered {true:.1f} Wh: "
            f"{said}. Start a yard of your own: File, New yard…"
        )

    def leave(self) -> None:
        """Close the panel; the practice yard stays, to be opened again."""
        self._timer.stop()
        self.host.settings.simulated_speed = self._speed_before
        self.left.emit()


def practice_yard() -> Path:
    """A new yard to practise in, beside earlier ones.

    Raises:
        YardError: the place cannot be written.
    """
    folder = Path(platformdirs.user_data_dir("yardtoll")) / "practice"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise YardError(f"{folder} cannot be made: {error.strerror}") from None
    path, number = folder / "First evening.yard", 2
    while path.exists():
        path = folder / f"First evening {number}.yard"
        number += 1
    make_practice_yard(path)
    return path
