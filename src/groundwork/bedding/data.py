"""The bed as JSON values."""

from typing import Any

from groundwork.bedding.beds import Bedding
from groundwork.levels import Reference
from groundwork.measures import Unit, finding_data, format_reading


def bed_data(bed: Bedding, reference: Reference | None, unit: Unit) -> dict[str, Any] | None:
    """The bed: every end of a rail with what should be read there, packings, thickness; None where there is none."""
    if not bed.is_there:
        return None
    rails = []
    for (rail, end), each in bed.ends.items():
        target = bed.target(rail, end, reference)
        rails.append({
            "rail": rail, "end": end, "at_m": [round(x, 3) for x in each.place], "level_m": round(each.level, 4),
            "target_reading": None if target is None else format_reading(target, unit),
            "action": each.action.text(unit),
        })  # fmt: skip
    packings = {
        rail: [{"at_m": round(at, 3), "thick_mm": round(thick * 1000, 1), "base_shot": shot} for at, thick, shot in
               bed.packs(rail)]
        for rail in (bed.plan.rails if bed.plan else ())
    }  # fmt: skip
    thick = bed.bed.at_stations() if bed.bed else {}
    return {
        **bed.evidence(),
        "rails": rails,
        "packings": packings,
        "at_stations_mm": {name: round(metres * 1000, 1) for name, metres in thick.items()},
        "findings": [finding_data(finding, unit) for finding in bed.findings],
    }
