"""Sums as the program writes them, worked out again apart from it."""

import re

import pytest


def comes_out(put_in: str) -> bool:
    """Work the written sum out again, apart from the program: "1830.0 Wh ÷ 2048 Wh = 89.36 %"."""
    asked, _, said = put_in.rpartition(" = ")
    plain = re.sub(r"\([^()]*own\)", "", asked).replace("%", "/100")
    plain = re.sub(r"\b(Wh|W|h|V|dB)\b", "", plain)
    for sign, means in (("÷", "/"), ("×", "*"), ("−", "-")):
        plain = plain.replace(sign, means)
    assert re.fullmatch(r"[-+*/().\d ]+", plain), plain
    value = eval(plain)
    shown = float(said.split()[0])
    shown = shown / 100 if said.endswith("%") else shown
    return value == pytest.approx(shown, rel=2e-3)
