"""Taking edits back and doing them again, said in a sentence each."""

from collections.abc import Callable
from typing import Protocol

from yardtoll.desktop.workbench.session import Session
from yardtoll.store.errors import YardError


class Speaker(Protocol):
    """What can say a sentence with something to do about it."""

    def say(self, text: str, action: str = "", todo: Callable[[], object] | None = None) -> None:
        """Say it."""


def take_back(speaker: Speaker, session: Session) -> None:
    """Take the last edit back, if there is one."""
    if not session.undo_stack.canUndo():
        return
    try:
        said = f"Undone: {session.undo()}."
        speaker.say(said, "Redo", lambda: do_again(speaker, session))
    except YardError as error:
        speaker.say(f"Not undone: {error}.", "Try again", lambda: take_back(speaker, session))


def do_again(speaker: Speaker, session: Session) -> None:
    """Do again what was taken back, if something was."""
    if not session.undo_stack.canRedo():
        return
    try:
        session.redo()
    except YardError as error:
        speaker.say(f"Not done again: {error}.", "Try again", lambda: do_again(speaker, session))
