"""Stations out to JSON and in again; what is broken is refused whole."""

import json

import pytest

from yardtoll.core.errors import UnusableDataError
from yardtoll.store.load_file import LoadFileError, read_loads
from yardtoll.store.records import Accessory, Photo, Receiving, Station, StoredClaim
from yardtoll.store.station_library import LibraryError, export_stations, read_library
from yardtoll.store.yard_file import YardFile


@pytest.fixture
def yard(tmp_path):
    with YardFile.create(tmp_path / "a.yard", "A") as yard:
        station = yard.put(Station(name="Clover", rated_wh=1000, rated_w=800, chemistry="LFP"))
        yard.put(
            StoredClaim(
                station_id=station.id, kind="solar_v_max", value=60, condition="at −10 °C",
                source="label", note="thumb", text="Solar ≤ 60 V",
            )
        )  # fmt: skip
        yard.put(StoredClaim(station_id=station.id, kind="chemistry", value=None, words="LFP"))
        yard.put(
            Receiving(
                station_id=station.id, price=500, currency="EUR", conditioned=True,
                accessories=(Accessory(name="AC charging cord", present=False),),
            )
        )  # fmt: skip
        yield yard


def test_what_goes_out_comes_in(yard, tmp_path):
    path = tmp_path / "stations.json"
    assert export_stations(yard, path) == 1
    (entry,) = read_library(path)
    (station,) = yard.stations()
    assert {**vars(entry.station), "id": 1} == vars(station)
    kept = [*yard.claims(1), yard.receiving(1)]
    assert [{**vars(r), "id": 1} for r in entry.belongings(1)] == [
        {**vars(r), "id": 1} for r in kept
    ]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda d: "not json{", "is not a library of stations"),
        (lambda d: json.dumps({**d, "format": "other"}), "is not a library of stations"),
        (lambda d: json.dumps({**d, "version": 99}), "newer version"),
        (lambda d: json.dumps({**d, "stations": [{"name": "X"}]}), "stations.0.rated_wh"),
        (lambda d: json.dumps(d).replace('"value": 60.0', '"value": -5'), "must be above 0"),
        (lambda d: json.dumps(d).replace("solar_v_max", "magic"), "not a known kind of claim"),
        (lambda d: json.dumps([1, 2]), "is not a library of stations"),
    ],
)
def test_a_corrupt_library_is_one_sentence(yard, tmp_path, change, said):
    path = tmp_path / "stations.json"
    export_stations(yard, path)
    path.write_text(change(json.loads(path.read_text("utf-8"))), "utf-8")
    with pytest.raises(LibraryError, match=said) as refused:
        read_library(path)
    assert "\n" not in str(refused.value)


def test_files_that_are_none(tmp_path):
    (tmp_path / "bytes.json").write_bytes(b"\xff\xfe\x00\x80")
    for name in ("none.json", "bytes.json"):
        with pytest.raises(LibraryError, match=name):
            read_library(tmp_path / name)


def test_photos_are_kept_with_their_bytes(yard):
    data = bytes(range(256)) * 100
    kept = yard.keep_photo(
        Photo(station_id=1, name="front.png", media_type="image/png", size_bytes=len(data)), data
    )
    assert yard.photos(1) == [kept] and yard.photo_bytes(kept.id) == data
    assert yard.photo_bytes(99) == b""


class TestLoadFiles:
    def write(self, tmp_path, data):
        path = tmp_path / "loads.json"
        path.write_text(data if isinstance(data, str) else json.dumps(data))
        return path

    def test_reads(self, tmp_path):
        (spec,) = read_loads(self.write(tmp_path, [
            {"name": "Heater", "kind": "resistive", "count": 2,
             "settings": [{"name": "low", "watts": 400}], "range_w": [50, 100, 5],
             "inrush": 2, "power_factor": 0.9},
        ]))  # fmt: skip
        assert (spec.count, spec.settings[0].watts, spec.range_w) == (2, 400, (50, 100, 5))
        assert (spec.inrush, spec.power_factor) == (2, 0.9)

    @pytest.mark.parametrize(
        ("data", "said"),
        [
            ("nonsense", "loads.json: invalid json"),
            ([{"kind": "resistive"}], "loads.json, load 1, name"),
            ([{"name": "x", "settings": [{"watts": "a"}]}], "load 1, settings 1, watts"),
            ([{"name": "x", "wats": 5}], "load 1, wats"),
            ([{"name": "x", "settings": [{"watts": 5}]}] * 2, "x is listed twice"),
            ({"name": "x"}, "loads.json"),
        ],
    )
    def test_what_is_wrong_is_named(self, tmp_path, data, said):
        with pytest.raises(LoadFileError, match=said):
            read_loads(self.write(tmp_path, data))

    def test_figures_that_cannot_be_meant(self, tmp_path):
        with pytest.raises(UnusableDataError, match="x, on: W is -5"):
            read_loads(self.write(tmp_path, [{"name": "x", "settings": [{"watts": -5}]}]))
