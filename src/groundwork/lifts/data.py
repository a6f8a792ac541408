"""What was made between the dig and the bedding, as JSON values: densities in kg/m³, lengths in millimetres."""

from typing import Any

from groundwork.lifts.lift import Lift
from groundwork.lifts.works import Works
from groundwork.measures import Unit, finding_data


def works_data(works: Works, unit: Unit) -> dict[str, Any]:
    """Lifts, ground, pour and deliveries."""
    return {
        "lifts": [lift_data(lift, unit) for lift in works.lifts.values()],
        "ground": ground_data(works, unit),
        "pour": pour_data(works, unit),
        "deliveries": {
            "materials": [
                {
                    "material": tally.material,
                    "tickets": len(tally.tickets),
                    "delivered_kg": round(tally.delivered, 1),
                    "planned_kg": round(tally.planned, 1),
                    "implied_mm": _mm(tally.implied),
                    "measured_mm": _mm(tally.mean),
                }
                for tally in works.tallies
            ],
            "findings": [finding_data(f, unit) for f in works.delivery_findings],
        },
        "deepest_mm": _mm(works.deepest),
        "daily_vibration_m_s2": round(works.vibration, 2),
    }


def lift_data(lift: Lift, unit: Unit) -> dict[str, Any]:
    """One lift, its plan, tests and findings; a key ends in its unit."""
    data: dict[str, Any] = {"lift": lift.key, "begun": lift.is_begun, "tight": lift.is_tight}
    if plan := lift.plan:
        data["plan"] = {
            "material": plan.material.key,
            "compacted_mm": _mm(plan.compacted),
            "loose_mm": _mm(plan.loose),
            "bulking": round(plan.bulking.mean, 3),
            "machine": plan.machine and plan.machine.name,
            "passes": plan.passes,
            "too_light": plan.too_light,
            "mass_kg": round(plan.mass, 1),
            "loads": plan.loads,
            "minutes": None if plan.seconds is None else round(plan.seconds / 60, 1),
        }
    return data | {
        "patches": [{"patch": c.patch.name, "along": c.along, "across": c.across, "done": c.is_done}
                    for c in lift.coverage] if lift.is_begun else [],
        "test_places": [{"place": name, "at_m": list(at)} for name, at in lift.places],
        "densities": [{"place": d.test.place, "dry_kg_m3": d.dry and round(d.dry, 1),
                       "relative_compaction": d.ratio and round(d.ratio, 4)} for d in lift.densities],
        "stiffness": [{"place": s.test.place, "evd_mpa": round(s.modulus, 1), "holds": s.holds}
                      for s in lift.stiffnesses],
        "findings": [finding_data(f, unit) for f in lift.findings],
        "next": lift.next_step.words.text(unit),
    }  # fmt: skip


def ground_data(works: Works, unit: Unit) -> dict[str, Any]:
    """The ground under the lifts: what it was tested by, soft spots and their cure."""
    ground = works.subgrade
    return {
        "tests": [{"place": s.test.place, "found": s.result.text(unit), "asked": s.asked.text(unit), "holds": s.holds}
                  for s in ground.shown],
        "soft_spots": [
            {"name": s.spot.name, "volume_m3": round(s.volume, 3), "stone_kg": round(s.stone, 1), "sound": s.is_sound}
            for s in ground.spots
        ],
        "fabric": ground.fabric and {"strips": ground.fabric.strips, "metres_m": round(ground.fabric.metres, 1),
                                     "rolls": ground.fabric.rolls},
        "findings": [finding_data(f, unit) for f in ground.findings],
    }  # fmt: skip


def pour_data(works: Works, unit: Unit) -> dict[str, Any] | None:
    """The bound base as planned and poured; None where there is none."""
    if works.pour is None:
        return None
    return {
        "order_m3": round(works.pour.volume, 2),
        "loads": works.pour.loads,
        "panels": [works.pour.columns, works.pour.rows],
        "may": {may.what: may.day and may.day.isoformat() for may in works.curing.may} if works.curing else {},
        "findings": [finding_data(f, unit) for f in works.pour_findings],
    }


def _mm(metres: float | None) -> float | None:
    return None if metres is None else round(metres * 1000, 1)
