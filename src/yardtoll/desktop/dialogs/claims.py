"""Dialogs for claims: one by hand, or a pasted text read and confirmed."""

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHeaderView,
    QPlainTextEdit,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from yardtoll.core.claims.kinds import (
    CLAIM_KINDS,
    ClaimKind,
    GoodSide,
    impossible_together,
    value_is_wrong,
)
from yardtoll.core.claims.meaning import choices_for, meaning_of, read_kept
from yardtoll.core.claims.reading.read import LIKELY, ReadClaim, read_claims
from yardtoll.core.errors import UnusableDataError
from yardtoll.core.formatting import counted
from yardtoll.core.region import unit_shown
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice, label, let_type, number_box, plain_tip, refill
from yardtoll.store.records import StoredClaim
from yardtoll.store.shown_region import shown_region

SOURCES = ("label", "manual", "listing", "box", "app")
_PASTE_SIZE = (980, 640)
_TEXT_H = 150


def _source_box(source: str) -> QComboBox:
    """A source chosen or typed."""
    box = choice("Source", [(s, s) for s in SOURCES])
    let_type(box)
    box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
    box.setCurrentText(source)
    return box


class ClaimDialog(FormDialog):
    """One claim."""

    manual_page = "claims"

    def __init__(
        self,
        claim: StoredClaim | None,
        station_id: int,
        others: list[StoredClaim],
        parent: QWidget | None = None,
    ) -> None:
        title = "Edit the claim" if claim else "Add a claim"
        super().__init__(title, "Keep it", parent, removable=claim is not None)
        self._before = claim
        self._station_id = station_id
        self._others = [o for o in others if claim is None or o.id != claim.id]
        self.kind = choice("What is claimed")
        group = None
        for kind in CLAIM_KINDS.values():
            if group is not None and kind.group is not group:
                self.kind.insertSeparator(self.kind.count())
            group = kind.group
            unit = unit_shown(kind.unit, shown_region())
            self.kind.addItem(f"{kind.title} ({unit})" if unit else kind.title, kind.key)
        self.kind.setEditable(False)
        self.value = number_box("Value", "", -100, 1e7, (claim.value or 0) if claim else 0, 3)
        self.yes = choice("Answer", [("yes", 1.0), ("no", 0.0)])
        self.rows.addRow("What", self.kind)
        self.rows.addRow("Value", self.value)
        self.rows.addRow("Answer", self.yes)
        self.words = self.line("In words", claim.words if claim else "", "LFP")
        self.condition = self.line(
            "Under what condition", claim.condition if claim else "", "at 25 °C, UPS mode, 0–80 %"
        )
        self.source = _source_box(claim.source if claim else SOURCES[0])
        self.rows.addRow("Source", self.source)
        self.wording = self.line(
            "Words beside it", claim.wording if claim else "", "up to, about, ±5 %, regulated"
        )
        self.limit = choice("Read it as", [("as it is usually meant", "")])
        self.minus = number_box("Leaves open below", "%", 0, 100, 0, 1)
        self.plus = number_box("Leaves open above", "%", 0, 100, 0, 1)
        self.meant = label("", "muted", wrap=True)
        self.rows.addRow("Read it as", self.limit)
        self.rows.addRow("Leaves open below", self.minus)
        self.rows.addRow("Leaves open above", self.plus)
        self.rows.addRow(self.meant)
        self.note = self.line("Note", claim.note if claim else "")
        if claim:
            self.kind.setCurrentIndex(self.kind.findData(claim.kind))
            self.yes.setCurrentIndex(0 if claim.value else 1)
        self.kind.currentIndexChanged.connect(self._show_kind)
        self._show_kind()
        self._show_reading(claim.judged_as if claim else "")
        self.limit.currentIndexChanged.connect(self._show_meaning)
        for box in (self.minus, self.plus, self.value):
            box.valueChanged.connect(self._show_meaning)
        for field in (self.wording, self.condition):
            field.textChanged.connect(self._show_meaning)

    def wrong(self) -> str:
        made = self.record()
        if said := value_is_wrong(made.kind, made.value, made.words):
            return f"{said}."
        clash = impossible_together([o.claim for o in self._others] + [made.claim])
        known = impossible_together([o.claim for o in self._others])
        fresh = [sentence for sentence in clash if sentence not in known]
        return f"{fresh[0]}." if fresh else ""

    def record(self) -> StoredClaim:
        """The claim as entered."""
        kind = self._kind()
        value: float | None = self.value.value()
        if kind.good_side is GoodSide.YES_NO:
            value = self.yes.currentData()
        return StoredClaim(
            id=self._before.id if self._before else None,
            station_id=self._station_id,
            kind=kind.key,
            value=None if kind.in_words else value,
            words=self.words.text().strip() if kind.in_words else "",
            condition=self.condition.text().strip(),
            source=self.source.currentText().strip(),
            note=self.note.text().strip(),
            text=self._before.text if self._before else "",
            wording=self.wording.text().strip(),
            judged_as=self._judged_as(),
        )

    def _judged_as(self) -> str:
        """The reading that was chosen, as it is kept; "" for the usual one."""
        chosen = str(self.limit.currentData() or "")
        if not chosen:
            return ""
        made = chosen
        if self.minus.value():
            made += f" -{self.minus.value():g} %"
        if self.plus.value():
            made += f" +{self.plus.value():g} %"
        return made

    def _show_reading(self, kept: str) -> None:
        """Choose what is kept."""
        if not kept:
            return
        meaning = read_kept(kept, 1.0)
        self.limit.setCurrentIndex(max(self.limit.findData(meaning.limit.value), 0))
        self.minus.setValue(100 * meaning.minus)
        self.plus.setValue(100 * meaning.plus)
        self._show_meaning()

    def _show_meaning(self) -> None:
        """Say how the claim as typed would be judged."""
        kind = self._kind()
        chosen = bool(self.limit.currentData())
        readable = bool(choices_for(kind.key))
        self.rows.setRowVisible(self.minus, chosen and readable)
        self.rows.setRowVisible(self.plus, chosen and readable)
        self.rows.setRowVisible(self.meant, readable)
        made = self.record()
        if not readable or value_is_wrong(made.kind, made.value, made.words):
            self.meant.setText("")
            return
        meaning = meaning_of(made.claim)
        ends = [f"{end:g}" for end in (meaning.low, meaning.high) if end is not None]
        self.meant.setText(f"Judged as {meaning.words}: {' to '.join(ends)} {kind.unit}.")

    def _kind(self) -> ClaimKind:
        return CLAIM_KINDS[self.kind.currentData()]

    def _show_kind(self) -> None:
        kind = self._kind()
        self.value.set_unit(kind.unit)
        self.rows.setRowVisible(self.value, kind.is_number)
        self.rows.setRowVisible(self.yes, kind.good_side is GoodSide.YES_NO)
        self.rows.setRowVisible(self.words, kind.in_words)
        readings = choices_for(kind.key)
        refill(
            self.limit,
            [("as it is usually meant", ""), *((limit.words, limit.value) for limit in readings)],
        )
        for part in (self.limit, self.wording):
            self.rows.setRowVisible(part, bool(readings))
        self._show_meaning()


