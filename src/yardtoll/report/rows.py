"""Small pieces that all tables and JSON of results share."""

from collections.abc import Sequence
from typing import Any

from yardtoll.core.energy import Gap
from yardtoll.core.trace import Notice


def warnings_json(notices: Sequence[Notice]) -> list[dict[str, str]]:
    """Notices as code and message."""
    return [{"code": notice.code.value, "message": notice.message} for notice in notices]


def gaps_json(gaps: Sequence[Gap]) -> list[dict[str, Any]]:
    """Gaps with what bridged them."""
    return [
        {
            "start_s": gap.start_s,
            "end_s": gap.end_s,
            "bridged_by": gap.bridged_by,
            "energy_wh": gap.energy_wh,
            "could_hide_wh": gap.could_hide_wh,
        }
        for gap in gaps
    ]


def table(rows: Sequence[tuple[str, str]], notices: Sequence[Notice]) -> str:
    """Names and values in two columns, warnings below."""
    width = max((len(name) for name, _ in rows), default=0)
    lines = [f"{name:<{width}}  {value}" for name, value in rows]
    lines += [f"! {notice.message} [{notice.code}]" for notice in notices]
    return "\n".join(lines)
