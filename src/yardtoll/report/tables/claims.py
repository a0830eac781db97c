"""Claims read from a text, as JSON and as a short table for a shell."""

from typing import Any

from yardtoll.core.claims.kinds import CLAIM_KINDS, GoodSide
from yardtoll.core.claims.reading.read import LIKELY, ReadClaim, ReadText


def claims_json(read: ReadText) -> dict[str, Any]:
    """The keys of `yardtoll compute claims --json`.

    ``value`` is a number, true or false, or words; ``confidence`` 0–1.
    """
    return {
        "claims": [
            {
                "quantity": claim.quantity,
                "value": _value(claim),
                "unit": claim.unit,
                "condition": claim.condition,
                "wording": claim.wording,
                "text": claim.text,
                "confidence": claim.confidence,
            }
            for claim in read.claims
        ],
        "unread": list(read.unread),
        "warnings": [{"code": "cannot_be_meant", "message": warning} for warning in read.warnings],
    }


def claims_table(read: ReadText) -> str:
    """A line a claim; doubtful ones marked."""
    rows = [
        (
            "?" if claim.confidence < LIKELY else " ",
            CLAIM_KINDS[claim.quantity].title,
            _shown(claim),
            claim.condition,
        )
        for claim in read.claims
    ]
    title = max((len(row[1]) for row in rows), default=0)
    shown = max((len(row[2]) for row in rows), default=0)
    lines = [
        f"{mark} {name:<{title}}  {value:<{shown}}  {condition}".rstrip()
        for mark, name, value, condition in rows
    ] or ["no claim was found"]
    lines += [f"! not understood: {line}" for line in read.unread]
    lines += [f"! {warning}" for warning in read.warnings]
    return "\n".join(lines)


def _value(claim: ReadClaim) -> float | bool | str | None:
    if claim.words:
        return claim.words
    if CLAIM_KINDS[claim.quantity].good_side is GoodSide.YES_NO:
        return bool(claim.value)
    return claim.value


def _shown(claim: ReadClaim) -> str:
    value = _value(claim)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value
    return f"{value:g} {claim.unit}".strip()
