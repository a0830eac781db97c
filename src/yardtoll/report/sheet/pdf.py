"""A sheet as PDF: the HTML set on pages, fonts embedded. Importing this loads the typesetter."""

import weasyprint
from weasyprint.urls import URLFetcher

from yardtoll.report.sheet.contents import Sheet
from yardtoll.report.sheet.render import sheet_html


def sheet_pdf(sheet: Sheet) -> bytes:
    """The sheet's pages."""
    return html_pdf(sheet_html(sheet))


def html_pdf(html: str) -> bytes:
    """Any page of ours that needs nothing from elsewhere; nothing is fetched."""
    within = URLFetcher(allowed_protocols=("data",))
    return bytes(weasyprint.HTML(string=html, url_fetcher=within).write_pdf())
