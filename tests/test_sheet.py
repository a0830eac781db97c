"""The sheet: HTML well-formed and escaped, the same bytes each time; PDF read back; results."""

import io
import json
import re
import subprocess
from dataclasses import replace
from html.parser import HTMLParser
from importlib import resources
from itertools import pairwise
from xml.etree import ElementTree

import jsonschema
import numpy as np
import pytest
from fontTools.ttLib import TTFont
from PIL import Image
from tests.files import PNG

from yardtoll.core.conformance.scorecard import SHIPPED_POINTS, Evidence, ScorePoint, score, summed
from yardtoll.core.discharge.analysis import Rating, discharge_from_energies
from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.core.electrical.quantities import Quantity
from yardtoll.core.electrical.trace import Trace
from yardtoll.core.ledger.ledger import discharge_ledger
from yardtoll.core.region import REGIONS
from yardtoll.core.sun.allowed import AvailablePower
from yardtoll.core.sun.limits import Limit
from yardtoll.core.sun.solar_run import analyse_solar
from yardtoll.report.charts.limits import LIMIT_LOOK
from yardtoll.report.charts.palette import ENERGY
from yardtoll.report.charts.power import power_scene
from yardtoll.report.charts.sheet_charts import charts_of
from yardtoll.report.charts.solar import solar_scene
from yardtoll.report.charts.svg import to_svg
from yardtoll.report.pages import typeset
from yardtoll.report.results import Results, results_schema, shipped_schema
from yardtoll.report.sheet.contents import Curve, Picture
from yardtoll.report.sheet.pdf import sheet_pdf
from yardtoll.report.sheet.render import SIGNS, preview_html, sheet_html, sheet_markdown, sheet_text
from yardtoll.review.results import station_results, write_results
from yardtoll.review.sheet.build import build_sheet
from yardtoll.store.errors import YardError
from yardtoll.store.records import (
    Conditions,
    Meter,
    Observation,
    Photo,
    Reading,
    Receiving,
    Recording,
    Review,
    Run,
    Station,
    StoredClaim,
)
from yardtoll.store.yard_file import YardFile

EVIL = "<script>alert('x')</script> & \"Co\" | **x**"
VOID_TAGS = {"meta", "br", "img", "hr", "link"}


@pytest.fixture
def yard(tmp_path):
    made = YardFile.create(tmp_path / "a.yard", "Bench")
    station = made.put(Station(name=EVIL, rated_wh=1000, rated_w=800, chemistry="LFP"))
    meter = made.put(Meter(name=EVIL, profile="p", address="", reading_share=0.01, floor_w=0.5))
    t = np.arange(0, 15_600, 10.0)
    power = np.where((t >= 60) & (t < 15_500), 200.0, 0.0)
    for number, state in ((1, "finished"), (2, "void")):
        run = Run(
            station_id=station.id, number=number, method="capacity_ac", state=state,
            origin="import", started_at=f"2026-05-0{number}T10:00:00+00:00", meter_id=meter.id,
            void_reason=EVIL if state == "void" else "",
            conditions=Conditions(load=EVIL, settings={"floor": "0"}),
        )  # fmt: skip
        trace = Trace(name="t", time_s=t, columns={Quantity.POWER: power})
        made.keep_run(run, [(Recording(run_id=0, role="ac_output"), trace)])
    for kind, value in (("usable_wh", 800), ("usable_wh", 900), ("surge_w", 1600)):
        made.put(StoredClaim(station_id=station.id, kind=kind, value=value, source=EVIL))
    made.put(Receiving(station_id=station.id, price=790, currency="EUR", weight_kg=12.1))
    made.put(Review(station_id=station.id, summary=EVIL, pros=f"{EVIL}\n\nLight", cons=EVIL))
    made.put(Observation(station_id=station.id, subject="ups", agrees=True, words=EVIL))
    made.keep_photo(
        Photo(station_id=station.id, name="p", media_type="image/png", caption=EVIL), PNG
    )
    yield made
    made.close()


@pytest.fixture
def sheet(yard):
    return build_sheet(yard, yard.stations()[0])


def test_what_the_display_showed_is_told(yard):
    yard.put(Reading(run_id=yard.runs()[0].id, time_s=8000.0, kind="soc", value=90.0))
    said = dict(build_sheet(yard, yard.stations()[0]).method)["Seen on the way"]
    assert said.startswith("Run 1: At 90 % shown, 441 Wh were gone and 49 % of the energy was left")


