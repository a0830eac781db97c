"""The book: pages in Markdown, in their order, found by words."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cache
from importlib import resources

from yardtoll.core.claims.kinds import CLAIM_KINDS
from yardtoll.core.methods import METHODS
from yardtoll.core.methods.method import Method, Size

_ORDER = (
    "start", "yard", "claims", "plan", "run", "ledger", "sun", "outputs", "endurance", "verdicts",
    "lineup", "sheet", "notes", "logs", "uncertainty", "cautions", "keys", "shell",
)  # fmt: skip
METHOD_PAGES, METHODS_LIST = "method-", "methods"
GLOSSARY, START, CAUTIONS = "glossary", "start", "cautions"
_TERM = re.compile(r"^\*\*(.+?)\*\*: (.+)$", re.MULTILINE)
_AROUND = 60


@dataclass(frozen=True, kw_only=True)
class Page:
    """One page.

    Attributes:
        key: by which it is linked to.
        text: Markdown; links name keys of pages, pictures a file of the pictures' folder.
    """

    key: str
    text: str

    @property
    def title(self) -> str:
        """Its first heading."""
        return self.text.partition("\n")[0].removeprefix("# ").strip()


@dataclass(frozen=True, kw_only=True)
class Hit:
    """A page that holds what is looked for, with the words around it."""

    page: Page
    words: str


@cache
def book() -> tuple[Page, ...]:
    """Every page: those of the work, one for each method, the glossary."""
    written = [Page(key=key, text=_text(key)) for key in _ORDER]
    methods = [_method_page(method) for method in METHODS.values()]
    lines = [f"- [{page.title}]({page.key}): {_aim(page)}" for page in methods]
    listed = Page(key=METHODS_LIST, text="\n".join(["# Methods", "", *lines, ""]))
    return (*written, listed, *methods, Page(key=GLOSSARY, text=_text(GLOSSARY)))


def page(key: str) -> Page:
    """A page by its key; the first one where there is none."""
    return next((found for found in book() if found.key == key), book()[0])


def method_key(method: str) -> str:
    """Key of a method's page."""
    return f"{METHOD_PAGES}{method}"


def search(words: str) -> list[Hit]:
    """Pages that hold words beginning so; those with them in the title first, then side by side."""
    asked = [re.escape(word) for word in words.split()]
    if not asked:
        return []
    each = [re.compile(rf"(?<!\w){word}", re.IGNORECASE) for word in asked]
    phrase = re.compile(r"(?<!\w)" + r"\s+".join(asked), re.IGNORECASE)
    found = []
    for entry in book():
        body = _plain(entry.text.partition("\n")[2])
        if not all(word.search(entry.title) or word.search(body) for word in each):
            continue
        in_title = all(word.search(entry.title) for word in each)
        together = phrase.search(body)
        first = together or each[0].search(body)
        hit = Hit(page=entry, words=_around(body, first.start() if first else 0))
        found.append(((not in_title, together is None), hit))
    return [hit for _, hit in sorted(found, key=lambda pair: pair[0])]


@cache
def glossary() -> dict[str, str]:
    """What each term means, in the order of the page."""
    return dict(_TERM.findall(_text(GLOSSARY)))


@cache
def _as_written() -> dict[str, str]:
    """Each term by itself in small letters."""
    return {term.casefold(): term for term in glossary()}


@cache
def _terms() -> re.Pattern[str]:
    longest_first = sorted(glossary(), key=len, reverse=True)
    either = "|".join(map(re.escape, longest_first))
    return re.compile(rf"(?<![\w-])({either})(?![\w-])", re.IGNORECASE)


def explained(text: str) -> str:
    """The glossary's words on the first terms in a text, a line each; "" where there is none."""
    found: list[str] = []
    for match in _terms().finditer(text):
        term = _as_written()[match[1].casefold()]
        # A single letter is a term only as it is written: U is none in a sentence's "u".
        if term not in found and (len(term) > 1 or match[1] == term):
            found.append(term)
    return "\n".join(f"{term}: {glossary()[term]}" for term in found[:2])


def _aim(method_page: Page) -> str:
    return method_page.text.split("\n\n")[1]


def _text(key: str) -> str:
    folder = resources.files("yardtoll.manual") / "pages"
    return (folder / f"{key}.md").read_text("utf-8")


def _plain(text: str) -> str:
    text = re.sub(r"!\[[^\]]*\]\([^)]*\)|[*`#|]", "", text)
    return re.sub(r"\s+", " ", re.sub(r"\[([^\]]*)\]\([^)]*\)", r"\1", text)).strip()


def _around(text: str, at: int) -> str:
    begin, end = max(at - _AROUND, 0), min(at + _AROUND, len(text))
    return f"{'…' if begin else ''}{text[begin:end].strip()}{'…' if end < len(text) else ''}"


def _method_page(method: Method) -> Page:
    lines = [f"# {method.title}", "", method.aim, ""]
    lines += [f"It ends when {method.ends_when}.", ""]
    lines += _listed("Setting up", method.steps, numbered=True)
    if method.needs:
        lines += [f"It needs: {', '.join(method.needs)}.", ""]
    lines += _listed("Sizes", map(_size_words, method.sizes) if len(method.sizes) > 1 else ())
    lines += _listed("Take care", method.cautions)
    claims = [CLAIM_KINDS[key].title for key in method.claims if key in CLAIM_KINDS]
    lines += _listed("Claims it speaks to", claims)
    lines += _listed("Where the method comes from", method.sources)
    return Page(key=method_key(method.key), text="\n".join(lines).rstrip() + "\n")


def _listed(title: str, items: Iterable[str], *, numbered: bool = False) -> Iterator[str]:
    items = list(items)
    if items:
        yield f"## {title}"
        yield ""
        for number, item in enumerate(items, 1):
            yield f"{f'{number}.' if numbered else '-'} {item}"
        yield ""


def _size_words(size: Size) -> str:
    if size.hold_s is not None:
        return f"{size.title}: held for {size.hold_s / 60:g} min"
    return size.title
