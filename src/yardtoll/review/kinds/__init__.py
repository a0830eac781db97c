"""Kinds of run, one module or folder each, found by being here: every one that defines KIND."""

from yardtoll.core.discovery import found_in
from yardtoll.core.methods import METHODS
from yardtoll.review.kinds.kind import RunKind

KINDS: tuple[RunKind, ...] = tuple(
    sorted(found_in(__name__, __path__, "KIND"), key=lambda kind: kind.order)
)
_BY_METHOD = {
    key: next(kind for kind in KINDS if kind.serves(method)) for key, method in METHODS.items()
}


def kind_of(method: str) -> RunKind:
    """The kind that serves a method."""
    return _BY_METHOD[method]
