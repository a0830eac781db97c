"""The man page and the completions of bash, zsh and fish, from the program's own commands.

Usage: shell_help.py man VERSION DATE | bash | zsh | fish
"""

import re
import sys
from collections.abc import Iterator
from typing import Any

import typer

from yardtoll.manual.book import page
from yardtoll.shell.app import program_of

WINDOW = (
    ("--demo", "open a fresh copy of the demo yard"),
    ("--archive", "send the yard to a shared archive while it is open"),
    ("--version", "print the version"),
    ("--help", "list the commands"),
)


def commands() -> dict[tuple[str, ...], Any]:
    """Every command by its words; those that only hold others too."""
    found: dict[tuple[str, ...], Any] = {}
    open_ = [((), typer.main.get_command(program_of([""])))]
    while open_:
        words, command = open_.pop(0)
        found[words] = command
        for name, inner in sorted(getattr(command, "commands", {}).items()):
            open_.append(((*words, name), inner))
    return found


def options(words: tuple[str, ...], command: Any) -> Iterator[tuple[str, str, bool]]:
    """(name, help, takes a value) of a command's options; at the top the window's too."""
    given = dict(WINDOW) if not words else {"--help": "show this and exit"}
    for parameter in command.params:
        names = [name for name in parameter.opts if name.startswith("--")]
        if names and names[0] not in given:
            yield names[0], parameter.help or "", not parameter.is_flag
    for name, text in given.items():
        yield name, text, False


def summary(command: Any) -> str:
    """The first sentence of its help."""
    text = re.sub(r"\s+", " ", command.help or "").strip()
    return text.split(". ")[0].rstrip(".")


def bash() -> str:
    """Completion for bash."""
    cases = []
    for words, command in commands().items():
        given = (name for name, _, _ in options(words, command))
        offered = [*getattr(command, "commands", {}), *given]
        cases.append(f'    "{" ".join(words)}") offered="{" ".join(sorted(set(offered)))}" ;;')
    return f"""# Completion of yardtoll for bash.
_yardtoll() {{
    local current="${{COMP_WORDS[COMP_CWORD]}}" words="" word offered="" i
    for ((i = 1; i < COMP_CWORD; i++)); do
        word="${{COMP_WORDS[i]}}"
        case "$word" in -*|*.*|*/*) break ;; esac
        words="${{words:+$words }}$word"
    done
    case "$words" in
{chr(10).join(cases)}
    esac
    COMPREPLY=($(compgen -W "$offered" -- "$current"))
    if [[ "$current" != -* ]]; then
        compopt -o filenames 2>/dev/null
        COMPREPLY+=($(compgen -f -- "$current"))
    fi
}}
complete -F _yardtoll yardtoll
"""


_ZSH_INNER = "      local -a inner=({})\n      _describe command inner\n"


def _zsh_word(text: str) -> str:
    return re.sub(r"([\[\]:'\\])", r"\\\1", text).replace("\\'", "'\\''")


def zsh() -> str:
    """Completion for zsh."""
    cases = []
    for words, command in commands().items():
        inner = getattr(command, "commands", {})
        lines = [f"'{_zsh_word(name)}:{_zsh_word(summary(c))}'" for name, c in inner.items()]
        given = [
            f"'{name}{'=' if takes else ''}[{_zsh_word(text)}]{':value:_files' if takes else ''}'"
            for name, text, takes in options(words, command)
        ]
        cases.append(
            f'    "{" ".join(words)}")\n'
            + (_ZSH_INNER.format(" ".join(lines)) if lines else "")
            + f"      _arguments {' '.join(given)} '*:file:_files' ;;"
        )
    return f"""#compdef yardtoll
# Completion of yardtoll for zsh.
_yardtoll() {{
  local said="" word
  for word in ${{words[2,CURRENT-1]}}; do
    case "$word" in -*|*.*|*/*) break ;; esac
    said="${{said:+$said }}$word"
  done
  case "$said" in
{chr(10).join(cases)}
  esac
}}
_yardtoll "$@"
"""


