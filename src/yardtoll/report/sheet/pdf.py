"""A sheet as PDF: the HTML set on pages, fonts embedded. Importing this loads the typesetter."""

import weasyprint
from weasyprint.urls import URLFetcher

from yardtoll.report.sheet.contents import Sheet
from yardtoll.report.sheet.render import sheet_html


def sheet_pdf(sheet: Sheet) -> bytes:
    """The sheet's pages. Only what is within the file is used; nothing is fetched from anywhere."""
    within = URLFetcher(allowed_protocols=("data",))
    return bytes(weasyprint.HTML(string=sheet_html(sheet), url_fetcher=within).write_pdf())
