"""What people and makers called the things of a yard."""

from typing import Any

from yardtoll.store.yard_file import YardFile


def names_in(yard: YardFile) -> tuple[str, ...]:
    """Names that are shown as they were written, whatever figures are in them."""
    named: tuple[Any, ...] = (
        *yard.stations(),
        *yard.meters(),
        *yard.loads(),
        *yard.circuits(),
        *yard.cords(),
        *yard.arrays(),
        *yard.yardsticks(),
    )
    return (yard.path.name, yard.info().name, *(record.name for record in named))