def fish() -> str:
    """Completion for fish."""
    lines = ["# Completion of yardtoll for fish."]
    for words, command in commands().items():
        inner = getattr(command, "commands", {})
        seen = " ".join(words)
        if not words:
            when = "__fish_use_subcommand"
        elif inner:
            also = f"; and not __fish_seen_subcommand_from {' '.join(inner)}"
            when = f"__fish_seen_subcommand_from {seen}{also}"
        else:
            when = "; and ".join(f"__fish_seen_subcommand_from {word}" for word in words)
        for name, c in inner.items():
            lines.append(f"complete -c yardtoll -n '{when}' -a {name} -d {_quoted(summary(c))}")
        for name, text, takes in options(words, command):
            value = " -r" if takes else ""
            lines.append(
                f"complete -c yardtoll -n '{when}' -l {name[2:]}{value} -d {_quoted(text)}"
            )
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"


def _roff(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return re.sub(r"^([.'])", r"\\&\1", text, flags=re.MULTILINE)


def _page(text: str) -> Iterator[str]:
    """The manual's Markdown as a man page has it, without its title."""
    is_code = False
    for block in re.split(r"\n\n+", text.split("\n", 1)[1].strip()):
        if block.startswith("## "):
            yield f".SS {_roff(block[3:])}"
            continue
        if block.startswith("|"):
            for row in block.split("\n")[2:]:
                name, *said = (cell.strip() for cell in row.strip("|").split("|"))
                yield from (".TP", f"\\fB{_inline(name)}\\fR", _inline(" ".join(said)))
            continue
        if block.startswith("```") or is_code:
            is_code = not block.endswith("```") or block == "```"
            yield from (".PP", ".nf", _roff(block.strip("`").strip("\n")), ".fi")
            continue
        items = re.split(r"\n(?=- |\d+\. )", block)
        if re.match(r"- |\d+\. ", items[0]):
            for item in items:
                mark, said = item.split(" ", 1)
                yield from (f".IP {_roff(mark)} 4", _inline(re.sub(r"\s+", " ", said)))
            continue
        yield from (".PP", _inline(re.sub(r"\s+", " ", block)))


def _inline(text: str) -> str:
    """Words in bold and slanted type; of a link, its words."""
    text = _roff(re.sub(r"!?\[([^\]]*)\]\([^)]*\)", r"\1", text).replace("`", ""))
    text = re.sub(r"\*\*([^*]+)\*\*", r"\\fB\1\\fR", text)
    return re.sub(r"\*([^*]+)\*", r"\\fI\1\\fR", text)


def man(version: str, date: str) -> str:
    """The man page."""
    made = [
        f'.TH YARDTOLL 1 "{date}" "yardtoll {version}" "User Commands"',
        ".SH NAME",
        "yardtoll \\- bench for testing portable power stations",
        ".SH SYNOPSIS",
        ".B yardtoll",
        "[\\fIFILE.yard\\fR]",
        ".br",
        ".B yardtoll \\-\\-demo",
        ".br",
        ".B yardtoll",
        "\\fICOMMAND\\fR [\\fIOPTIONS\\fR]",
        ".SH DESCRIPTION",
        _roff(
            "Without a command the window opens. The commands work out the same figures in a "
            "shell; each takes --help, and --json prints the same as JSON, units in the keys."
        ),
        ".SH OPTIONS",
    ]
    for name, text in WINDOW:
        made += [".TP", f"\\fB{_roff(name)}\\fR", _roff(f"{text}.")]
    made.append(".SH COMMANDS")
    for words, command in commands().items():
        if not words or getattr(command, "commands", None):
            continue
        made += [f".SS yardtoll {_roff(' '.join(words))}", _roff(f"{summary(command)}.")]
        for name, text, takes in options(words, command):
            value = " \\fIVALUE\\fR" if takes else ""
            if name != "--help":
                made += [".TP", f"\\fB{_roff(name)}\\fR{value}", _roff(text)]
    made += [
        ".SH EXIT STATUS",
        "0: done. 1: the data or a value cannot be used; one line says why. 2: wrong usage.",
        ".SH FILES",
        ".TP", "\\fI*.yard\\fR", "A yard: stations, bench and runs, one SQLite file.",
        ".TP", "\\fI*.backups\\fR", "Beside a yard: its daily copies.",
    ]  # fmt: skip
    for title, key in (("IN THE WINDOW", "start"), ("FROM A SHELL", "shell"),
                       ("CAUTIONS", "cautions")):  # fmt: skip
        made += [f".SH {title}", *_page(page(key).text)]
    return "\n".join(made) + "\n"


if __name__ == "__main__":
    made = {"bash": bash, "zsh": zsh, "fish": fish}
    sys.stdout.write(man(*sys.argv[2:4]) if sys.argv[1] == "man" else made[sys.argv[1]]())
