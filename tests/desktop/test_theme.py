"""Colours hold apart and text stays readable, measured."""

from itertools import combinations

import numpy as np
import pytest
from colorspacious import cspace_convert

from yardtoll.core.electrical.energy_kind import EnergyKind
from yardtoll.desktop.theme.stylesheet import stylesheet
from yardtoll.desktop.theme.tokens import DAY, NIGHT, THEMES, Tokens

LEAST_APART = 17.0
SIGHTS = {
    "normal": None,
    **{
        kind: {"name": "sRGB1+CVD", "cvd_type": f"{kind}omaly", "severity": 100}
        for kind in ("deuteran", "protan", "tritan")
    },
}


def rgb(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])


def luminance(colour: str) -> float:
    """Relative luminance, WCAG 2.1."""
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in rgb(colour)]
    return float(np.dot(linear, [0.2126, 0.7152, 0.0722]))


def contrast(one: str, other: str) -> float:
    """Contrast ratio, WCAG 2.1."""
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("sight", SIGHTS)
@pytest.mark.parametrize("tokens", [DAY, NIGHT], ids=lambda t: t.name)
def test_any_two_energy_colours_stay_apart(tokens: Tokens, sight):
    seen = {}
    for kind, colour in tokens.energy.items():
        shown = rgb(colour)
        if SIGHTS[sight] is not None:
            shown = np.clip(cspace_convert(shown, SIGHTS[sight], "sRGB1"), 0, 1)
        seen[kind] = cspace_convert(shown, "sRGB1", "CAM02-UCS")
    for one, other in combinations(EnergyKind, 2):
        assert np.linalg.norm(seen[one] - seen[other]) >= LEAST_APART, (one, other)


@pytest.mark.parametrize("tokens", [DAY, NIGHT], ids=lambda t: t.name)
def test_text_reaches_four_and_a_half_to_one(tokens: Tokens):
    for ground in (tokens.paper, tokens.raised, tokens.sunk):
        for ink in ("ink", "muted", "accent", "good", "bad", "unsure"):
            assert contrast(getattr(tokens, ink), ground) >= 4.5, (ink, ground)
    assert contrast(tokens.on_accent, tokens.accent) >= 4.5
    for ink in (tokens.strip_ink, tokens.strip_muted, tokens.strip_accent):
        assert contrast(ink, tokens.strip) >= 4.5
    for kind in EnergyKind:
        assert contrast(tokens.on_energy[kind], tokens.energy[kind]) >= 4.5, kind


def test_high_contrast_reaches_seven_to_one():
    tokens = THEMES["contrast"]
    for ground in (tokens.paper, tokens.raised, tokens.sunk):
        for ink in ("ink", "muted", "accent", "good", "bad", "unsure"):
            assert contrast(getattr(tokens, ink), ground) >= 7, (ink, ground)
    assert contrast(tokens.line, tokens.paper) >= 4.5  # edges of fields can be seen
    for ink in (tokens.strip_ink, tokens.strip_muted, tokens.strip_accent):
        assert contrast(ink, tokens.strip) >= 7


def test_all_themes_fill_every_name_of_the_sheet():
    sheets = {name: stylesheet(tokens) for name, tokens in THEMES.items()}
    assert all("$" not in sheet for sheet in sheets.values())
    assert DAY.accent in sheets["day"] and NIGHT.accent in sheets["night"]
    assert set(DAY.energy) == set(NIGHT.energy) == set(EnergyKind)