class PasteDialog(FormDialog):
    """A listing's text, what was read in it, and a tick for each figure that is to be kept."""

    manual_page = "claims"

    def __init__(
        self, station_id: int, others: list[StoredClaim], parent: QWidget | None = None
    ) -> None:
        super().__init__("Read claims from a text", "Keep what is ticked", parent)
        self.resize(*_PASTE_SIZE)
        self._station_id = station_id
        self._others = others
        self._found: list[ReadClaim] = []
        self.source = _source_box("listing")
        self.text = QPlainTextEdit()
        self.text.setPlaceholderText(
            "Paste a block from a listing or manual, such as:\nCapacity: 2,048 Wh (51.2 V 40 Ah)\n"
            "AC output: 4 outlets, 120 V, 2000 W, surge 4000 W\nSolar input: 12–60 V, 15 A, 500 W"
        )
        self.text.setAccessibleName("Text to read claims from")
        self.text.setFixedHeight(_TEXT_H)
        self.text.setTabChangesFocus(True)
        self.text.textChanged.connect(self._read)
        self.table = QTableWidget(0, 5)
        self.table.setAccessibleName("Claims that were read")
        self.table.setHorizontalHeaderLabels(["Keep", "What", "Value", "Condition", "Read from"])
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(4, QHeaderView.ResizeMode.Stretch)
        self.said = label("", "muted", wrap=True)
        self.rows.addRow("Source", self.source)
        self.rows.addRow(self.text)
        self.rows.addRow(self.table)
        self.rows.addRow(self.said)
        self.text.setFocus()  # what was copied is what one came with

    def wrong(self) -> str:
        if not self._found:
            return "No claim was read yet: paste a text first."
        if not self._ticked():
            return "Tick at least one claim, or cancel."
        claims = []
        for read in self._ticked():
            if said := value_is_wrong(read.quantity, read.value, read.words):
                return f"{said}: untick it."
            claims.append(read.kept_as(self._source()))
        clash = impossible_together([o.claim for o in self._others] + claims)
        known = impossible_together([o.claim for o in self._others])
        fresh = [sentence for sentence in clash if sentence not in known]
        return f"{fresh[0]}: untick one of them." if fresh else ""

    def records(self) -> list[StoredClaim]:
        """The ticked claims; one that is there without a source, as of a rating, gets it."""
        return [self._kept_as(read) for read in self._ticked()]

    def _kept_as(self, read: ReadClaim) -> StoredClaim:
        made = StoredClaim(
            station_id=self._station_id,
            kind=read.quantity,
            value=read.value,
            words=read.words,
            condition=read.condition,
            source=self._source(),
            text=read.text,
            wording=read.wording,
        )
        same = [o for o in self._others if not o.source and _figure(o) == _figure(made)]
        if not same:
            return made
        return replace(same[0], source=made.source, text=made.text, wording=made.wording)

    def _source(self) -> str:
        return self.source.currentText().strip()

    def _ticked(self) -> list[ReadClaim]:
        checked = Qt.CheckState.Checked
        return [
            read
            for row, read in enumerate(self._found)
            if (item := self.table.item(row, 0)) is not None and item.checkState() == checked
        ]

    def _read(self) -> None:
        try:
            read = read_claims(self.text.toPlainText())
        except UnusableDataError as error:
            self._found = []
            self.table.setRowCount(0)
            self.said.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self._found = list(read.claims)
        self.table.setRowCount(len(self._found))
        for row, claim in enumerate(self._found):
            self._show_row(row, claim)
        said = [f"{counted(len(self._found), 'figure')} read; doubtful ones are not ticked."]
        if read.unread:
            said.append(f"Not understood: {' · '.join(read.unread)}.")
        said += [f"{warning[:1].upper()}{warning[1:]}." for warning in read.warnings]
        self.said.setText("\n".join(said))

    def _show_row(self, row: int, claim: ReadClaim) -> None:
        kind = CLAIM_KINDS[claim.quantity]
        tick = QTableWidgetItem("" if claim.confidence >= LIKELY else "look")
        tick.setFlags(Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEnabled)
        sure = claim.confidence >= LIKELY and not self._is_known(claim)
        tick.setCheckState(Qt.CheckState.Checked if sure else Qt.CheckState.Unchecked)
        self.table.setItem(row, 0, tick)
        value = claim.words or f"{claim.value:g} {claim.unit}".strip()
        if kind.good_side is GoodSide.YES_NO:
            value = "yes" if claim.value else "no"
        doubt = "" if claim.confidence >= LIKELY else ", look again"
        spoken = f"Keep {kind.title} {value}{doubt}"
        tick.setData(Qt.ItemDataRole.AccessibleTextRole, spoken)
        for column, text in ((1, kind.title), (2, value), (3, claim.condition), (4, claim.text)):
            item = QTableWidgetItem(text)
            item.setToolTip(plain_tip(text))
            self.table.setItem(row, column, item)

    def _is_known(self, claim: ReadClaim) -> bool:
        """Whether this very claim is there already."""
        figure = claim.quantity, claim.value, claim.words, claim.condition
        return any((_figure(o), o.source) == (figure, self._source()) for o in self._others)


def _figure(claim: StoredClaim) -> tuple[str, float | None, str, str]:
    """What it says, whoever says it."""
    return claim.kind, claim.value, claim.words, claim.condition
