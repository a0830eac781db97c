"""Completions and the man page, in the shells themselves where they are there."""

import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

TOOL = Path(__file__).parents[2] / "tools" / "shell_help.py"


def made(*asked):
    done = subprocess.run(
        [sys.executable, TOOL, *asked], capture_output=True, text=True, timeout=60, check=True
    )
    return done.stdout


def needs(program):
    return pytest.mark.skipif(shutil.which(program) is None, reason=f"needs {program}")


def in_shell(tmp_path, command, script):
    done = subprocess.run(
        [*command, script], cwd=tmp_path, capture_output=True, text=True, timeout=60, check=False
    )
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


@needs("bash")
@pytest.mark.parametrize(
    ("words", "found"),
    [
        (["comp"], "compute"),
        (["compute", "disch"], "discharge"),
        (["compute", "discharge", "--rated-w"], "--rated-wh"),
    ],
)
def test_bash_completes(tmp_path, words, found):
    (tmp_path / "completion").write_text(made("bash"), "utf-8")
    typed = " ".join(["yardtoll", *words])
    script = (
        f"source completion; COMP_WORDS=({typed}); COMP_CWORD={len(words)}; _yardtoll; "
        'printf "%s\\n" "${COMPREPLY[@]}"'
    )
    assert found in in_shell(tmp_path, ["bash", "-c"], script)


@needs("fish")
@pytest.mark.parametrize(
    ("line", "found"),
    [
        ("yardtoll comp", "compute"),
        ("yardtoll compute disch", "discharge"),
        ("yardtoll compute discharge --rated-w", "--rated-wh"),
    ],
)
def test_fish_completes(tmp_path, line, found):
    (tmp_path / "completion").write_text(made("fish"), "utf-8")
    script = f"source completion; complete -C '{line}'"
    assert found in in_shell(tmp_path, ["fish", "--no-config", "-c"], script)


_TYPED_IN_ZSH = r"""
zmodload zsh/zpty
zpty shell zsh -f -i
zpty -w shell "fpath=($PWD $fpath); autoload -Uz compinit; compinit -u; PS1=rea; PS1+='dy> '"
zpty -r shell said '*ready> *'
zpty -w -n shell "$1"$'\t'
zpty -r -m shell said "*$2*" && print found
zpty -d shell
"""


@needs("zsh")
@pytest.mark.parametrize(
    ("typed", "added"),
    [
        ("yardtoll comp", "ute"),
        ("yardtoll compute disch", "arge"),
        ("yardtoll compute discharge --rated-w", "rated-wh"),
        ("yardtoll --arc", "archive"),
    ],
)
def test_zsh_completes(tmp_path, typed, added):
    """In a shell of its own at a terminal: zsh completes nowhere else."""
    (tmp_path / "_yardtoll").write_text(made("zsh"), "utf-8")
    (tmp_path / "typed").write_text(_TYPED_IN_ZSH, "utf-8")
    command = ["zsh", "-f", "typed", typed]
    assert in_shell(tmp_path, command, added) == ["found"]


@pytest.mark.parametrize(
    ("shell", "top", "option"),
    [("zsh", r'    ""\)\n.*?;;', "--version["), ("fish", r".*use_subcommand.*", "-l version")],
)
def test_an_option_is_offered_once(shell, top, option):
    """The window's own options and the shell's stand beside each other at the top."""
    offered = re.findall(top, made(shell), re.DOTALL if shell == "zsh" else 0)
    assert "\n".join(offered).count(option) == 1


def test_every_option_says_what_it_is():
    assert "[]" not in made("zsh")


def test_the_man_page_has_the_manuals_own_words():
    page = made("man", "1.0", "2026-11-28")
    for words in (
        "Never open a station",
        "yardtoll compute discharge log.csv",
        "Ctrl+Z takes it back",
    ):
        assert words.replace("-", "\\-") in page.replace("\n", " ")
