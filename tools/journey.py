"""From an empty folder to a published sheet, as a new user goes: clicks, keys and time counted.

Alone, or led by the first evening.

Usage: journey.py PROGRAM PICTURE.png [evening], by the system's Python; script/journey gives it a
screen, a home folder and a session bus. Controls are found by the names that a screen reader reads,
and pressed by the pointer where they are on the screen. The picture is of the end.

Hands-on time is what a person of usual skill needs for the same acts, by the keystroke-level model
(Card, Moran and Newell, Communications of the ACM 23 (1980) 396; its times are given from memory):
a key 0.28 s, pointing 1.1 s, a click 0.2 s, a change between mouse and keys 0.4 s, making up one's
mind before each step 1.35 s. A new user also reads whatever is new on the screen, each text once,
at 238 words a minute (Brysbaert, Journal of Memory and Language 109 (2019) 104047; from memory).
"""

import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402

KEY_S, POINT_S, CLICK_S, CHANGE_S, MIND_S = 0.28, 1.1, 0.2, 0.4, 1.35
WORDS_A_MINUTE = 238
LISTING = ("Usable capacity 240 Wh", "Recharge from the wall in 2.5 hours")
PATIENCE_S = 120.0
_TURNS = 30


class Person:
    """Who sits before the screen, and what was done so far.

    Attributes:
        clicks, wheel, keys, characters: wheel counts its notches; keys are those that type nothing.
        hands_on_s: of a person, by the model.
        words: read so far.
    """

    def __init__(self, program: subprocess.Popen[bytes]) -> None:
        self._program = program
        self.clicks = self.wheel = self.keys = self.characters = self.words = 0
        self.hands_on_s = 0.0
        self._at_mouse = True
        self._read: set[str] = set()

    def press(self, name: str, role: str = "push button") -> None:
        """Click on what has a name that begins so."""
        x, y = self._in_sight(name, role)
        self._read_screen()
        _xdotool("mousemove", str(x), str(y), "sleep", "0.1", "click", "1")
        self.clicks += 1
        self._spend(MIND_S + POINT_S + CLICK_S, at_mouse=True)

    def type(self, text: str) -> None:
        """Type a text into what has the focus."""
        _xdotool("type", "--delay", "25", text)
        self.characters += len(text)
        self._spend(MIND_S + KEY_S * len(text), at_mouse=False)

    def key(self, *names: str) -> None:
        """Press keys, one after another."""
        _xdotool("key", "--delay", "60", *names)
        self.keys += len(names)
        self._spend(KEY_S * len(names), at_mouse=False)

    def see(self, text: str, within_s: float = PATIENCE_S) -> str:
        """Wait until something on the screen says so, and return all that it says.

        Raises:
            SystemExit: it is not said in time.
        """
        said = self._until(lambda: next((n for n in self._texts() if text in n), None), within_s)
        if said is None:
            sys.exit(f"The screen never said “{text}”; it says: {' | '.join(self._texts())[:2000]}")
        self._read_screen()
        return said

    def _spend(self, seconds: float, *, at_mouse: bool) -> None:
        self.hands_on_s += seconds + CHANGE_S * (at_mouse is not self._at_mouse)
        self._at_mouse = at_mouse

    def _read_screen(self) -> None:
        for text in set(self._texts()) - self._read:
            self._read.add(text)
            self.words += len(text.split())

    def _texts(self) -> list[str]:
        return [node.get_name() for node in self._shown() if node.get_name()]

    def _place(self, name: str, role: str) -> tuple[int, int]:
        """Its middle, when it is there, can be pressed, and stands still."""

        def there() -> tuple[int, int] | None:
            first = self._middle(name, role)
            time.sleep(0.15)
            return first if first is not None and first == self._middle(name, role) else None

        found = self._until(there, PATIENCE_S)
        if found is None:
            sys.exit(f"There is no {role} “{name}”; there is: {' | '.join(self._texts())[:2000]}")
        return found

    def _in_sight(self, name: str, role: str) -> tuple[int, int]:
        """The same, once the wheel has brought it into what is seen of the part that scrolls."""
        for _ in range(_TURNS):
            x, y = self._place(name, role)
            seen = self._seen_part(name, role)
            if seen is None or seen[1] <= y < seen[3]:
                break
            middle = (seen[0] + seen[2]) // 2, (seen[1] + seen[3]) // 2
            _xdotool("mousemove", *map(str, middle), "click", "5" if y >= seen[3] else "4")
            self.wheel += 1
            self._spend(KEY_S, at_mouse=True)
        return x, y

    def _middle(self, name: str, role: str) -> tuple[int, int] | None:
        node = self._found(name, role)
        if node is None or not node.get_state_set().contains(Atspi.StateType.ENABLED):
            return None
        left, top, right, bottom = _corners(node)
        return (left + right) // 2, (top + bottom) // 2

    def _seen_part(self, name: str, role: str) -> tuple[int, int, int, int] | None:
        """Left, top, right and bottom of the part that scrolls with it; None where none does."""
        node = self._found(name, role)
        while node is not None and node.get_role_name() != "scroll pane":
            node = node.get_parent()
        return None if node is None else _corners(node)

    def _found(self, name: str, role: str) -> Atspi.Accessible | None:
        named = (n for n in self._shown() if n.get_role_name() == role)
        return next((node for node in named if node.get_name().startswith(name)), None)

    def _until(self, found: Callable[[], object], within_s: float) -> object:
        end = time.monotonic() + within_s
        while (it := found()) is None and time.monotonic() < end and self._program.poll() is None:
            time.sleep(0.1)
        return it

    def _shown(self) -> Iterator[Atspi.Accessible]:
        desktop = Atspi.get_desktop(0)
        for index in range(desktop.get_child_count()):
            program = desktop.get_child_at_index(index)
            if program is not None and program.get_name().lower() == "yardtoll":
                for at in range(program.get_child_count()):
                    yield from _all_shown(program.get_child_at_index(at))


