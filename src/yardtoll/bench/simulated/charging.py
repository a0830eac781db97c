"""The simulated station while it is charged: ramp-in, full power, taper, pauses for heat."""

from dataclasses import dataclass

import numpy as np

from yardtoll.core.electrical.energy import SECONDS_PER_HOUR
from yardtoll.core.electrical.trace import FloatArray


@dataclass(frozen=True, kw_only=True)
class ChargerModel:
    """A charger's truth.

    Attributes:
        full_w: drawn at the wall at full power.
        efficiency: stored ÷ drawn.
        ramp_s: from first draw to full power; 0 for none.
        taper_from: share of the store from which the power falls in a straight line …
        top_off_w: … to this, drawn until full; then ``standby_w``.
        hot_at: share of the store at which it pauses for heat, 0 for never; ``hot_s`` long.
        on_s: bench time at which it is plugged in.
    """

    full_w: float
    efficiency: float = 0.9
    ramp_s: float = 120.0
    taper_from: float = 0.82
    top_off_w: float = 40.0
    standby_w: float = 1.2
    hot_at: float = 0.0
    hot_s: float = 0.0
    on_s: float = 8.0

    def power_w(self, share: float, since_on_s: float) -> float:
        """W at the wall at a share of the store, so long after plugging in."""
        if share >= 1.0:
            return self.standby_w
        ramping = self.ramp_s and since_on_s < self.ramp_s
        if not ramping and share <= self.taper_from:
            return max(self.full_w, self.top_off_w)
        ramped = since_on_s / self.ramp_s if ramping else 1.0
        fallen = max(share - self.taper_from, 0.0) / (1 - self.taper_from)
        return max(self.full_w * ramped * (1 - fallen), self.top_off_w * max(ramped, 0.2))


@dataclass(frozen=True, kw_only=True)
class InputTable:
    """What flows in by a table, such as a simulated day of sun.

    Attributes:
        time_s, watts: rising bench times and W, straight between; nothing outside.
        efficiency: stored ÷ drawn.
    """

    time_s: tuple[float, ...]
    watts: tuple[float, ...]
    efficiency: float = 0.9


@dataclass
class TableCharging:
    """The state of a charge whose watts come from a table."""

    model: InputTable
    store_wh: float
    stored_wh: float

    def advance(self, time_s: FloatArray, step_s: float) -> FloatArray:
        """(n,) W flowing in for (n,) s of bench time; what is stored grows with it."""
        found = np.interp(time_s, self.model.time_s, self.model.watts, left=0.0, right=0.0)
        gained = float(found.sum()) * self.model.efficiency * step_s / SECONDS_PER_HOUR
        self.stored_wh = min(self.stored_wh + gained, self.store_wh)
        return np.asarray(found)


@dataclass
class Charging:
    """The state of a charge in progress."""

    model: ChargerModel
    store_wh: float
    stored_wh: float
    paused_until_s: float = 0.0
    has_paused: bool = False

    def advance(self, time_s: FloatArray, step_s: float) -> FloatArray:
        """(n,) W at the wall for (n,) s of bench time; what is stored grows with it."""
        found = np.zeros(time_s.size)
        model, store_wh = self.model, self.store_wh
        per_w = step_s / SECONDS_PER_HOUR
        standby_w, efficiency, power_w = model.standby_w, model.efficiency, model.power_w
        for i, now_s in enumerate(time_s.tolist()):
            if now_s < model.on_s:
                continue
            share = self.stored_wh / store_wh
            if model.hot_s and not self.has_paused and share >= model.hot_at:
                self.has_paused, self.paused_until_s = True, now_s + model.hot_s
            if now_s < self.paused_until_s:
                drawn_w = standby_w + 3.0
            elif share >= 1.0:
                # Full for good: nothing of what follows depends on the store any more.
                found[i:] = standby_w
                break
            else:
                drawn_w = power_w(share, now_s - model.on_s)
            found[i] = drawn_w
            if drawn_w > standby_w:
                gained_wh = drawn_w * efficiency * per_w
                self.stored_wh = min(self.stored_wh + gained_wh, store_wh)
        return found
