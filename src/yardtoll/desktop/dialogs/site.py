"""The dialog of the site: the place of the bench, its records of heat and cold, its prices."""

from dataclasses import replace
from zoneinfo import available_timezones

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCompleter, QHBoxLayout, QWidget

from yardtoll.core.errors import FieldError
from yardtoll.core.region import CELSIUS, shown_in, typed_in, unit_shown
from yardtoll.desktop.dialogs.form import FormDialog
from yardtoll.desktop.widgets.basics import label, number_box
from yardtoll.store.records import Site
from yardtoll.store.shown_region import shown_region
from yardtoll.store.site_time import zone_name


class SiteDialog(FormDialog):
    """The place of the bench, and the price of a kilowatt-hour there."""

    manual_page = "sun"

    def __init__(self, site: Site, parent: QWidget | None = None) -> None:
        super().__init__("The site", "Keep it", parent)
        self._before = site
        self.latitude = self.line("Latitude", _or_empty(site.latitude), "degrees, south negative")
        self.longitude = self.line("Longitude", _or_empty(site.longitude), "degrees, west negative")
        self.altitude = number_box("Altitude", "m", -500, 6000, site.altitude_m)
        self.horizon = number_box("Horizon", "°", 0, 60, site.horizon_deg)
        self.rows.addRow("Altitude", self.altitude)
        self.rows.addRow("Obstacles, height", self.horizon)
        self.obstacle = [
            number_box(words, "°", 0, most, value)
            for words, most, value in (
                ("Obstacle from", 360, site.obstacle_from_deg),
                ("Obstacle to", 360, site.obstacle_to_deg),
                ("Obstacle's height", 90, site.obstacle_height_deg),
            )
        ]
        between = QHBoxLayout()
        for words, box in zip(("from", "to", "height"), self.obstacle, strict=True):
            between.addWidget(label(words, "muted"))
            between.addWidget(box)
        self.rows.addRow("A house or a tree", between)
        self.zone = self.line("Time zone", zone_name(site), "such as Europe/Lisbon")
        completer = QCompleter(sorted(available_timezones()), self.zone)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.zone.setCompleter(completer)
        self.sensor = number_box("Irradiance sensor ±", "%", 0, 50, 100 * site.sensor_share, 1)
        self.rows.addRow("Irradiance sensor ±", self.sensor)
        degree = unit_shown(CELSIUS, shown_region())
        self.coldest = self.line(
            f"Record low, {degree}", _shown_c(site.coldest_c), "decides cold volts"
        )
        self.hottest = self.line(f"Record high, {degree}", _shown_c(site.hottest_c))
        self.temperature = self.line(f"Usual temperature, {degree}", _shown_c(site.temperature_c))
        self.price = self.line("Price of a kWh", _or_empty(site.price_per_kwh))
        self.currency = self.line("Currency", site.currency, f"such as {shown_region().currency}")
        self.lift = self.line("Who can lift a station", site.lift_scale)

    def wrong(self) -> str:
        bounds = (
            (self.latitude, "The latitude", -90, 90, ""),
            (self.longitude, "The longitude", -180, 180, ""),
            (self.temperature, "The temperature", -60, 60, CELSIUS),
            (self.coldest, "The record low", -60, 60, CELSIUS),
            (self.hottest, "The record high", -60, 70, CELSIUS),
            (self.price, "The price", 0, 1e6, ""),
        )
        for field, words, low, high, unit in bounds:
            value = _number(field.text(), unit)
            if field.text().strip() and (value is None or not low <= value <= high):
                span = f"{low:g} to {high:g} {unit}".rstrip()
                return f"{words} must be a figure from {span}, or empty."
        if self.zone.text().strip() not in available_timezones():
            return f"“{self.zone.text().strip()}” is not a time zone, such as Europe/Lisbon."
        coldest, hottest = (
            _number(self.coldest.text(), CELSIUS),
            _number(self.hottest.text(), CELSIUS),
        )
        if coldest is not None and hottest is not None and coldest > hottest:
            return "The record low is above the record high: are they swapped?"
        return ""

    def record(self) -> Site:
        """The site as entered."""
        return replace(
            self._before,
            latitude=_number(self.latitude.text()),
            longitude=_number(self.longitude.text()),
            altitude_m=self.altitude.value(),
            horizon_deg=self.horizon.value(),
            obstacle_from_deg=self.obstacle[0].value(),
            obstacle_to_deg=self.obstacle[1].value(),
            obstacle_height_deg=self.obstacle[2].value(),
            coldest_c=_number(self.coldest.text(), CELSIUS),
            hottest_c=_number(self.hottest.text(), CELSIUS),
            temperature_c=_number(self.temperature.text(), CELSIUS),
            price_per_kwh=_number(self.price.text()),
            currency=self.currency.text().strip(),
            time_zone=self.zone.text().strip(),
            sensor_share=self.sensor.value() / 100,
            lift_scale=self.lift.text().strip() or Site().lift_scale,
        )


def _or_empty(value: float | None) -> str:
    text = "" if value is None else f"{value:.10g}"
    return text.replace(".", shown_region().decimal_sign)


def _shown_c(value: float | None) -> str:
    if value is None:
        return ""
    region = shown_region()
    return f"{shown_in(value, CELSIUS, region):.4g}".replace(".", region.decimal_sign)


def _number(text: str, unit: str = "") -> float | None:
    """As typed, in any unit that fits."""
    try:
        return typed_in(text, unit, shown_region())
    except FieldError:
        return None
