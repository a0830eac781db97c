"""Write docs/manual from the program's own pages: tools/make_manual.py [--check]."""

import re
import sys
from pathlib import Path

from yardtoll.manual.book import Page, book

FOLDER = Path(__file__).parents[1] / "docs" / "manual"
PICTURES = "../../src/yardtoll/manual/pictures"


def as_file(page: Page) -> str:
    """A page with links between files."""
    text = re.sub(r"!\[([^\]]*)\]\(([^)]+)\)", rf"![\1]({PICTURES}/\2)", page.text)
    return re.sub(r"(?<!!)\[([^\]]*)\]\(([a-z-]+)\)", r"[\1](\2.md)", text)


def files() -> dict[str, str]:
    """Every file by its name, contents first."""
    listed = "".join(f"- [{page.title}]({page.key}.md)\n" for page in book())
    contents = f"# Manual\n\nThe same pages open in the program with F1.\n\n{listed}"
    return {"README.md": contents} | {f"{page.key}.md": as_file(page) for page in book()}


def main() -> None:
    """Write the files, or say which are not as the program has them."""
    made = files()
    if "--check" in sys.argv:
        stale = [n for n, text in made.items() if _read(FOLDER / n) != text]
        sys.exit(f"docs/manual is not as the pages are: {', '.join(stale)}" if stale else 0)
    FOLDER.mkdir(parents=True, exist_ok=True)
    for old in FOLDER.glob("*.md"):
        old.unlink()
    for name, text in made.items():
        (FOLDER / name).write_text(text, "utf-8")


def _read(path: Path) -> str:
    return path.read_text("utf-8") if path.exists() else ""


if __name__ == "__main__":
    main()
