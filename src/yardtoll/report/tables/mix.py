"""A load mix as JSON with unit-bearing keys, and as a short table for a shell."""

from typing import Any

from yardtoll.core.planning.loads import MixResult


def mix_json(result: MixResult) -> dict[str, Any]:
    """The keys of `yardtoll compute mix --json`; ``off_w`` is the total less the target."""
    return {
        "best": [
            {
                "loads": [
                    {
                        "name": part.name,
                        "setting": part.setting,
                        "count": part.count,
                        "watts": part.watts,
                    }
                    for part in mix.parts
                ],
                "total_w": mix.total_w,
                "off_w": mix.off_w,
            }
            for mix in result.best
        ],
        "optimal": result.optimal,
        "ruled_out": [{"reason": out.reason, "limit": out.limit} for out in result.ruled_out],
        "warnings": [{"code": "target_out_of_reach", "message": result.out_of_reach}]
        if result.out_of_reach
        else [],
    }


def mix_table(result: MixResult) -> str:
    """The mixes, best first, and what a limit forbids."""
    lines = [f"{mix.total_w:8.1f} W  {mix.off_w:+7.1f} W  {mix.words}" for mix in result.best]
    if result.out_of_reach:
        lines.append(f"! {result.out_of_reach} [target_out_of_reach]")
    if result.best and not result.optimal:
        lines.append("! the search was cut short: a nearer mix may exist")
    lines += [f"! {out.reason} [{out.limit}]" for out in result.ruled_out]
    return "\n".join(lines)