def _corners(node: Atspi.Accessible) -> tuple[int, int, int, int]:
    at = Atspi.Component.get_extents(node, Atspi.CoordType.SCREEN)
    return at.x, at.y, at.x + at.width, at.y + at.height


def _all_shown(node: Atspi.Accessible | None) -> Iterator[Atspi.Accessible]:
    try:
        if node is None or not node.get_state_set().contains(Atspi.StateType.SHOWING):
            return
        yield node
        children = [node.get_child_at_index(at) for at in range(node.get_child_count())]
    except gi.repository.GLib.Error:  # it went away while it was looked at
        return
    for child in children:
        yield from _all_shown(child)


def _xdotool(*words: str) -> None:
    subprocess.run(["xdotool", *words], check=True)
    time.sleep(0.2)


def make_yard(person: Person) -> None:
    """A file, a station, what its maker says of it, and a load."""
    person.press("Start a new yard")
    person.see("File name:")
    person.key("Return")
    person.press("Add a station")
    person.see("Rated energy")
    person.type("Tansy 300")
    person.key("Tab")
    person.type("288")
    person.key("Tab")
    person.type("300")
    person.key("Return")
    person.press("Claims", "radio button")
    person.press("Paste a text")
    person.see("Read claims from a text")
    person.type(LISTING[0])
    person.key("Return")
    person.type(LISTING[1])
    person.press("Keep what is ticked")
    person.press("Yard", "radio button")
    person.press("Add a load")
    person.see("How many I have")
    person.type("Lamp")
    person.key("Tab", "Tab", "Tab")
    person.type("60 W")
    person.key("Tab", "Return")


def find_mistakes(person: Person) -> None:
    """The first evening's bench, its station, and what the label says."""
    person.press("The first evening")
    person.see("Look at the bench")
    for mistake in ("A lamp glows", "In the station's menu", "The meter's counter",
                    "Both heaters", "Nobody looks"):  # fmt: skip
        person.press(mistake, "check box")
    person.press("These would spoil it")
    person.see("That is all of them")
    person.press("Go on")
    person.press("Add a station")
    person.see("Rated energy")
    person.type("Bramble 600")
    person.key("Tab")
    person.type("614")
    person.key("Tab")
    person.type("600")
    person.key("Return")
    person.press("Copy the label")
    person.press("Claims", "radio button")
    person.press("Paste a text")
    person.see("Read claims from a text")
    person.key("ctrl+v")
    person.press("Keep what is ticked")


def start(person: Person) -> None:
    """Plan a run, pass its checks, start it."""
    person.press("Plan it")
    person.press("All off, floor 0 %")
    for check in ("Full and settled", "Every input", "Meter zeroed", "Cautions read"):
        person.press(check, "check box")
    person.press("Start the run")
    person.see("Delivered")


def note(person: Person) -> None:
    """A mark, and what the station's display says."""
    person.key("f", "space")
    person.type("97")
    person.key("Return")


def hasten(person: Person) -> None:
    """The simulated bench's clock, faster."""
    person.press("×60", "combo box")
    person.see("×3600")
    person.key("End", "Return")


def publish(person: Person, home: Path) -> list[str]:
    """Look where the watt-hours went, read the verdict, save the sheet; what was read."""
    person.press("See its ledger")
    said = [person.see("reach the load")]
    person.press("Verdicts", "radio button")
    said.append(person.see("Probability of conformity"))
    person.press("Sheet", "radio button")
    person.press("Save the sheet as PDF")
    person.see("File name:")
    person.key("Return")
    said.append(person.see("is written"))
    (sheet,) = home.rglob("*.pdf")
    if not sheet.read_bytes().startswith(b"%PDF"):
        sys.exit(f"{sheet.name} is no PDF.")
    return said


def main() -> None:
    program_path, picture, *led = sys.argv[1:]
    is_evening = led == ["evening"]
    manager = subprocess.Popen(["openbox"], stderr=subprocess.DEVNULL)
    program = subprocess.Popen([program_path], cwd=Path.home())
    try:
        person, begun = Person(program), time.monotonic()
        person.see("Start a new yard")
        (find_mistakes if is_evening else make_yard)(person)
        start(person)
        note(person)
        if not is_evening:  # its clock is fast already
            hasten(person)
        left = time.monotonic()
        person.see("The run has ended")
        alone_s = time.monotonic() - left
        said = publish(person, Path.home())
        if is_evening:
            said.append(person.see("The simulated station really delivered"))
        took_s = time.monotonic() - begun
    finally:
        subprocess.run(["scrot", "-o", picture], check=False)
        program.kill()
        manager.terminate()
    reading_s = 60 * person.words / WORDS_A_MINUTE
    print(*said, sep="\n")
    print(
        f"From an empty folder to a sheet: {person.clicks} clicks, {person.wheel} notches of the "
        f"wheel, {person.keys} keys, {person.characters} characters.\n"
        f"Hands-on {person.hands_on_s / 60:.1f} min, and {reading_s / 60:.1f} min to read "
        f"{person.words} words, each once; the script took {took_s:.0f} s, of which the run "
        f"was alone for {alone_s:.0f} s."
    )


if __name__ == "__main__":
    main()
