"""Figures of the trade in the views that plan and wire, as the table of `test_check_values.py`."""

from dataclasses import replace

from conftest_helpers import loads_found
from PySide6.QtWidgets import QLabel

from yardtoll.desktop.views.stop import PLAN, SUN
from yardtoll.store.records import SolarArray, Station, StoredClaim


def said_in(window):
    found = window.stack.current_view().findChildren(QLabel)
    return " | ".join(label.text() for label in found if label.text())


def test_five_panels_of_99_1_volts_at_a_limit_of_100(demo):
    session = demo.bench.session
    station = session.add(Station(name="Sun", rated_wh=1000, rated_w=500), "Add a station")
    session.choose_station(station.id)
    for array in session.yard.arrays():
        session.edit(replace(array, removed=True), "Remove")
    session.add(
        SolarArray(name="Five", series=5, module_w=100, voc_v=99.1 / 5, vmp_v=16.5, isc_a=6,
                   imp_a=5.5), "Add an array",
    )  # fmt: skip
    session.add(StoredClaim(station_id=station.id, kind="solar_v_max", value=100), "Add a claim")
    demo.go_to(SUN)
    assert "Never connect it" in said_in(demo) and "100 V" in said_in(demo)


def test_half_a_kilowatt_hour_at_15_cents(qtbot, demo):
    session = demo.bench.session
    site = session.yard.site()
    session.edit(replace(site, price_per_kwh=0.15, currency="USD"), "The site")
    # A station of a size that is expected to take 0.54 kWh; the money is what is looked at.
    station = session.add(Station(name="Small", rated_wh=486, rated_w=300), "Add a station")
    session.choose_station(station.id)
    demo.go_to(PLAN)
    loads_found(qtbot, demo.stack.current_view())
    assert "0.54 kWh from the wall, 0.08 USD" in said_in(demo)
