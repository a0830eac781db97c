"""The mixer against brute force, its limits, and what it says of them."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.planning.loads import KINDS, LoadSetting, LoadSpec, MixLimits
from yardtoll.core.planning.mixing import mix_loads
from yardtoll.core.planning.wiring import Circuit, cord


def load(name, *watts, **facts):
    settings = tuple(LoadSetting(name=f"s{i}", watts=w) for i, w in enumerate(watts))
    return LoadSpec(name=name, settings=settings, **facts)


HEATER = load("Heater", 412, 805, 1210)
LAMP = load("Lamp", 60, count=4)
PUMP = load("Pump", 180, kind="inductive", inrush=4.0, power_factor=0.8)


def device_watts(spec):
    """Every W one device of a sort can draw."""
    watts = [s.watts for s in spec.settings]
    if spec.range_w:
        low, high, step = spec.range_w
        watts += [low + i * step for i in range(int((high - low) / step + 1e-9) + 1)]
    return watts


def brute_force(target_w, loads, limits):
    """(|off|, devices, inductive) of the best mix, by trying all; None where all are forbidden."""
    choices = [
        {
            (round(sum(some), 3), n)
            for n in range(spec.count + 1)
            for some in itertools.combinations_with_replacement(device_watts(spec), n)
        }
        for spec in loads
    ]
    best = None
    for mix in itertools.product(*choices):
        total, devices = sum(w for w, _ in mix), sum(n for _, n in mix)
        va = sum(w / s.power_factor for (w, _), s in zip(mix, loads, strict=True))
        start = sum(w * s.inrush for (w, _), s in zip(mix, loads, strict=True))
        fits = all((va if b.of_va else total) <= b.most + 1e-6 for b in limits.bounds())
        fits &= limits.surge_w is None or start <= limits.surge_w + 1e-6
        fits &= limits.outlets is None or devices <= limits.outlets
        if devices and fits:
            inductive = sum(
                n for (_, n), s in zip(mix, loads, strict=True) if s.kind == "inductive"
            )
            key = (round(abs(total - target_w), 3), devices, inductive)
            best = key if best is None else min(best, key)
    return best


def key_of(mix, loads):
    kinds = {spec.name: spec.kind for spec in loads}
    inductive = sum(p.count for p in mix.parts if kinds[p.name] == "inductive")
    return round(abs(mix.off_w), 3), mix.devices, inductive


watts = st.integers(20, 900) | st.floats(20, 900).map(lambda w: round(w, 1))


@st.composite
def inventories(draw):
    """Up to eight loads, few enough of each that all mixes can be tried."""
    count = draw(st.integers(1, 8))
    most = 1 if count > 4 else 2
    return [
        load(
            f"L{i}",
            *draw(st.lists(watts, min_size=1, max_size=3 if count <= 4 else 2)),
            kind=draw(st.sampled_from(KINDS)),
            count=draw(st.integers(1, most)),
            inrush=draw(st.sampled_from([1.0, 3.0])),
            power_factor=draw(st.sampled_from([1.0, 0.8])),
        )
        for i in range(count)
    ]


limit_sets = st.builds(
    MixLimits,
    inverter_w=st.sampled_from([None, 700, 1500]),
    circuit=st.sampled_from([None, Circuit(breaker_a=10, volts=120)]),
    surge_w=st.sampled_from([None, 1500]),
    outlets=st.sampled_from([None, 2]),
    hours=st.sampled_from([0.0, 4.0]),
)


class TestExact:
    @pytest.mark.study
    @settings(max_examples=120)
    @given(st.floats(30, 2500).map(lambda w: round(w, 1)), inventories(), limit_sets)
    def test_equals_brute_force_on_up_to_eight_loads(self, target_w, loads, limits):
        result = mix_loads(target_w, loads, limits, shown=1)
        assert result.optimal
        expected = brute_force(target_w, loads, limits)
        assert (key_of(result.best[0], loads) if result.best else None) == expected

    def test_a_dialled_load_fills_the_rest(self):
        dial = LoadSpec(name="Dial", kind="electronic", count=2, range_w=(50, 150, 5))
        result = mix_loads(692, [HEATER, dial], MixLimits())
        best = result.best[0]
        assert best.total_w == pytest.approx(692) and result.optimal
        assert [(p.name, p.watts) for p in best.parts] == [("Heater", 412), ("Dial", 140)]
        assert best.parts[1].count == 2

    def test_equals_come_with_fewer_devices_then_fewer_motors(self):
        loads = [load("Four", 400), load("Two", 200, count=2), load("Motor", 400, kind="inductive")]
        best = mix_loads(400, loads).best[0]
        assert [p.name for p in best.parts] == ["Four"]
        restless = mix_loads(400, loads[2:], MixLimits(steady=False)).best[0]
        assert restless.devices == 1

    def test_best_first_all_different(self):
        found = mix_loads(410, [HEATER, LAMP, PUMP]).best
        assert [round(m.off_w, 1) for m in found] == sorted(
            (round(m.off_w, 1) for m in found), key=abs
        )
        assert len({m.words for m in found}) == len(found) == 5
        assert found[0].words == "Heater, s0" and found[0].off_w == pytest.approx(2)

    def test_sixty_loads_of_five_settings_are_settled(self):
        many = [
            load(f"L{i}", *(37 + 13.3 * i + 171.7 * j for j in range(5)), count=1 + i % 3)
            for i in range(60)
        ]
        result = mix_loads(3333.3, many, MixLimits(inverter_w=3600))
        assert result.optimal and abs(result.best[0].off_w) < 0.5


class TestLimits:
    def test_what_each_limit_rules_out(self):
        limits = MixLimits(
            inverter_w=1000, circuit=Circuit(breaker_a=10, volts=120), meter_a=9, hours=4,
            cord=cord(5, "18 AWG"), volts=120,
        )  # fmt: skip
        result = mix_loads(1210, [HEATER], limits)
        assert result.best[0].total_w == 805
        assert [out.limit for out in result.ruled_out] == [
            "inverter: 1000 W",
            "circuit 10 A 120 V, 80 % for 3 h or more: 960 W",
            "meter: 9 A at 120 V, 1080 VA",
            "cord: 10 A at 120 V, 1200 VA",
        ]
        assert result.ruled_out[0].reason == "Heater, s2 would be nearer, but draws 1210 W"

    def test_volt_amps_count_against_wires(self):
        limits = MixLimits(circuit=Circuit(breaker_a=10, volts=20))
        result = mix_loads(180, [PUMP], limits)  # 180 W at 0.8 are 225 VA
        assert result.best == () and "draws 225 VA" in result.ruled_out[0].reason
        assert result.out_of_reach == "no load fits the limits for 180 W"

    def test_inrush_and_outlets(self):
        assert (
            mix_loads(180, [PUMP], MixLimits(surge_w=700))
            .ruled_out[0]
            .reason.endswith("draws 720 W at switching on")
        )
        few = mix_loads(240, [LAMP], MixLimits(outlets=2))
        assert few.best[0].total_w == 120 and few.ruled_out[0].limit == "outlets: 2"

    def test_out_of_reach_says_what_is_missing(self):
        assert mix_loads(2000, [HEATER]).out_of_reach == (
            "the nearest to 2000 W is 1210 W: 790 W are missing"
        )
        assert "a smaller load is missing" in mix_loads(100, [HEATER]).out_of_reach
        assert mix_loads(410, [HEATER]).out_of_reach == ""


class TestBadInput:
    @pytest.mark.parametrize("target", [0, -5, float("nan"), float("inf")])
    def test_targets(self, target):
        with pytest.raises(ValueOutOfRangeError, match="the target power"):
            mix_loads(target, [HEATER])

    def test_no_loads(self):
        with pytest.raises(UnusableDataError, match="no load to choose from"):
            mix_loads(100, [])
        with pytest.raises(UnusableDataError, match="no load to choose from"):
            mix_loads(100, [load("x", 5, count=0)])

    @pytest.mark.parametrize(
        "facts",
        [
            {"kind": "magic"}, {"count": -1}, {"inrush": 0.5}, {"power_factor": 0},
            {"range_w": (100, 50, 5)}, {"settings": (LoadSetting(name="x", watts=0),)},
            {"settings": ()},
        ],
    )  # fmt: skip
    def test_loads_that_cannot_be_meant(self, facts):
        with pytest.raises(UnusableDataError):
            LoadSpec(**{"name": "x", "settings": (LoadSetting(name="a", watts=5),), **facts})

    def test_limits_that_cannot_be_meant(self):
        for facts in ({"inverter_w": 0}, {"hours": -1}, {"volts": float("nan")}):
            with pytest.raises(ValueOutOfRangeError):
                MixLimits(**facts)
