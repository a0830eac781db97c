"""Yards in the shell: logs in, sheets and packages out, packages in."""

import pytest
from tests.records import EXAMPLES


def test_import_into_a_yard(run, tmp_path):
    yard = tmp_path / "bench.yard"
    log = EXAMPLES / "plain-seconds.csv"
    code, _, err = run("import", log, "-o", yard, "--station", "Sorrel 300")
    assert code == 1 and "--rated-wh and --rated-w" in err and not yard.exists()
    code, _, err = run("import", log, "-o", yard, "--station", "S", "--rated-wh", -1,
                       "--rated-w", 3)  # fmt: skip
    assert (code, err) == (1, "yardtoll: --rated-wh is -1; it must be above 0\n")
    code, out, _ = run("import", log, EXAMPLES / "counter-only.tsv", "-o", yard, "--station",
                       "Sorrel 300", "--rated-wh", 288, "--rated-w", 300)  # fmt: skip
    assert code == 0
    assert [line.split(",")[0] for line in out.splitlines()] == [
        "plain-seconds.csv: run 1 of Sorrel 300", "counter-only.tsv: run 2 of Sorrel 300",
    ]  # fmt: skip
    code, _, err = run("import", log, "-o", log, "--station", "x")
    assert (code, err) == (
        1, "yardtoll: plain-seconds.csv is not a yard file; nothing was changed\n",
    )  # fmt: skip


def test_a_recharge_log_is_imported_as_one(run, tmp_path):
    log, yard = tmp_path / "wall.csv", tmp_path / "a.yard"
    log.write_text("t,power\n" + "".join(f"{i * 10},{500 if i < 360 else 0}\n" for i in range(400)))
    arguments = ("import", log, "-o", yard, "--station", "Clover", "--rated-wh", 480,
                 "--rated-w", 500)  # fmt: skip
    assert run(*arguments, "--method", "dancing")[0] == 2 and not yard.exists()
    code, out, _ = run(*arguments, "--method", "recharge_wall")
    assert code == 0 and out.startswith("wall.csv: run 1 of Clover, 499.3 Wh")
    from yardtoll.store.yard_file import YardFile

    with YardFile.open(yard) as opened:
        (kept,) = opened.runs()
        assert (kept.method, kept.soc_from, kept.soc_to) == ("recharge_wall", 0, 100)


class TestYardsInTheShell:
    @pytest.fixture
    def yard(self, run, tmp_path):
        path = tmp_path / "bench.yard"
        code, _, err = run(
            "import", EXAMPLES / "semicolon-decimal-comma.csv", "-o", path, "--station", "Clover",
            "--rated-wh", "288", "--rated-w", "300",
        )  # fmt: skip
        assert (code, err) == (0, "")
        return path

    def test_report_export_and_import(self, run, yard, tmp_path):
        html, pdf = tmp_path / "sheet.html", tmp_path / "sheet.pdf"
        code, out, _ = run("report", yard, "--station", "clover", "-o", html)
        assert code == 0 and "of the rated energy reaches the outlet" in out
        assert html.read_text("utf-8").startswith("<!DOCTYPE html>")
        assert run("report", yard, "--station", "Clover", "-o", pdf)[0] == 0
        assert pdf.read_bytes().startswith(b"%PDF")
        code, out, _ = run("export", yard, tmp_path / "package", "--parquet")
        assert code == 0 and (tmp_path / "package" / "results.json").exists()
        assert (tmp_path / "package" / "recordings" / "recording-1.parquet").exists()
        again = tmp_path / "again.yard"
        assert run("import", tmp_path / "package", "-o", again)[0] == 0
        other = tmp_path / "other.html"
        assert run("report", again, "--station", "Clover", "-o", other)[0] == 0
        assert other.read_bytes() == html.read_bytes()

    def test_what_cannot_be_done(self, run, yard, tmp_path):
        code, _, err = run("report", yard, "--station", "Basil", "-o", tmp_path / "x.html")
        assert (code, err.strip()) == (
            1, 'yardtoll: bench.yard holds no station "Basil"; there are: Clover'
        )  # fmt: skip
        assert run("report", yard, "--station", "Clover", "-o", tmp_path / "x.doc")[0] == 2
        assert run("export", yard, tmp_path)[0] == 1
        assert run("import", tmp_path, "-o", tmp_path / "n.yard")[0] == 1
        assert run("import", tmp_path, "-o", tmp_path / "n.yard", "--station", "x")[0] == 2
        assert run("import", "log.csv", "-o", tmp_path / "n.yard")[0] == 2
