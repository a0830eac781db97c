"""Finding what a package holds by its modules being there."""

import importlib
import pkgutil
from collections.abc import Iterable
from typing import Any


def found_in(package: str, path: Iterable[str], attribute: str) -> list[Any]:
    """An attribute of every module of a package that defines it, in the order of their names."""
    modules = (
        importlib.import_module(f"{package}.{entry.name}") for entry in pkgutil.iter_modules(path)
    )
    return [getattr(module, attribute) for module in modules if hasattr(module, attribute)]
