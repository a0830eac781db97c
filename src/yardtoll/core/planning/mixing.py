"""Which of the loads at hand, at which settings, come nearest to a target W: found exactly.

The best mix is the nearest to the target; among equals the one with fewer devices, then the one
with fewer inductive ones where a steady load is wanted. CP-SAT proves that none is better; in it
watts are whole multiples of the largest step that all of them share, a milliwatt at the least.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from yardtoll.core.errors import UnusableDataError, ValueOutOfRangeError
from yardtoll.core.planning.loads import (
    LoadSpec,
    Mix,
    MixLimits,
    MixPart,
    MixResult,
    RuledOut,
)

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

MIXES_SHOWN = 5
MOST_LOADS = 500
_MILLI = 1000
_PROOF_EFFORT = 20.0
"""Longest search; what is best until then is given, not as proven."""
_MORE_EFFORT = 0.05
"""Longest search for each further mix after the best. Effort is counted by the solver, about a
second a unit, and so is the same on every machine.
"""
_MORE_DEVICES = 2


def mix_loads(
    target_w: float,
    loads: Sequence[LoadSpec],
    limits: MixLimits | None = None,
    *,
    shown: int = MIXES_SHOWN,
) -> MixResult:
    """The combinations nearest to a target.

    ``best`` is empty only where every single load is forbidden by a limit.

    Raises:
        ValueOutOfRangeError: the target is not above 0.
        UnusableDataError: there is no load to choose from.
    """
    if not (math.isfinite(target_w) and target_w > 0):
        raise ValueOutOfRangeError("target_w", target_w, "above 0 W")
    if not any(load.count for load in loads):
        raise UnusableDataError("there is no load to choose from")
    if len(loads) > MOST_LOADS:
        raise UnusableDataError(f"more than {MOST_LOADS} sorts of loads are not mixed")
    limits = limits or MixLimits()
    search = _Search(target_w, loads, limits)
    first, proven = search.nearest()
    best = [first] if first is not None else []
    if first is not None:
        best += _Search(target_w, loads, limits).further(search.counts, shown - 1)
    return MixResult(
        target_w=target_w,
        best=tuple(best),
        optimal=proven,
        ruled_out=tuple(_ruled_out(target_w, loads, limits, first)),
    )


def _ruled_out(
    target_w: float, loads: Sequence[LoadSpec], limits: MixLimits, best: Mix | None
) -> Iterator[RuledOut]:
    """For each limit: the nearer mix there would be without it."""
    free, _ = _Search(target_w, loads, MixLimits(steady=limits.steady)).nearest()
    if free is None or (best is not None and abs(best.off_w) <= abs(free.off_w) + 0.5 / _MILLI):
        return
    by_name = {load.name: load for load in loads}
    running = sum(part.count * part.watts for part in free.parts)
    volt_amps = sum(p.count * p.watts / by_name[p.name].power_factor for p in free.parts)
    at_start = sum(p.count * p.watts * by_name[p.name].inrush for p in free.parts)
    for limit in limits.bounds():
        drawn, unit = (volt_amps, "VA") if limit.of_va else (running, "W")
        if drawn > limit.most + 1e-9:
            yield RuledOut(
                reason=f"{free.words} would be nearer, but draws {drawn:.0f} {unit}",
                limit=limit.why,
            )
    if limits.surge_w is not None and at_start > limits.surge_w:
        yield RuledOut(
            reason=f"{free.words} would be nearer, but draws {at_start:.0f} W at switching on",
            limit=f"inverter surge: {limits.surge_w:g} W",
        )
    if limits.outlets is not None and free.devices > limits.outlets:
        yield RuledOut(
            reason=f"{free.words} would be nearer, but needs {free.devices} outlets",
            limit=f"outlets: {limits.outlets}",
        )


@dataclass
class _Choice:
    """One sort of load at one setting: how many are on, for dialled ones how far beyond the least.

    Sizes are in the search's steps.
    """

    load: LoadSpec
    setting: str
    size: int
    on: Any
    dialled: Any = None
    dial_size: int = 0


class _Search:
    """The CP-SAT model of one question; ``counts`` are those of the mix found last."""

    def __init__(self, target_w: float, loads: Sequence[LoadSpec], limits: MixLimits) -> None:
        # Slow to import, and needed only here.
        from ortools.sat.python import cp_model

        self._cp = cp_model
        self._step_mw = _common_step_mw(target_w, loads)
        self._target = self._steps(target_w)
        self._model = cp_model.CpModel()
        self._choices = [c for load in loads if load.count for c in self._choices_of(load)]
        self._keep_to(limits)
        self._define_goals(limits.steady)
        self.counts: list[int] = []

    def _steps(self, watts: float) -> int:
        return round(watts * _MILLI) // self._step_mw

    def _choices_of(self, load: LoadSpec) -> list[_Choice]:
        model = self._model
        made = []
        for setting in load.settings:
            on = model.new_int_var(0, load.count, "")
            made.append(_Choice(load, setting.name, self._steps(setting.watts), on))
        if load.range_w is not None:
            low, high, step = load.range_w
            on = model.new_int_var(0, load.count, "")
            most = int((high - low) / step + 1e-9)
            steps = model.new_int_var(0, most * load.count, "")
            model.add(steps <= most * on)
            made.append(_Choice(load, "", self._steps(low), on, steps, self._steps(step)))
        model.add(sum(choice.on for choice in made) <= load.count)
        return made

    def _drawn(self, choice: _Choice) -> Any:
        """What a choice draws, in steps."""
        if choice.dialled is None:
            return choice.on * choice.size
        return choice.on * choice.size + choice.dialled * choice.dial_size

    def _keep_to(self, limits: MixLimits) -> None:
        model = self._model
        self._total = sum(self._drawn(c) for c in self._choices)
        self._devices = sum(c.on for c in self._choices)
        model.add(self._devices >= 1)
        bounds = limits.bounds()
        # W never exceed VA, so every bound holds for the total too.
        self._most = self._whole(min((b.most for b in bounds), default=math.inf))
        for limit in bounds:
            # Volt-amps are rounded up, so that no mix passes a limit by rounding.
            self._add_bound(
                limit.most,
                [(1 / c.load.power_factor if limit.of_va else 1.0) for c in self._choices],
            )
        if limits.surge_w is not None:
            self._add_bound(limits.surge_w, [c.load.inrush for c in self._choices])
        if limits.outlets is not None:
            model.add(self._devices <= limits.outlets)

    def _whole(self, watts: float) -> float:
        return watts if math.isinf(watts) else int(watts * _MILLI / self._step_mw + 1e-6)

    def _add_bound(self, most: float, weights: Sequence[float]) -> None:
        """Σ watts × weight ≤ most; in whole numbers as small as the weights allow."""
        whole = [math.ceil(_MILLI * weight - 1e-9) for weight in weights]
        shared = math.gcd(_MILLI, *whole)
        drawn = sum(w // shared * self._drawn(c) for w, c in zip(whole, self._choices, strict=True))
        self._model.add(drawn <= int(most * _MILLI / self._step_mw * (_MILLI // shared) + 1e-6))

    def _define_goals(self, steady: bool) -> None:
        model = self._model
        most = sum(c.load.count * c.size for c in self._choices)
        most += sum(
            c.load.count * self._steps(c.load.range_w[1])
            for c in self._choices
            if c.load.range_w is not None
        )
        self._off = model.new_int_var(0, most + self._target, "off")
        model.add(self._off >= self._total - self._target)
        model.add(self._off >= self._target - self._total)
        restless = [c.on for c in self._choices if c.load.kind == "inductive"]
        self._inductive = sum(restless) if steady and restless else None

    def nearest(self) -> tuple[Mix | None, bool]:
        """The best mix, and whether it is proven to be; a search serves for one question."""
        solver, status = self._solve(_PROOF_EFFORT, self._off)
        if status not in (self._cp.OPTIMAL, self._cp.FEASIBLE):
            return None, status == self._cp.INFEASIBLE
        proven = status == self._cp.OPTIMAL
        # The distance is settled; among equals fewer devices, then fewer inductive ones.
        off = int(solver.value(self._off))
        either = [t for t in {self._target - off, self._target + off} if t <= self._most]
        self._model.add_linear_expression_in_domain(
            self._total, self._cp.Domain.from_values(either)
        )
        mix = self._mix(solver)
        # Asking for one number after the other is far quicker to settle than for the least.
        for devices, inductive in self._counts_to_try(int(solver.value(self._devices))):
            narrowed = self._model.clone()
            narrowed.clear_objective()  # type: ignore[no-untyped-call]
            narrowed.add(self._devices == devices)
            if inductive is not None:
                narrowed.add(self._inductive == inductive)
            fewer, status = self._solve(_PROOF_EFFORT, None, narrowed)
            if status in (self._cp.OPTIMAL, self._cp.FEASIBLE):
                return self._mix(fewer), proven
            proven &= status == self._cp.INFEASIBLE
        return mix, proven

    def _counts_to_try(self, most: int) -> Iterator[tuple[int, int | None]]:
        """(devices, inductive ones among them), the most wanted first."""
        for devices in range(1, most + 1):
            if self._inductive is None:
                yield devices, None
            else:
                yield from ((devices, inductive) for inductive in range(devices + 1))

    def further(self, first_counts: Sequence[int], wanted: int) -> list[Mix]:
        """The next best ones, as far as a short search finds them."""
        found: list[Mix] = []
        self.counts = list(first_counts)
        # Mixes of many small loads are no help to a person with few outlets.
        self._model.add(self._devices <= sum(first_counts) + _MORE_DEVICES)
        while len(found) < wanted:
            self._exclude(self.counts)
            solver, status = self._solve(_MORE_EFFORT, self._off)
            if status not in (self._cp.OPTIMAL, self._cp.FEASIBLE):
                break
            found.append(self._mix(solver))
        return sorted(found, key=lambda mix: (abs(round(mix.off_w * _MILLI)), mix.devices))

    def _exclude(self, counts: Sequence[int]) -> None:
        """Demand that some count differs from those of a mix already found."""
        differs = []
        for choice, had in zip(self._choices, counts, strict=True):
            other = self._model.new_bool_var("")
            self._model.add(choice.on != had).only_enforce_if(other)
            differs.append(other)
        self._model.add_bool_or(differs)

    def _solve(
        self, effort: float, goal: Any, model: "cp_model.CpModel | None" = None
    ) -> "tuple[cp_model.CpSolver, Any]":
        model = model or self._model
        if goal is not None:
            model.minimize(goal)
        solver = self._cp.CpSolver()
        solver.parameters.max_deterministic_time = effort
        solver.parameters.random_seed = 1
        # Sums of few large numbers gain nothing from presolving, which takes seconds; one worker
        # gives the same answer every time.
        solver.parameters.cp_model_presolve = False
        solver.parameters.num_workers = 1
        return solver, solver.solve(model)

    def _mix(self, solver: "cp_model.CpSolver") -> Mix:
        self.counts = [int(solver.value(choice.on)) for choice in self._choices]
        parts = [part for c in self._choices for part in self._parts_of(c, solver)]
        total = int(solver.value(self._total))
        return Mix(
            parts=tuple(parts),
            total_w=self._watts(total),
            off_w=self._watts(total - self._target),
        )

    def _watts(self, steps: int) -> float:
        return steps * self._step_mw / _MILLI

    def _parts_of(self, choice: _Choice, solver: "cp_model.CpSolver") -> Iterator[MixPart]:
        """One sort at one setting; dialled ones share their steps as evenly as whole ones allow."""
        on = int(solver.value(choice.on))
        if on and choice.dialled is None:
            yield MixPart(
                name=choice.load.name,
                setting=choice.setting,
                count=on,
                watts=self._watts(choice.size),
            )
        elif on:
            each, left = divmod(int(solver.value(choice.dialled)), on)
            for count, mine in ((left, each + 1), (on - left, each)):
                if count:
                    watts = self._watts(choice.size + mine * choice.dial_size)
                    yield MixPart(
                        name=choice.load.name, setting=f"{watts:g} W", count=count, watts=watts
                    )


def _common_step_mw(target_w: float, loads: Sequence[LoadSpec]) -> int:
    """The largest number of mW that divides the target and all watts: small numbers are quick."""
    watts = [target_w]
    for load in loads:
        watts += [setting.watts for setting in load.settings]
        watts += load.range_w[::2] if load.range_w is not None else ()
    return math.gcd(*(round(w * _MILLI) for w in watts)) or 1
