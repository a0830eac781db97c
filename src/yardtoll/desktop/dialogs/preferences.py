"""The dialog of preferences: pages by a list, kept together."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QTime
from PySide6.QtWidgets import (
    QCheckBox,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QStackedWidget,
    QTimeEdit,
    QVBoxLayout,
    QWidget,
)

from yardtoll.core.region import REGIONS, Region, in_region
from yardtoll.desktop.widgets.basics import button, choice, label, number_box
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.desktop.widgets.roomy_area import RoomyArea
from yardtoll.desktop.widgets.wheel import HourField
from yardtoll.desktop.workbench.bell import play_alarm
from yardtoll.desktop.workbench.preferences import (
    LONGEST_KEPT_DAYS,
    RULE_WORDS,
    TEXT_PERCENTS,
    Preferences,
)

_EXAMPLE = "21.5 °C, 12.35 kg, 1.83 kWh"
_CURRENCIES = (
    "AUD",
    "CAD",
    "CHF",
    "CZK",
    "DKK",
    "EUR",
    "GBP",
    "JPY",
    "NOK",
    "NZD",
    "PLN",
    "SEK",
    "USD",
)
_COLOURS = (
    ("As the system has them", "system"),
    ("Day", "day"),
    ("Night", "night"),
    ("High contrast", "contrast"),
)
PAGES = {
    "region": "Units and region",
    "look": "Colours and text",
    "alarms": "Alarms",
    "judging": "Judging",
    "files": "Yards and copies",
}
"""Titles of the pages by their keys."""
_WIDE = 640


class PreferencesDialog(HelpedDialog):
    """Every preference; nothing changes until they are used.

    Args:
        of_system: the region of the system's country.
    """

    manual_page = "start"

    def __init__(
        self, prefers: Preferences, of_system: Region, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Preferences")
        self._before, self._of_system = prefers, of_system
        self.pages = QListWidget()
        self.pages.setAccessibleName("Pages of preferences")
        self.pages.addItems(list(PAGES.values()))
        self.pages.setFixedWidth(self.pages.sizeHintForColumn(0) + 40)
        self._stack = QStackedWidget()
        for build in (self._region, self._look, self._alarms, self._judging, self._files):
            form = QFormLayout()
            form.setHorizontalSpacing(14)
            form.setVerticalSpacing(10)
            build(form)
            self._stack.addWidget(RoomyArea(form))
        self.pages.currentRowChanged.connect(self._stack.setCurrentIndex)
        self.pages.setCurrentRow(0)
        buttons = QDialogButtonBox()
        use = buttons.addButton("Use these", QDialogButtonBox.ButtonRole.AcceptRole)
        use.setProperty("role", "primary")
        use.setDefault(True)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        middle = QHBoxLayout()
        middle.setSpacing(24)
        middle.addWidget(self.pages)
        middle.addWidget(self._stack, 1)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(22, 18, 22, 16)
        outer.setSpacing(14)
        outer.addWidget(label("Preferences", "title"))
        outer.addLayout(middle, 1)
        outer.addWidget(buttons)
        self.setMinimumWidth(_WIDE)

    def go_to(self, page: str) -> None:
        """Show a page by its key."""
        self.pages.setCurrentRow(list(PAGES).index(page))

    def preferences(self) -> Preferences:
        """As they are chosen now."""
        return replace(
            self._before,
            region=self.regions.currentData(),
            clock=self.clocks.currentData(),
            currency=self.currencies.currentData(),
            decimal_sign=self.decimals.currentData(),
            colours=self.colours.currentData(),
            text_percent=self.text_sizes.currentData(),
            sounds=self.sounds.isChecked(),
            notices=self.notices.isChecked(),
            quiet_from=self._quiet(self.quiet_from),
            quiet_until=self._quiet(self.quiet_until),
            rule=self.rules.currentData(),
            repeatability=self.repeats.value() / 100,
            yards_folder=self.folder.text().strip(),
            backup_days=int(self.days.value()),
        )

    # pages

    def _region(self, form: QFormLayout) -> None:
        prefers = self._before
        of_system = f"As the system: {self._of_system.name}"
        names: list[tuple[str, object]] = [(of_system, "")]
        names += [(region.name, region.key) for region in REGIONS.values()]
        self.regions = _chosen("Region", names, prefers.region)
        as_there = ("As in the region", "")
        self.clocks = _chosen(
            "Clock", [as_there, ("24 h, 18:40", "24"), ("12 h, 6:40 pm", "12")], prefers.clock
        )
        self.currencies = _chosen(
            "Currency", [as_there, *((code, code) for code in _CURRENCIES)], prefers.currency
        )
        self.decimals = _chosen(
            "Decimal sign", [as_there, ("Point", "."), ("Comma", ",")], prefers.decimal_sign
        )
        for name, box in (
            ("Region", self.regions), ("Clock", self.clocks),
            ("Currency", self.currencies), ("Decimal sign", self.decimals),
        ):  # fmt: skip
            form.addRow(name, box)
            box.currentIndexChanged.connect(self._show_region)
        self.words = label("", "strong")
        self.example = label("", "muted")
        form.addRow("Shown as", self.words)
        form.addRow("For example", self.example)
        form.addRow(
            label(
                "Any of these can be typed: “77 F”, “25 °C”, “27 lb”, “1,5” or “1.5”. Volts and "
                "currency are suggestions for new circuits and sites; the yard keeps what was "
                "noted.",
                "muted",
                wrap=True,
            )
        )
        self._show_region()

    def _show_region(self) -> None:
        chosen = replace(
            self._before,
            region=self.regions.currentData(),
            clock=self.clocks.currentData(),
            currency=self.currencies.currentData(),
            decimal_sign=self.decimals.currentData(),
        ).shown_region(self._of_system)
        self.words.setText(chosen.words)
        # Not by the label's own region, which is the one used until now.
        self.example.setText(f"“{in_region(_EXAMPLE, chosen)}”")

    def _look(self, form: QFormLayout) -> None:
        prefers = self._before
        self.colours = _chosen("Colours", list(_COLOURS), prefers.colours)
        sizes = sorted({*TEXT_PERCENTS, prefers.text_percent})
        self.text_sizes = _chosen(
            "Text size", [(f"{percent} %", percent) for percent in sizes], prefers.text_percent
        )
        form.addRow("Colours", self.colours)
        form.addRow("Text size", self.text_sizes)

    def _alarms(self, form: QFormLayout) -> None:
        prefers = self._before
        self.sounds = QCheckBox("Sound when something goes wrong, and when a run ends")
        self.sounds.setChecked(prefers.sounds)
        self.notices = QCheckBox("A note of the desktop while this window is not in front")
        self.notices.setChecked(prefers.notices)
        self.is_quiet = QCheckBox("Quiet hours: nothing is heard between")
        self.is_quiet.setChecked(bool(prefers.quiet_from and prefers.quiet_until))
        self.quiet_from = _time_edit("Quiet from", prefers.quiet_from or "22:00")
        self.quiet_until = _time_edit("Quiet until", prefers.quiet_until or "07:00")
        hours = QHBoxLayout()
        hours.setSpacing(8)
        hours.addSpacing(24)
        for widget in (self.quiet_from, label("and"), self.quiet_until):
            hours.addWidget(widget)
            self.is_quiet.toggled.connect(widget.setEnabled)
            widget.setEnabled(self.is_quiet.isChecked())
        hours.addStretch(1)
        form.addRow(self.sounds)
        form.addRow(self.notices)
        form.addRow(self.is_quiet)
        form.addRow(hours)
        hear = QHBoxLayout()
        hear.addWidget(button("Hear it", play_alarm))
        hear.addStretch(1)
        form.addRow(hear)

    def _quiet(self, edit: QTimeEdit) -> str:
        return edit.time().toString("HH:mm") if self.is_quiet.isChecked() else ""

    def _judging(self, form: QFormLayout) -> None:
        prefers = self._before
        self.rules = _chosen(
            "Rule", [(words, rule.value) for rule, words in RULE_WORDS.items()], prefers.rule
        )
        self.repeats = number_box("Repeatability", "%", 0.0, 20.0, 100 * prefers.repeatability, 2)
        form.addRow("Rule", self.rules)
        form.addRow("Run to run", self.repeats)
        form.addRow(
            label(
                "New yards begin with these; Verdicts changes them for the yard that is open. "
                "Run to run: how far a station's results scatter (standard deviation), assumed "
                "until repeats show it.",
                "muted",
                wrap=True,
            )
        )

    def _files(self, form: QFormLayout) -> None:
        prefers = self._before
        self.folder = QLineEdit(prefers.yards_folder)
        self.folder.setAccessibleName("Folder for yards")
        self.folder.setPlaceholderText("the folder used last")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.folder, 1)
        row.addWidget(button("Choose…", self._choose_folder, name="Choose the folder for yards"))
        self.days = number_box(
            "Days a copy is kept", "days", 0, LONGEST_KEPT_DAYS, prefers.backup_days
        )
        form.addRow("New yards in", row)
        form.addRow("Daily copies for", self.days)
        form.addRow(
            label(
                "Each day a yard was changed, a whole copy of it is kept in a folder beside it; 0 "
                "keeps none. File, Go back to an earlier day… opens one.",
                "muted",
                wrap=True,
            )
        )

    def _choose_folder(self) -> None:
        start = self.folder.text() or str(Path.home())
        chosen = QFileDialog.getExistingDirectory(self, "Folder for yards", start)
        if chosen:
            self.folder.setText(chosen)


def _chosen(name: str, items: list[tuple[str, object]], value: object):
    box = choice(name, items)
    box.setCurrentIndex(max(box.findData(value), 0))
    return box


def _time_edit(name: str, text: str) -> QTimeEdit:
    edit = HourField()
    edit.setTime(QTime.fromString(text, "HH:mm"))
    edit.setDisplayFormat("HH:mm")
    edit.setAccessibleName(name)
    edit.setButtonSymbols(QTimeEdit.ButtonSymbols.NoButtons)
    return edit
