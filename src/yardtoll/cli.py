"""The command line: opens the window, or runs the same core from a shell.

Each loads what the other does not need: a shell no window, a window no shell.
"""

import sys

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
    from yardtoll.shell.app import run_shell

    run_shell(arguments)


def _is_unknown_option(arguments: list[str]) -> bool:
    return arguments[0].startswith("-") and arguments[0] not in ("--demo", "--archive")
