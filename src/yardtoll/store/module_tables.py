"""The labels of solar modules, from the CEC table that pvlib ships."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

from pvlib.pvsystem import retrieve_sam


@dataclass(frozen=True, kw_only=True)
class ModuleLabel:
    """One module at 1000 W/m² and 25 °C.

    Attributes:
        beta_voc, gamma: change of Voc, and of the power, with temperature, 1/K.
    """

    name: str
    power_w: float
    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    beta_voc: float
    gamma: float


@cache
def known_modules() -> tuple[ModuleLabel, ...]:
    """Every module of the CEC table with a usable label, by name; takes about half a second."""
    table = retrieve_sam("CECMod")
    columns = ("STC", "V_oc_ref", "V_mp_ref", "I_sc_ref", "I_mp_ref", "beta_oc", "gamma_r")
    figures = (table.loc[name].to_numpy(dtype=float).tolist() for name in columns)
    found = [
        ModuleLabel(
            name=str(name).replace("_", " "),
            power_w=watts,
            voc_v=voc,
            vmp_v=vmp,
            isc_a=isc,
            imp_a=imp,
            beta_voc=beta / voc if voc else 0.0,
            gamma=gamma / 100,
        )
        for name, watts, voc, vmp, isc, imp, beta, gamma in zip(
            table.columns, *figures, strict=True
        )
    ]
    return tuple(sorted(filter(_usable, found), key=lambda m: m.name.casefold()))


def search(modules: Sequence[ModuleLabel], words: str, most: int = 200) -> list[ModuleLabel]:
    """Those whose name has every word, or whose watts a word names like "200w"."""
    wanted = words.casefold().split()
    found = []
    for module in modules:
        name, watts = module.name.casefold(), f"{module.power_w:.0f}w"
        if all(word in name or word == watts for word in wanted):
            found.append(module)
            if len(found) == most:
                break
    return found


def _usable(module: ModuleLabel) -> bool:
    figures = (module.power_w, module.voc_v, module.vmp_v, module.isc_a, module.imp_a)
    return (
        all(math.isfinite(figure) and figure > 0 for figure in figures)
        and module.vmp_v < module.voc_v
        and -0.01 <= module.beta_voc < 0
        and -0.02 <= module.gamma <= 0
    )