class Nesting(HTMLParser):
    """Every tag that opens closes again, in order; which tags there were."""

    def __init__(self):
        super().__init__()
        self.open, self.seen, self.text = [], set(), []

    def handle_starttag(self, tag, attrs):
        self.seen.add(tag)
        assert all(not name.startswith("on") for name, _ in attrs)
        if tag not in VOID_TAGS:
            self.open.append(tag)

    def handle_startendtag(self, tag, attrs):
        self.seen.add(tag)

    def handle_endtag(self, tag):
        assert self.open.pop() == tag

    def handle_data(self, data):
        self.text.append(data)


class TestHtml:
    def test_well_formed_and_nothing_injected(self, sheet):
        html = sheet_html(sheet)
        page = Nesting()
        page.feed(html)
        assert page.open == [] and "script" not in page.seen
        assert EVIL in "".join(page.text)  # said as it is, not run
        ElementTree.fromstring(html.split("\n", 1)[1])  # it is XML as well

    def test_the_same_yard_gives_the_same_bytes(self, yard, sheet):
        assert sheet_html(build_sheet(yard, yard.stations()[0])) == sheet_html(sheet)

    def test_it_stands_alone(self, sheet):
        html = sheet_html(sheet)
        assert "http://" not in html.replace("http://www.w3.org/2000/svg", "")
        assert "https://" not in html and html.count("@font-face") == 3
        assert 'src="data:image/png;base64,iVBORw0KGgo' in html

    def test_what_it_says(self, sheet):
        text = sheet_html(sheet)
        for words in (
            "85.8 ± 1.4 % of the rated energy reaches the outlet at 200 W",
            "falls short", "meets", "Not tested: Surge power",
            "Every run", "void: ", "How it was measured", "Do not open a station",
            "0.79 EUR per rated Wh", "guarded", "Scorecard",
        ):  # fmt: skip
            assert words in text, words
        assert sheet.score_words == "2 of 2 points with evidence"
        assert [r.void for r in sheet.runs] == ["", EVIL]

    def test_a_station_without_anything(self, tmp_path):
        with YardFile.create(tmp_path / "b.yard", "B") as bare:
            station = bare.put(Station(name="New", rated_wh=1, rated_w=1))
            sheet = build_sheet(bare, station)
        assert sheet.finding == "Nothing has been tested yet."
        page = Nesting()
        page.feed(sheet_html(sheet))
        assert page.open == [] and charts_of(sheet) == {}

    def test_the_preview_holds_every_chart(self, sheet):
        html = preview_html(sheet, list(charts_of(sheet)), muted="#555", chart_width=400)
        assert 'src="chart:ledger"' in html and 'src="chart:run-1"' in html
        assert "<script" not in html


def read_back(pdf, folder):
    """The words of a PDF."""
    path = folder / "read.pdf"
    path.write_bytes(pdf)
    return subprocess.run(
        ["pdftotext", str(path), "-"], capture_output=True, text=True, check=True
    ).stdout


