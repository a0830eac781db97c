"""Spreadsheets and Parquet files that ask for more than a log should, or are broken."""

import io
import zipfile

import numpy as np
import polars as pl
import pytest

from yardtoll.store.errors import LogError
from yardtoll.store.logs import binary
from yardtoll.store.logs.table import read_table

CELL = '<row r="{row}"><c r="{cell}" t="n"><v>1</v></c></row>'
PARTS = {
    "[Content_Types].xml": '<Types xmlns="http://schemas.openxmlformats.org/package/2006/'
    'content-types"><Default Extension="xml" ContentType="application/xml"/><Default '
    'Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-'
    'officedocument.spreadsheetml.sheet.main+xml"/></Types>',
    "_rels/.rels": '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/'
    'relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/'
    '2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>',
    "xl/workbook.xml": '<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
    ' xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets>'
    '<sheet name="a" sheetId="1" r:id="r1"/></sheets></workbook>',
    "xl/_rels/workbook.xml.rels": '<Relationships xmlns="http://schemas.openxmlformats.org/package/'
    '2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/'
    'officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
}


def workbook(path, rows):
    sheet = (
        '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'
        f"{rows}</sheetData></worksheet>"
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        for name, text in PARTS.items():
            file.writestr(name, text)
        file.writestr("xl/worksheets/sheet1.xml", sheet)
    return path


def parquet(columns):
    made = io.BytesIO()
    pl.DataFrame(columns).write_parquet(made)
    return made.getvalue()


def test_one_cell_at_the_far_corner(tmp_path):
    far = workbook(
        tmp_path / "far.xlsx",
        CELL.format(row=1, cell="A1") + CELL.format(row=1_048_576, cell="XFD1048576"),
    )
    assert far.stat().st_size < 3000
    with pytest.raises(LogError, match="more memory or time than a log should"):
        read_table(far)


def test_a_sound_workbook_still_opens(tmp_path):
    rows = "".join(CELL.format(row=n, cell=f"A{n}") for n in range(1, 5))
    assert read_table(workbook(tmp_path / "log.xlsx", rows)).frame.height == 3


@pytest.mark.parametrize("seed", range(6))
def test_damaged_parquet_is_one_sentence(tmp_path, seed):
    random = np.random.default_rng(seed)
    data = bytearray(parquet({"time": list(range(500)), "power": [1.5] * 500}))
    for place in random.integers(4, len(data) - 4, 40):
        data[place] = random.integers(256)
    path = tmp_path / "log.parquet"
    path.write_bytes(data)
    try:
        read_table(path)
    except LogError as error:
        assert "\n" not in str(error) and len(str(error)) < 250


def test_columns_that_are_no_plain_numbers(tmp_path):
    path = tmp_path / "log.parquet"
    frame = pl.DataFrame(
        {
            "clock": pl.Series([0, 60_000_000_000], dtype=pl.Time),
            "elapsed": pl.Series([0, 1_500_000], dtype=pl.Duration("us")),
            "list": [[1, 2], [3]],
            "power": [1, 2],
        }
    )
    frame.write_parquet(path)
    read = read_table(path).frame
    assert read.columns == ["clock", "elapsed", "power"]
    assert read["clock"].to_list() == ["00:00:00", "00:01:00"]
    assert read["elapsed"].to_list() == [0.0, 1.5]


def test_cancelled_the_child_is_ended(tmp_path, monkeypatch):
    ended = []
    real = binary.subprocess.Popen

    class Watched(real):
        def kill(self):
            ended.append(self)
            super().kill()

    monkeypatch.setattr(binary.subprocess, "Popen", Watched)

    def cancel(_):
        raise InterruptedError

    path = tmp_path / "log.parquet"
    path.write_bytes(parquet({"power": [1.0, 2.0]}))
    with pytest.raises(LogError):
        read_table(path, cancel)
    assert ended[0].returncode is not None


def test_a_folder_is_no_log(tmp_path):
    (tmp_path / "log.csv").mkdir()
    with pytest.raises(LogError, match="not a file"):
        read_table(tmp_path / "log.csv")
