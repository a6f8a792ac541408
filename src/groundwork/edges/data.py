"""Edges as JSON values."""

from typing import Any

from groundwork.edges.edges import Edges
from groundwork.levels import Reference
from groundwork.measures import Unit, finding_data, format_reading


def edges_data(there: Edges, reference: Reference | None, unit: Unit) -> list[dict[str, Any]]:
    """Every run in the order of its sides."""
    return [_edge_data(there, side, reference, unit) for side in there.runs]


def _edge_data(there: Edges, side: int, reference: Reference | None, unit: Unit) -> dict[str, Any]:
    """An edge: what it takes, every joint with what should be read there and what to do, what is found on it."""
    run, takes = there.runs[side], there.takes(side)
    joints = []
    for n, each in there.joints(side).items():
        target = there.target(side, n, reference)
        joints.append({
            "joint": n, "along_m": round(run.joints[n], 3), "level_m": round(run.level(n), 4),
            "target_reading": None if target is None else format_reading(target, unit),
            "action": each.action.text(unit),
        })  # fmt: skip
    return {
        "side": side, "what": str(run.plan.what), "long_m": round(run.long, 3),
        "pieces_m": [round(piece, 4) for piece in run.pieces], "joints": joints,
        "resets": [{"first": reset.first, "last": reset.last} for reset in there.resets(side)],
        "takes": {"concrete_m3": round(takes.concrete, 4), "spikes": takes.spikes, "strips": takes.strips,
                  "pickets": takes.pickets},
        "findings": [finding_data(f, unit) for f in there.findings_on(side)],
    }  # fmt: skip
