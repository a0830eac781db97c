"""The command line: opens the window, or runs the same core from a shell.

Each loads what the other does not need: a shell no window, a window no shell.
"""

import atexit
import gc
import os
import sys

from yardtoll import __version__

# Before NumPy is loaded: nothing here multiplies matrices so large that threads would gain by it,
# and starting and waking them costs more than the sums.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

SHELL_COMMANDS = ("archive", "check", "compute", "import", "export", "lineup", "record", "report")


def main(argv: list[str] | None = None) -> None:
    """Run the command line; ``argv`` without the program's name."""
    arguments = sys.argv[1:] if argv is None else argv
    if not arguments or (
        arguments[0] not in (*SHELL_COMMANDS, "--help", "--version")
        and not _is_unknown_option(arguments)
    ):
        from yardtoll.desktop.app import run_window

        raise SystemExit(run_window(arguments))
    if arguments == ["--version"]:
        print(f"yardtoll {__version__}")
        raise SystemExit
    # At its end the interpreter would look for garbage in all it has loaded: a fifth of a command.
    atexit.register(gc.freeze)
    from yardtoll.shell.app import run_shell

    run_shell(arguments)


def _is_unknown_option(arguments: list[str]) -> bool:
    return arguments[0].startswith("-") and arguments[0] not in ("--demo", "--archive")