class TestPdf:
    def told(self, pdf, tool, folder):
        path = folder / "told.pdf"
        path.write_bytes(pdf)
        return subprocess.run(
            [tool, *(["-list"] if tool == "pdfimages" else []), str(path)],
            capture_output=True, text=True, check=True,
        ).stdout  # fmt: skip

    def test_every_word_of_the_page_is_on_paper_too(self, sheet, tmp_path):
        page = Nesting()
        page.feed(re.sub(r"<(style|title)>.*?</\1>", "", sheet_html(sheet), flags=re.DOTALL))
        on_screen, on_paper = " ".join(page.text).split(), read_back(sheet_pdf(sheet), tmp_path)
        signs = {"◆", "✕", "○"}  # drawn on paper
        squeezed = "".join(on_paper.split())
        missing = [word for word in on_screen if word not in signs and word not in squeezed]
        assert len(on_screen) > 300 and missing == []
        assert EVIL.replace(" ", "") in squeezed and "1of" in squeezed

    def test_fonts_and_pictures_are_within_and_it_has_tags(self, sheet, tmp_path):
        pdf = sheet_pdf(sheet)
        fonts = self.told(pdf, "pdffonts", tmp_path).splitlines()[2:]
        assert any("Barlow" in line for line in fonts)
        assert all(" yes yes " in line for line in fonts)  # embedded, subset
        assert len(self.told(pdf, "pdfimages", tmp_path).splitlines()) == 3  # two of heading
        assert "Tagged:          yes" in self.told(pdf, "pdfinfo", tmp_path)
        assert sheet_pdf(sheet) == pdf

    def test_what_is_no_picture_is_left_out(self, sheet, tmp_path):
        broken = Picture(caption="Broken", media_type="image/png", data=b"not a picture")
        pdf = sheet_pdf(replace(sheet, pictures=(broken, *sheet.pictures)))
        assert "Broken" not in read_back(pdf, tmp_path)
        assert len(self.told(pdf, "pdfimages", tmp_path).splitlines()) == 3

    def test_a_photo_is_upright_and_no_sharper_than_paper(self, sheet, tmp_path):
        held = io.BytesIO()
        turned = Image.Exif()
        turned[0x0112] = 6  # to be turned a quarter to the right
        Image.new("RGB", (4000, 2000), "red").save(held, "JPEG", exif=turned)
        photo = Picture(caption="", media_type="image/jpeg", data=held.getvalue())
        row = self.told(
            sheet_pdf(replace(sheet, pictures=(photo,))), "pdfimages", tmp_path
        ).splitlines()[2]
        assert row.split()[3:5] == ["800", "1600"]

    def test_letters_of_other_scripts_do_not_stop_it(self, sheet, tmp_path):
        pdf = sheet_pdf(replace(sheet, station="Ростов 二千", finding="α → Ω"))
        assert "→" in read_back(pdf, tmp_path)

    def test_its_own_region(self, sheet, tmp_path):
        text = read_back(sheet_pdf(replace(sheet, region=REGIONS["europe"])), tmp_path)
        assert "85,8 ± 1,4 %" in text and EVIL.split(maxsplit=1)[0] in text

    def test_our_faces_have_every_sign_we_say_they_have(self):
        folder = resources.files("yardtoll.report") / "fonts"
        held = set()
        for name in ("Barlow_400Regular.ttf", "YardSigns.ttf"):
            held |= set(TTFont(folder / name).getBestCmap())
        assert {c for c in typeset._SIGNS_AT_HAND if ord(c) not in held} == set()
        assert set(SIGNS.values()) <= {chr(code) for code in held}


class TestText:
    def test_plain_and_markdown(self, sheet):
        plain, marked = sheet_text(sheet), sheet_markdown(sheet)
        assert "◆ Usable energy ≥ 800 Wh: 858 ± 14 Wh – meets" in plain
        assert "| Usable energy | ≥ 900 Wh | 858 ± 14 Wh | falls short |" in marked
        assert "- Light" in marked and "Rule: guarded" in plain
        row = next(line for line in marked.splitlines() if line.startswith("| Usable"))
        assert row.count(" | ") == 3


class TestCharts:
    def test_each_is_well_formed_and_escaped(self, sheet):
        charts = charts_of(sheet)
        assert list(charts) == ["ledger", "run-1"]
        for svg in charts.values():
            ElementTree.fromstring(svg)
        odd = Curve(
            key="x",
            title=EVIL,
            kind=EnergyKind.SUN,
            time_s=np.array([0.0, 5]),
            power_w=np.array([np.nan, 7]),
        )
        assert ElementTree.fromstring(to_svg(power_scene(odd))).get("aria-label") == EVIL

    def test_a_long_trace_is_thinned_and_its_level_kept(self):
        t = np.arange(0, 86_400, 0.5)
        curve = Curve(
            key="x", title="x", kind=EnergyKind.WALL, time_s=t, power_w=np.full(t.size, 750.0)
        )
        svg = to_svg(power_scene(curve))
        assert len(svg) < 20_000 and ">800 W<" in svg and ">20 h<" in svg

    def test_a_surplus_is_drawn_too(self, sheet):
        more = discharge_ledger(discharge_from_energies([1100], Rating(rated_wh=1000)))
        svg = charts_of(replace(sheet, ledger=more, curves=()))["ledger"]
        assert "+100 Wh" in svg


