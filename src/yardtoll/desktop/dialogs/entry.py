"""One line of a run that is kept as a table: a field for each column."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QCompleter, QLineEdit, QWidget

from yardtoll.core.errors import FieldError
from yardtoll.core.output.entries import EntryField, Fields, entry_is_wrong
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import choice
from yardtoll.desktop.widgets.optional_number import OptionalNumber
from yardtoll.store.records import Entry

_NONE = ""


class EntryDialog(FormDialog):
    """Fields of a line; what is left empty is not noted.

    Args:
        known: what is filled in already, and what is kept beside the fields, such as a capture.
        library: things of the reviewer's own by name, and what is known of each.
    """

    manual_page = "outputs"

    def __init__(
        self,
        title: str,
        fields: Sequence[EntryField],
        known: Fields | None = None,
        parent: QWidget | None = None,
        *,
        entry: Entry | None = None,
        library: Mapping[str, Fields] | None = None,
    ) -> None:
        super().__init__(title, "Keep it", parent, removable=entry is not None)
        self._fields = fields
        self._before = entry
        values = entry.fields if entry is not None else _begun(fields, known or {})
        self._beside = {k: v for k, v in values.items() if k not in {f.key for f in fields}}
        self._inputs: dict[str, QWidget] = {}
        for field in fields:
            made = _input(field, values.get(field.key))
            if field.from_library and library and isinstance(made, QLineEdit):
                self._offer(made, library)
            self._inputs[field.key] = made
            self.rows.addRow(field.title, made)
        for box in self._inputs.values():
            if isinstance(box, QComboBox):
                box.currentIndexChanged.connect(lambda _: self._show_what_belongs())
        self._show_what_belongs()
        if fields:
            self._inputs[fields[0].key].setFocus()

    def _belongs(self, field: EntryField) -> bool:
        """Whether a field has to do with what is chosen."""
        if field.only_with is None or field.only_with[0] not in self._inputs:
            return True
        key, value = field.only_with
        box = self._inputs[key]
        return not isinstance(box, QComboBox) or box.currentData() == value

    def _show_what_belongs(self) -> None:
        for field in self._fields:
            self.rows.setRowVisible(self._inputs[field.key], self._belongs(field))

    def _offer(self, line: QLineEdit, library: Mapping[str, Fields]) -> None:
        """Names as they are typed; the one chosen fills in what is empty."""
        offered = QCompleter(list(library), self)
        offered.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        offered.setFilterMode(Qt.MatchFlag.MatchContains)
        line.setCompleter(offered)

        def fill(_: object = None) -> None:
            for key, value in library.get(line.text().strip(), {}).items():
                found = self._inputs.get(key)
                if isinstance(found, OptionalNumber) and not found.field.text():
                    found.set_value(float(value))

        offered.activated.connect(fill)
        line.editingFinished.connect(fill)

    def input(self, key: str) -> QWidget:
        """The widget of a field."""
        return self._inputs[key]

    def wrong(self) -> str:
        try:
            return entry_is_wrong(self._fields, self.values())
        except FieldError as error:
            text = str(error)
            return f"{text[:1].upper()}{text[1:]}."

    def values(self) -> Mapping[str, float | str]:
        """What is entered; a field left empty has no value.

        Raises:
            FieldError: a number is none.
        """
        made: dict[str, float | str] = dict(self._beside)
        for field in self._fields:
            if not self._belongs(field):
                continue
            key, widget = field.key, self._inputs[field.key]
            value: float | str | None
            if isinstance(widget, OptionalNumber):
                value = widget.value()
            elif isinstance(widget, QComboBox):
                value = widget.currentData()
            else:
                assert isinstance(widget, QLineEdit)
                value = widget.text().strip()
            if value is not None and value != _NONE:
                made[key] = value
        return made

    def record(self, run_id: int, position: int) -> Entry:
        """The line as entered."""
        if self._before is not None:
            return replace(self._before, fields=dict(self.values()))
        return Entry(run_id=run_id, position=position, fields=dict(self.values()))


def _begun(fields: Sequence[EntryField], known: Fields) -> Fields:
    """What a new line begins with."""
    usual = {f.key: f.default for f in fields if f.default is not None}
    return {**usual, **known}


def _input(field: EntryField, value: float | str | None) -> QWidget:
    if field.is_number:
        number = value if isinstance(value, int | float) else None
        return OptionalNumber(field.title, field.unit or "", field.decimals, number)
    if field.choices:
        box = choice(field.title)
        if not field.needed or value is None:
            box.addItem("not noted", _NONE)
        for word, words in field.choices:
            box.addItem(words, word)
        box.setCurrentIndex(max(box.findData(value), 0))
        return box
    line = QLineEdit(str(value) if value is not None else "")
    line.setPlaceholderText(field.hint)
    line.setAccessibleName(field.title)
    return line
