"""Tests of packs and of many cycles, entered under Outputs."""

import pytest
from conftest_helpers import TANSY, in_dialog, worked_out

from yardtoll.desktop.dialogs.entry import EntryDialog
from yardtoll.desktop.views.stop import OUTPUTS
from yardtoll.desktop.widgets.optional_number import OptionalNumber


@pytest.fixture
def outputs(demo):
    demo.bench.session.choose_station(TANSY)
    demo.go_to(OUTPUTS)
    return demo.stack.current_view()


def add_line(view, key, **values):
    view.choose_test(key)

    def fill(dialog):
        for name, text in values.items():
            field = dialog.input(name)
            if isinstance(field, OptionalNumber):
                field.field.setText(text)
            elif hasattr(field, "findData"):
                field.setCurrentIndex(field.findData(text))
            else:
                field.setText(text)
        dialog.accept_button.click()

    in_dialog(fill, EntryDialog)
    view.buttons["line"].click()


def settle(qtbot, demo):
    qtbot.waitUntil(lambda: not demo.jobs.busy, timeout=60_000)
    worked_out(qtbot, demo)


def test_a_burn_in_is_a_table_of_cycles_with_its_drift(qtbot, demo, outputs):
    for number, watt_hours in enumerate((1040, 1038, 1039, 1036, 1035, 1034), 1):
        failed = {"failed": "fan rattles"} if number == 4 else {}
        add_line(outputs, "burn_in", cycle=str(number), delivered_wh=str(watt_hours), **failed)
    settle(qtbot, demo)
    said = " ".join(outputs.words.texts())
    assert outputs.headline.text().startswith("6 kWh in 6 cycles; delivers 0.5")
    assert "1 failure" in outputs.headline.text() and "Cycle 4: fan rattles" in said
    assert "cycle life is not tested by this" in said
    assert outputs.picture.scene().title.startswith("Delivered per cycle")


def test_packs_beside_each_other(qtbot, demo, outputs):
    for minute, pack, soc in ((0, "station", 100), (1, "pack 1", 100), (90, "station", 52),
                              (91, "pack 1", 61)):  # fmt: skip
        add_line(outputs, "pack_charge", minute_min=str(minute), pack=pack, soc_percent=str(soc))
    settle(qtbot, demo)
    assert outputs.headline.text() == "2 packs, 9 points apart at the most, after 1 h 30 min"
    assert "station 52 % after 1 h 30 min" in " ".join(outputs.words.texts())
    assert outputs.picture.scene() is not None


def test_water_warmed_in_a_try_tells_the_kettle(qtbot, demo, outputs):
    # 4186 J/(kg·K) × 85 K is 98.8 Wh.
    water = {"water_l": "1", "water_from_c": "15", "water_to_c": "100", "heating_wh": "112"}
    add_line(outputs, "appliances", appliance="Own kettle", started="started", **water)
    settle(qtbot, demo)
    said = " ".join(outputs.words.texts())
    assert "Own kettle: 1 L from 15 to 100 °C took 112 Wh, 88 % of it into the water." in said
