"""What a package of the program is made of, for script/package.

Usage: package_parts.py requirements | icons FOLDER | depends FOLDER | application-id | version
"""

import os
import re
import subprocess
import sys
import tomllib
from importlib import metadata
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

ROOT = Path(__file__).parents[1]
EXTRAS = ("video", "archive")
ICON_SIZES = (16, 22, 24, 32, 48, 64, 128, 256, 512)
OPENED_LATER = (
    "libfontconfig1", "libxcb-cursor0", "libxkbcommon-x11-0", "libegl1", "libgl1", "libdbus-1-3",
)  # fmt: skip
"""Libraries that no file names because they are opened while the program runs."""
_NOT_OURS = ("libcuda", "libnv", "libQt6")


def _normal(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def _wanted() -> set[str]:
    """Names of everything the program needs when it runs, from what is installed here."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    extras = project["optional-dependencies"]
    open_ = [*project["dependencies"], *(line for extra in EXTRAS for line in extras[extra])]
    seen: set[str] = set()
    while open_:
        line = open_.pop()
        found = re.match(r"[A-Za-z0-9._-]+", line)
        marker = line.partition(";")[2]
        if found is None or "extra ==" in marker or 'platform_system == "Windows"' in marker:
            continue
        name = _normal(found[0])
        if name in seen:
            continue
        try:
            needs = metadata.requires(name) or []
        except metadata.PackageNotFoundError:
            continue  # for another system or Python
        seen.add(name)
        asked = re.search(r"\[([^\]]+)\]", line.partition(";")[0])
        for extra in asked[1].split(",") if asked else ():
            of_extra = f'extra == "{extra.strip()}"'
            needs = [n.partition(";")[0] if of_extra in n else n for n in needs]
        open_ += needs
    return seen


def requirements() -> None:
    """The locked lines, hashes and all, of what is needed when the program runs."""
    wanted = _wanted()
    keep = False
    for line in (ROOT / "requirements.lock").read_text("utf-8").splitlines():
        named = re.match(r"([A-Za-z0-9._-]+)(?:\[[^\]]*\])?==", line)
        if named is not None:
            keep = _normal(named[1]) in wanted
        if keep and line.strip():
            print(line)


def icons(folder: Path) -> None:
    """The icon in every size of the icon theme, under the theme's folders."""
    from PySide6.QtCore import Qt
    from PySide6.QtGui import QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    source = ROOT / "src/yardtoll/desktop/assets/icons/yardtoll.svg"
    scalable = folder / "scalable" / "apps"
    scalable.mkdir(parents=True, exist_ok=True)
    (scalable / "yardtoll.svg").write_bytes(source.read_bytes())
    renderer = QSvgRenderer(str(source))
    for size in ICON_SIZES:
        image = QImage(size, size, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        with QPainter(image) as painter:
            renderer.render(painter)
        place = folder / f"{size}x{size}" / "apps"
        place.mkdir(parents=True, exist_ok=True)
        if not image.save(str(place / "yardtoll.png")):
            sys.exit(f"{place} cannot be written")


def depends(folder: Path) -> None:
    """The system's packages whose libraries the files of a folder ask for, as one line."""
    asked: set[str] = set()
    files = [file for file in folder.rglob("*") if ".so" in file.name and file.is_file()]
    for start in range(0, len(files), 200):
        told = _said_by("ldd", *map(str, files[start : start + 200]))
        asked |= set(re.findall(r"=> (/\S+)", told))
    outside = [os.path.realpath(path) for path in asked if not path.startswith(str(folder))]
    found = set(OPENED_LATER)
    for path in outside:
        if not Path(path).name.startswith(_NOT_OURS):
            owner = _said_by("dpkg", "-S", path)
            found |= {line.partition(":")[0] for line in owner.splitlines() if ": /" in line}
    minor = sys.version_info.minor
    python = [f"python3 (>= 3.{minor})", f"python3 (<< 3.{minor + 1})"]
    print(", ".join([*python, *sorted(name for name in found if name.startswith("lib"))]))


def _said_by(*command: str) -> str:
    return subprocess.run(command, capture_output=True, text=True, check=False).stdout


def application_id() -> None:
    """As the first bytes of a yard have it."""
    from yardtoll.store.schema import APPLICATION_ID

    print(f"0x{APPLICATION_ID:08x}")


def version() -> None:
    """Of the project."""
    print(tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]["version"])


if __name__ == "__main__":
    {
        "requirements": requirements,
        "icons": lambda: icons(Path(sys.argv[2])),
        "depends": lambda: depends(Path(sys.argv[2]).resolve()),
        "application-id": application_id,
        "version": version,
    }[sys.argv[1]]()
