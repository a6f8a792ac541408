"""Layouts of a job as JSON values: the best of a pattern, and the one that was chosen."""

import math
from typing import Any

from groundwork.job import Job
from groundwork.laying.cuts import cut_list
from groundwork.laying.laying import Laying
from groundwork.layouts import searched, side_line, start_side
from groundwork.measures import Unit, finding_data
from groundwork.pattern import Border, Paving, PavingDesign, PavingUnit, pattern

PLAIN = Border()
FOR_WHEELS = "wheels turn units that do not lock both ways: herringbone, or courses across the way"
"""Common practice, quoted from memory of interlocking-paving guidance."""


def laid_data(
    job: Job, key: str, unit: PavingUnit, *, pieces: bool, border: Border = PLAIN, turned: int = 0, seed: int = 1
) -> dict[str, Any]:  # fmt: skip
    """The best layouts of a pattern along the longest straight side as JSON values; every cut piece where they are
    asked for. Raises `ValueError` for a unit that cannot be laid so."""
    side = start_side(job)
    at, along = side_line(job, side)
    laid = pattern(key, seed)
    design = PavingDesign(laid, unit, border, at, along, math.radians(turned))
    found = searched(job.area, design)
    return {
        "pattern": key, "unit_mm": [round(unit.length * 1000, 1), round(unit.width * 1000, 1)],
        "joint_mm": round(unit.joint * 1000, 1), "end_joint_mm": round(laid.end_joint(unit) * 1000, 1),
        "along_side": side, "mind": [FOR_WHEELS] if job.brief.traffic.wheels and not laid.wheels else [],
        "best": [
            _layout_data(Paving(job.area, PavingDesign(
                laid, unit, border, at, along, math.radians(each.turned), each.over, each.ahead)), each.hours, pieces)
            for each in found
        ],
    }  # fmt: skip


def _layout_data(paving: Paving, hours: float, pieces: bool) -> dict[str, Any]:
    """Counts, what it takes, and every cut piece where they are asked for, in walking order."""
    design = paving.design
    data: dict[str, Any] = {
        "turned_deg": round(math.degrees(design.turned)), "over_mm": round(design.over * 1000, 1),
        "ahead_mm": round(design.ahead * 1000, 1), "string_mm": round(design.string * 1000, 1),
        "whole": paving.whole, "cut": len(paving.cut), "slivers": len(paving.slivers),
        "units": sum(paving.units.values()), "waste": round(paving.waste, 4), "person_hours": round(hours, 1),
        "rows": len(paving.rows), "paved_m2": round(paving.covered, 4), "area_m2": round(float(paving.area.area), 4),
    }  # fmt: skip
    if pieces:
        cuts = cut_list(paving)
        rings = paving.rings_on_site([cut.piece.shape for cut in cuts])
        data["pieces"] = [
            {"number": cut.number, "piece": cut.piece.name, "row": cut.piece.row, "how": cut.how,
             "sizes_mm": [round(size * 1000, 1) for size in cut.sizes], "share": round(cut.piece.laid.share, 4),
             "sliver": cut.piece.is_small,
             "outline_m": [[round(x, 4), round(y, 4)] for x, y in ring.tolist()]}
            for cut, ring in zip(cuts, rings, strict=True)
        ]  # fmt: skip
    return data


def paving_evidence(there: Laying) -> dict[str, Any]:
    """How the paving stands, as JSON values."""
    paving, chosen = there.paving, there.chosen
    if paving is None or chosen is None:
        return {"packs": there.packs.codes} if there.packs.opened else {}
    return {
        "layout": {
            "pattern": chosen.pattern, "unit_mm": [_mm(chosen.length.metres), _mm(chosen.width.metres)],
            "joint_mm": _mm(chosen.joint.metres), "along_side": chosen.side, "turned_deg": chosen.turned,
            "over_mm": _mm(chosen.over), "ahead_mm": _mm(chosen.ahead), "border": chosen.border,
            "corner": chosen.corner, "seed": chosen.seed,
            "whole": paving.whole, "cut": len(paving.cut), "slivers": len(paving.slivers),
            "shared": len(there.shared), "rows": len(paving.rows), "string_mm": _mm(paving.design.string),
        },
        "module_mm": round(there.module * 1000, 2),
        "rows": [
            {"row": row, "should_mm": _mm(each.target), "off_mm": {w: _mm(off) for w, off in each.off.items()},
             "in_line": each.is_in_line}
            for row, each in there.taped.items()
        ],
        "laid_rows": there.laid_rows, "laid_m2": round(there.laid_area, 2),
        "cut": len([cut for cut in there.cuts if cut.piece.name in there.done]),
        "out_of_square_mm": _mm(there.squared[1]) if there.squared else None,
        "packs": there.packs.codes,
    }  # fmt: skip


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)


def laying_data(there: Laying, unit: Unit) -> dict[str, Any] | None:
    """The paving as it stands; None where no layout was chosen."""
    paving = there.paving
    if paving is None:
        return None
    return {
        **paving_evidence(there),
        "targets_mm": {row: round(target * 1000, 1) for row, target in there.targets.items()},
        "actions": {row: [words.text(unit) for words in there.action(row)] for row in there.taped},
        "closes": {
            where: {"rows": each.rows, "piece_mm": round(each.piece * 1000, 1)}
            for where, each in there.closings.items()
        },
        "units": [
            {"size_mm": [round(side * 1000, 1) for side in each.size], "laid": each.laid, "ordered": each.ordered,
             "mass_kg": round(each.mass)}
            for each in there.taken_off
        ],
        "findings": [finding_data(finding, unit) for finding in there.findings],
    }  # fmt: skip
