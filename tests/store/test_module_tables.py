"""Labels of modules from the shipped table: usable ones alone, found by words and by watts."""

import pytest

from yardtoll.core.sun.array_check import InputLimits, Module, check_array
from yardtoll.store.module_tables import ModuleLabel, _usable, known_modules, search


@pytest.fixture(scope="module")
def modules():
    return known_modules()


def label(name="A B 200", **facts):
    usual = {
        "power_w": 200.0, "voc_v": 24.0, "vmp_v": 20.0, "isc_a": 10.5, "imp_a": 10.0,
        "beta_voc": -0.003, "gamma": -0.004,
    }  # fmt: skip
    return ModuleLabel(name=name, **{**usual, **facts})


def test_every_label_can_be_checked(modules):
    assert len(modules) > 10_000
    names = [m.name.casefold() for m in modules]
    assert names == sorted(names)
    for found in modules[:: len(modules) // 200]:
        module = Module(
            voc_v=found.voc_v,
            vmp_v=found.vmp_v,
            isc_a=max(found.isc_a, found.imp_a),
            imp_a=found.imp_a,
            beta_voc=found.beta_voc,
        )
        limits = InputLimits(highest_v=1000)
        check = check_array(module, 1, 1, limits, coldest_c=-20, hottest_c=40)
        # Cold raises volts by some tenths; the nameplate is Vmp × Imp within a few per cent.
        assert 1.03 < check.voc_cold_v / check.voc_stc_v < 1.35
        assert check.power_stc_w == pytest.approx(found.power_w, rel=0.05)


def test_search_by_words_and_watts():
    made = [label("North Light 200"), label("North Dark 150", power_w=150), label("South 200")]
    assert search(made, "") == made
    assert search(made, "north") == made[:2]
    assert search(made, "NORTH 200w") == [made[0]]
    assert search(made, "150W") == [made[1]]
    assert search(made, "east") == []
    assert search(made * 10, "north", most=3) == [made[0], made[1], made[0]]


@pytest.mark.parametrize(
    "facts",
    [
        {"power_w": 0.0}, {"voc_v": float("nan")}, {"vmp_v": 25.0}, {"beta_voc": 0.001},
        {"beta_voc": -0.5}, {"gamma": 0.01}, {"isc_a": -1.0},
    ],
)  # fmt: skip
def test_a_label_that_cannot_be_is_left_out(facts):
    assert _usable(label()) and not _usable(label(**facts))
