"""A sheet as PDF: the demo's first station, and one with 40 runs of 100,000 samples."""

from pathlib import Path

from made_yards import big_yard
from rows import Row, at_most, in_folder, printed, show

CODE = """
import sys, time
from pathlib import Path
from yardtoll.review.sheet.build import build_sheet
from yardtoll.review.analysis import analyses_of
from yardtoll.store.yard_file import YardFile
with YardFile.open(Path(sys.argv[1])) as yard:
    station = yard.stations()[0]
    analyses = analyses_of(yard, station)
    start = time.process_time()
    from yardtoll.report.sheet.pdf import sheet_pdf
    sheet_pdf(build_sheet(yard, station, analyses))
    print(time.process_time() - start)
"""


def rows() -> list[Row]:
    """CPU from results that are there to the bytes of the file, the typesetter's loading too."""

    def measure(folder: Path) -> list[Row]:
        from yardtoll.demo.yard import fresh_demo

        demo, forty = fresh_demo(folder), big_yard(folder / "forty.yard", 40, 100_000)
        return [
            at_most(
                "PDF of the demo's sheet, the first", float(printed(CODE, str(demo))), 1.5, "s"
            ),
            at_most("PDF with 40 large runs", float(printed(CODE, str(forty))), 3, "s"),
        ]

    return in_folder(measure)


if __name__ == "__main__":
    show(rows())
