"""The manual: every page there, found by words, opened by F1; terms explained where they stand."""

import importlib
import pkgutil
import re
import subprocess
import sys
from pathlib import Path

import pytest
from conftest_helpers import in_dialog
from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QTextDocument
from PySide6.QtTest import QTest

from yardtoll.core.methods import METHODS
from yardtoll.desktop import actions, dialogs
from yardtoll.desktop.dialogs.claims import ClaimDialog
from yardtoll.desktop.views.stop import LEDGER, PLAN
from yardtoll.desktop.views.stops import STOPS
from yardtoll.desktop.widgets.basics import label
from yardtoll.desktop.widgets.help_window import HelpedDialog
from yardtoll.manual.book import book, explained, glossary, method_key, page, search

ROOT = Path(__file__).parents[2]
PICTURES = ROOT / "src" / "yardtoll" / "manual" / "pictures"


def test_there_is_a_page_for_every_stop_and_every_method():
    keys = [entry.key for entry in book()]
    assert len(keys) == len(set(keys))
    assert set(STOPS) <= set(keys)
    assert {method_key(method) for method in METHODS} <= set(keys)
    for method in METHODS.values():
        text = page(method_key(method.key)).text
        assert all(step in text for step in method.steps)
        assert all(caution in text for caution in method.cautions)


@pytest.mark.parametrize("entry", book(), ids=lambda entry: entry.key)
def test_links_and_pictures_lead_somewhere(entry):
    keys = {other.key for other in book()}
    for is_picture, target in re.findall(r"(!?)\[[^\]]*\]\(([^)]+)\)", entry.text):
        if is_picture:
            assert (PICTURES / target).exists(), target
        else:
            assert target in keys, target
    assert entry.title and len(entry.text) > 100


def test_the_files_in_docs_are_the_same_pages():
    made = subprocess.run(
        [sys.executable, ROOT / "tools" / "make_manual.py", "--check"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert made.returncode == 0, made.stderr


def test_pages_are_found_by_words():
    assert search("round trip")[0].page.key in {"ledger", "glossary", "uncertainty"}
    assert "ound trip" in search("round trip")[0].words
    assert search("verdicts")[0].page.key == "verdicts"
    assert search("transfer scope") and not search("zeppelin")
    assert search("  ") == []


def test_terms_are_explained_and_other_words_are_not():
    assert explained("Round trip").startswith("Round trip: delivered ÷ drawn")
    assert explained("U = ± 3 Wh").startswith("U: expanded uncertainty")
    assert explained("Your unit, undrawn") == ""
    assert len(glossary()) > 30


def test_a_label_explains_its_term_but_keeps_a_tip_of_its_own(qtbot):
    made = label("C-rate")
    qtbot.addWidget(made)
    assert "0.2 C empties" in made.toolTip()
    made.setText("Something else")
    assert made.toolTip() == ""
    made.setToolTip("My own")
    made.setText("Round trip")
    assert made.toolTip() == "My own"


def test_f1_opens_the_page_of_the_stop_and_of_the_method(demo):
    demo.go_to(LEDGER)
    demo.actions_by_name["Help on this stop"].trigger()
    opened = demo.manual.opened
    assert opened.isVisible() and opened.key == "ledger"
    demo.plan("idle_ac")
    assert demo.rail.current == PLAN
    demo.actions_by_name["Help on the planned method"].trigger()
    assert opened.key == method_key("idle_ac")
    opened.back.click()
    assert opened.key == "ledger"
    opened.close()


def test_the_manual_is_searched_read_and_left(demo):
    demo.manual.open("start")
    opened = demo.manual.opened
    assert opened.titles.count() == len(book())
    opened.line.setText("hidden reserve")
    assert opened.titles.count() >= 1
    opened.line.returnPressed.emit()
    assert "reserve" in opened.text.toPlainText().lower()
    opened.line.setText("zeppelin")
    assert opened.titles.item(0).text() == "Nothing found"
    opened.open_page("yard")
    name = QUrl("yard.png")
    assert opened.text.loadResource(QTextDocument.ResourceType.ImageResource, name) is not None
    opened._follow(QUrl("glossary"))
    assert "C-rate" in opened.text.toPlainText()
    opened.close()


def test_f1_in_a_dialog_opens_its_page_and_the_page_can_be_used(qtbot, demo):
    def ask(dialog):
        dialog.activateWindow()
        qtbot.waitUntil(dialog.isActiveWindow)
        QTest.keyClick(dialog.focusWidget(), Qt.Key.Key_F1)
        manual = dialog.manual
        qtbot.waitUntil(manual.isVisible)
        assert manual.key == "claims" and manual.parentWidget() is dialog
        QTest.keyClicks(manual.line, "cold")
        assert manual.titles.count() > 0
        qtbot.waitUntil(manual.isActiveWindow)
        QTest.keyClick(manual.line, Qt.Key.Key_Escape)
        assert not manual.isVisible() and dialog.isVisible()
        dialog.reject()

    in_dialog(ask, ClaimDialog)
    demo.actions_by_name["Add a claim…"].trigger()


def test_every_dialog_names_a_page_that_is_there():
    for room in (dialogs, actions):
        for module in pkgutil.iter_modules(room.__path__, f"{room.__name__}."):
            importlib.import_module(module.name)
    found = list(HelpedDialog.__subclasses__())
    for kind in found:
        found += kind.__subclasses__()
    assert len(found) > 30
    assert [kind for kind in found if page(kind.manual_page).key != kind.manual_page] == []
    own = [kind for kind in found if "manual_page" not in vars(kind)]
    assert [kind.__name__ for kind in own] == ["FormDialog"]
