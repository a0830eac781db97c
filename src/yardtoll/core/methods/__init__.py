"""Kinds of tests as data: one file each, found by being here."""

import importlib
import pkgutil

from yardtoll.core.methods.method import Ending, Flow, Method, Size

__all__ = ["METHODS", "Ending", "Flow", "Method", "Size"]


def _found() -> dict[str, Method]:
    """Every module of this folder that defines METHOD, in the order they state."""
    modules = (
        importlib.import_module(f"{__name__}.{entry.name}")
        for entry in pkgutil.iter_modules(__path__)
    )
    methods = [module.METHOD for module in modules if hasattr(module, "METHOD")]
    return {method.key: method for method in sorted(methods, key=lambda m: (m.order, m.key))}


METHODS: dict[str, Method] = _found()

CAPACITY_AC = METHODS["capacity_ac"]
"""What an imported discharge log is taken for."""
