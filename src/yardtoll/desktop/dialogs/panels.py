"""The dialog of an array: one module's label, how many of them, and how they stand."""

from PySide6.QtWidgets import QCheckBox, QWidget

from yardtoll.desktop.dialogs.form import FormDialog, name_is_wrong
from yardtoll.desktop.widgets.basics import button, number_box
from yardtoll.store.records import SolarArray


class ArrayDialog(FormDialog):
    """Panels: the label of one module, and how many in series and parallel."""

    manual_page = "sun"

    def __init__(
        self, kept: SolarArray | None, taken: set[str], parent: QWidget | None = None
    ) -> None:
        title = "Edit the array" if kept else "Add an array"
        super().__init__(title, "Keep it", parent, removable=kept is not None)
        self._before = kept
        self._taken = taken
        self.name = self.line("Name", kept.name if kept else "", "Folding, two in series")
        self.series = number_box("In series", "", 1, 50, kept.series if kept else 1)
        self.parallel = number_box("In parallel", "", 1, 50, kept.parallel if kept else 1)
        self.module_w = number_box("Module", "W", 0, 2000, kept.module_w if kept else 0)
        self.voc_v = number_box("Open-circuit volts", "V", 0, 500, kept.voc_v if kept else 0, 2)
        self.vmp_v = number_box("Volts at most power", "V", 0, 500, kept.vmp_v if kept else 0, 2)
        self.isc_a = number_box("Short-circuit amps", "A", 0, 100, kept.isc_a if kept else 0, 2)
        self.imp_a = number_box("Amps at most power", "A", 0, 100, kept.imp_a if kept else 0, 2)
        self.beta = number_box(
            "Change of Voc, % per K", "%/K", -1, -0.01, 100 * kept.beta_voc if kept else -0.29, 2
        )
        self.gamma = number_box(
            "Change of the power, % per K", "%/K", -2, 0, 100 * kept.gamma if kept else -0.37, 2
        )
        self.tilt = number_box("Tilt", "°", 0, 90, kept.tilt_deg if kept else 30)
        self.azimuth = number_box("Facing", "°", 0, 360, kept.azimuth_deg if kept else 180)
        self.wiring = number_box(
            "Lost in the wires", "%", 0, 50, 100 * kept.wiring_loss if kept else 2, 1
        )
        self.on_ground = QCheckBox("Folded out on the ground")
        self.on_ground.setChecked(bool(kept and kept.on_ground))
        self.from_table = button("From a module table…", self.choose_from_table)
        self.rows.addRow("", self.from_table)
        for words, box in (
            ("Modules in series", self.series),
            ("Strings in parallel", self.parallel),
            ("One module: W", self.module_w),
            ("Voc", self.voc_v),
            ("Vmp", self.vmp_v),
            ("Isc", self.isc_a),
            ("Imp", self.imp_a),
            ("Voc changes by", self.beta),
            ("Power changes by", self.gamma),
            ("Tilt from the ground", self.tilt),
            ("Facing, from north", self.azimuth),
            ("Lost in the wires", self.wiring),
        ):
            self.rows.addRow(words, box)
        self.rows.addRow("", self.on_ground)

    def choose_from_table(self) -> None:
        """Fill in the label of a module that is looked up by name."""
        from yardtoll.desktop.dialogs.module_table import ModuleTableDialog

        dialog = ModuleTableDialog(self)
        if not dialog.exec() or dialog.chosen is None:
            return
        found = dialog.chosen
        if not self.name.text().strip():
            self.name.setText(found.name[:60])
        for box, value in (
            (self.module_w, found.power_w), (self.voc_v, found.voc_v), (self.vmp_v, found.vmp_v),
            (self.isc_a, found.isc_a), (self.imp_a, found.imp_a),
            (self.beta, 100 * found.beta_voc), (self.gamma, 100 * found.gamma),
        ):  # fmt: skip
            box.setValue(value)

    def wrong(self) -> str:
        if said := name_is_wrong(self.name.text().strip(), self._taken):
            return said
        boxes = (self.module_w, self.voc_v, self.vmp_v, self.isc_a, self.imp_a)
        if any(box.value() <= 0 for box in boxes):
            return "Every figure of the module's label must be above 0."
        if self.vmp_v.value() >= self.voc_v.value():
            return "Vmp is below Voc on every label: are they swapped?"
        return ""

    def record(self) -> SolarArray:
        """The array as entered."""
        return SolarArray(
            id=self._before.id if self._before else None,
            name=self.name.text().strip(),
            series=int(self.series.value()),
            parallel=int(self.parallel.value()),
            module_w=self.module_w.value(),
            voc_v=self.voc_v.value(),
            vmp_v=self.vmp_v.value(),
            isc_a=self.isc_a.value(),
            imp_a=self.imp_a.value(),
            beta_voc=self.beta.value() / 100,
            gamma=self.gamma.value() / 100,
            tilt_deg=self.tilt.value(),
            azimuth_deg=self.azimuth.value(),
            wiring_loss=self.wiring.value() / 100,
            on_ground=self.on_ground.isChecked(),
        )