class TestSolarChart:
    """An hour under a sun that rises past a station's cap, and a shade while it is there."""

    @pytest.fixture
    def run(self):
        time_s = np.arange(0.0, 7200, 10)
        free = 200 + 300 * time_s / 7200
        power = np.minimum(free, 400)
        power[600:618] = 40.0
        sun = AvailablePower(
            free_w=free, clear_w=free, up=time_s >= 0, plane_w_m2=free * 2, measured=True
        )
        trace = Trace(name="sun", time_s=time_s, columns={Quantity.POWER: power})
        return analyse_solar(trace, sun, array_w=500, cap_w=400)

    def test_each_limit_is_a_patch_of_its_own_in_the_band_and_in_the_legend(self, run):
        svg = to_svg(solar_scene(EVIL, run))
        page = ElementTree.fromstring(svg)
        assert page.get("aria-label").startswith(f"{EVIL}. Limited by: Sun ")
        assert {limit for limit, share in run.limited_by.items() if share} == {
            Limit.SUN, Limit.CAP, Limit.SHADE,
        }  # fmt: skip
        fills = [e.get("fill") for e in page.iter() if e.tag.endswith("rect")][1:]
        spans = [ENERGY[LIMIT_LOOK[s.limit][0]] for s in run.spans]
        legend = [ENERGY[LIMIT_LOOK[k][0]] for k, v in run.limited_by.items() if v]
        assert fills == spans + legend
        words = [e.text for e in page.iter() if e.tag.endswith("text")]
        shares = {k: f"{100 * v:.0f} %" for k, v in run.limited_by.items()}
        assert f"Station's cap {shares[Limit.CAP]}" in words and "What the sun allowed" in words
        # The allowed ends at the cap of 400 W, and the log ten seconds before its second hour.
        assert "400 W" in words and "500 W" not in words and "2 h" not in words

    def test_hatching_stays_within_its_patch(self, run):
        page = ElementTree.fromstring(to_svg(solar_scene("x", run)))
        parts = list(page.iter())
        hatched = 0
        for box, lines in pairwise(parts):
            if not (box.tag.endswith("rect") and lines.get("stroke-opacity")):
                continue
            hatched += 1
            x, y, width, height = (float(box.get(k)) for k in ("x", "y", "width", "height"))
            ends = [float(n) for n in re.findall(r"[\d.]+", lines.get("d"))]
            assert all(x - 0.1 <= at <= x + width + 0.1 for at in ends[::2])
            assert all(y - 0.1 <= at <= y + height + 0.1 for at in ends[1::2])
        assert hatched >= 4  # cap and shade, in the band and in the legend

    def test_without_a_known_sun_the_plain_chart_is_drawn(self, sheet, run):
        bare = replace(run, limited_by=None, expected_w=None)
        with pytest.raises(ValueError, match="nothing says"):
            solar_scene("x", bare)
        made = {}
        for name, solar in (("plain", bare), ("limits", run)):
            curve = Curve(
                key="run-9", title="x", kind=EnergyKind.SUN, time_s=run.time_s, power_w=run.power_w,
                solar=solar,
            )  # fmt: skip
            made[name] = charts_of(replace(sheet, ledger=None, curves=(curve,)))["run-9"]
        assert "allowed" in made["limits"] and "allowed" not in made["plain"]


class TestResults:
    def test_the_shipped_schema_is_the_models(self):
        assert shipped_schema() == results_schema()

    def test_results_follow_the_schema_strictly(self, yard, tmp_path):
        write_results(yard, tmp_path)
        found = json.loads((tmp_path / "results.json").read_text("utf-8"))
        schema = json.loads((tmp_path / "results.schema.json").read_text("utf-8"))
        jsonschema.validate(found, schema)
        station = found["stations"][0]
        assert station["runs"][0]["delivered_wh"]["value"] == pytest.approx(857.5, abs=1)
        assert station["runs"][1]["state"] == "void"
        assert [c["verdict"] for c in station["claims"]] == ["meets", "falls_short", "not_tested"]
        station["runs"][0]["extra"] = 1
        with pytest.raises(jsonschema.ValidationError):
            jsonschema.validate(found, schema)

    def test_by_station(self, yard):
        made = station_results(yard, yard.stations()[0])
        again = Results.model_validate({"program": "x", "stations": [made.model_dump()]})
        assert again.stations == [made]


class TestScorecard:
    def test_without_evidence_a_point_is_not_scored(self):
        scored = score(SHIPPED_POINTS, {"price_per_wh": Evidence(value=0.9, words="0.90")})
        assert [s.points for s in scored] == [None] * 9 + [0.5]
        assert summed(scored) == (0.5, 1.0)
        assert scored[0].evidence == "no evidence, not scored"

    @pytest.mark.parametrize(
        ("sign", "value", "points"),
        [(">=", 0.9, 2), (">=", 0.5, 1), (">=", 0.1, 0), ("yes", 1, 2), ("yes", 0, 0)],
    )
    def test_limits(self, sign, value, points):
        point = ScorePoint(title="x", quantity="q", sign=sign, limit=0.8, half_limit=0.4, points=2)
        (scored,) = score([point], {"q": Evidence(value=value, words="")})
        assert scored.points == points


def test_a_station_is_found_by_name_or_the_others_are_listed(yard):
    assert yard.station_named(EVIL.upper()).rated_wh == 1000
    with pytest.raises(YardError, match="there are: <script>"):
        yard.station_named("Clover")
