"""Lifts drawn: the ladder of courses, the plan with what was gone over and tested, the compaction curve."""

from collections.abc import Callable

import numpy as np
import shapely
from django.utils.http import urlencode
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.laboratory import CompactionCurve, zero_air_voids
from groundwork.layerwork import DensityTest, SoftSpot
from groundwork.lifts import Lift, LiftState, PourPlan, Subgrade
from groundwork.measures import Unit, format_amount, format_density
from groundwork.surfaces import Point
from nivelum.drawing.kept import kept
from nivelum.drawing.patches import gone_patch, gone_patterns, middle_of
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.section import css_of
from nivelum.drawing.surroundings import Scale, fall, fitted, placed_on_the_ground, places_of, scale_bar, surroundings

LADDER_WIDTH, LADDER_HEIGHT, TOP, SOIL = 250.0, 440.0, 14.0, 46.0
BLOCK, GHOST = (50.0, 150.0), (158.0, 198.0)
STATE_CSS = {
    LiftState.NOT_BEGUN: "unshot",
    LiftState.IN_WORK: "close",
    LiftState.HELD: "dig",
    LiftState.TIGHT: "good",
}


@kept
def ladder(assessment: Assessment, chosen: str, unit: Unit) -> SafeString:
    """Every lift from the formation up, to scale: as compacted, and beside it as high as it is spread."""
    lifts = list(assessment.works.lifts.values())
    courses = [lift for lift in lifts if lift.plan]
    root = sheet(LADDER_WIDTH, LADDER_HEIGHT, _("Lifts, drawn to scale"), "ladder plan")
    total = sum(lift.plan.compacted for lift in courses if lift.plan)
    highest = 0.0
    under = 0.0
    for lift in courses:
        if lift.plan:
            highest = max(highest, under + lift.plan.loose)
            under += lift.plan.compacted
    per_metre = (LADDER_HEIGHT - TOP - SOIL) / max(highest, total, 0.05)
    foot = LADDER_HEIGHT - SOIL
    ground = _rung(root, lifts[0], chosen)
    add(ground, "rect", class_="ground", x=8, y=foot, width=LADDER_WIDTH - 16, height=SOIL)
    _named(ground, lifts[0], _("formation"), foot + SOIL / 2 + 5)
    below = 0.0
    for lift in courses:
        plan = lift.plan
        if plan is None:
            continue
        upper, lower = foot - (below + plan.compacted) * per_metre, foot - below * per_metre
        loose = lower - plan.loose * per_metre
        rung = _rung(root, lift, chosen)
        add(rung, "rect", class_="layer", x=BLOCK[0], y=upper, width=BLOCK[1] - BLOCK[0], height=lower - upper,
            fill=f"url(#{css_of(plan.course.layer)})")  # fmt: skip
        add(rung, "path", class_="loose", d=path([(GHOST[0], lower), (GHOST[0], loose), (GHOST[1], loose),
                                                  (GHOST[1], lower)]))  # fmt: skip
        number = plan.course.surface.lift
        name = _("lift {n}").format(n=number) if plan.course.surface.lifts > 1 else _(plan.course.layer.role)
        _named(rung, lift, name, (upper + lower) / 2)
        tight = format_amount(plan.compacted, unit)
        add(rung, "text", tight, x=sum(BLOCK) / 2, y=(upper + lower) / 2 + 24, class_="figure tight")
        add(
            rung,
            "text",
            format_amount(plan.loose, unit),
            x=GHOST[1] + 5,
            y=(loose + lower) / 2 + 5,
            class_="loose-of",
        )
        below += plan.compacted
    return finished(root)


def _rung(root: Element, lift: Lift, chosen: str) -> Element:
    link = add(root, "a", href="?" + urlencode({"lift": lift.key}), data_lift=lift.key)
    link.set("class", "rung chosen" if lift.key == chosen else "rung")
    return link


def _named(rung: Element, lift: Lift, name: str, y: float) -> None:
    add(rung, "text", name, x=sum(BLOCK) / 2, y=y, class_="lift-name")
    mark = add(rung, "g", class_=f"v-{STATE_CSS[lift.state]}", transform=f"translate(22 {y - 6:.1f})")
    _press_mark(add(mark, "g", class_="glyph"), lift.state)


def _press_mark(mark: Element, state: LiftState) -> None:
    """Pressed from both sides once it is tight; open while it is not."""
    match state:
        case LiftState.TIGHT:
            add(mark, "path", class_="f", d="M-9 -11H9L0 -3ZM-9 11H9L0 3Z")
            add(mark, "path", class_="s", d="M-11 0H11")
        case LiftState.HELD:
            add(mark, "path", class_="s", d="M-11 0H-5M5 0H11M-4 -4L4 4M4 -4L-4 4")
            add(mark, "path", class_="f", d="M-9 -13H9L0 -7Z")
        case LiftState.IN_WORK:
            add(mark, "path", class_="s", d="M-11 0H11M-8 -11H8L0 -4Z")
        case _:
            add(mark, "path", class_="s", d="M-5 0H5M0 -5V5")


def lift_plan(assessment: Assessment, lift: Lift, unit: Unit, patch: str) -> SafeString:
    """The area in patches with how often each was gone over, the places to test, soft spots. Each patch links to
    itself."""
    return _lift_plan(assessment, lift.key, unit, patch)


@kept
def _lift_plan(assessment: Assessment, key: str, unit: Unit, patch: str) -> SafeString:
    job, lift = assessment.site, assessment.works.lifts[key]
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Passes done, patch by patch"), "plan lift-plan")
    placed_on_the_ground(root, scale)
    gone_patterns(root)
    taken = tuple(scale.to_sheet(middle_of(each.patch.outline)) for each in lift.coverage)
    surroundings(root, job, scale, taken)
    machine = lift.machine_now()
    for each in lift.coverage:
        needed = None if machine is None else lift.passes_left(each, machine)
        gone_patch(root, each, needed, scale, patch, {"lift": lift.key})
    for facet in job.facets:
        fall(root, facet, job, scale, taken)
    if lift.course is None:
        _fabric(root, assessment, scale)
    _spots(root, assessment, scale)
    _tests(root, lift, assessment.works.subgrade, scale)
    scale_bar(root, scale, height, unit)
    return finished(root)


def _tests(root: Element, lift: Lift, ground: Subgrade, scale: Scale) -> None:
    done = {test.place: test for test in lift.tests}
    failed = {*lift.failed, *(s.test.place for s in ground.shown if not s.holds and lift.course is None)}
    spots: dict[str, Point] = dict(lift.places) | {name: t.at for name, t in done.items()}
    for name, at in spots.items():
        x, y = scale.to_sheet(at)
        state = "dig" if name in failed else "good" if name in done else "close"
        group = add(root, "g", class_=f"test-place v-{state}", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", class_="s", d="M0 -12V12M-12 0H12M-7 0A7 7 0 1 1 7 0A7 7 0 1 1 -7 0")
        add(group, "text", name, x=14, y=-6)


def _fabric(root: Element, assessment: Assessment, scale: Scale) -> None:
    """Where each length of fabric ends uphill, over the one below it."""
    fabric = assessment.works.subgrade.fabric
    for start, end in fabric.lines if fabric else ():
        add(root, "path", class_="fabric-lap", d=path([scale.to_sheet(start), scale.to_sheet(end)]))


def _spots(root: Element, assessment: Assessment, scale: Scale) -> None:
    for each in assessment.works.subgrade.spots:
        _spot(root, each.spot, each.is_sound, scale)


def _spot(root: Element, spot: SoftSpot, sound: bool, scale: Scale) -> None:
    group = add(root, "g", class_="soft-spot sound" if sound else "soft-spot")
    add(group, "path", d=path([scale.to_sheet(p) for p in spot.corners], closed=True))
    x, y = scale.to_sheet(middle_of(shapely.Polygon(spot.corners)))
    add(group, "text", spot.name, x=x, y=y + 5)


def pour_drawing(assessment: Assessment, pour: PourPlan, unit: Unit) -> SafeString:
    """The bound base on the plan with its joints."""
    job = assessment.job
    scale, width, height = fitted([*places_of(job), *(end for joint in pour.joints for end in joint)])
    root = sheet(width, height, _("Joints of the bound base"), "plan pour-plan")
    surroundings(root, job, scale, (scale.to_sheet(middle_of(job.area)),))
    for start, end in pour.joints:
        add(root, "path", class_="joint", d=path([scale.to_sheet(start), scale.to_sheet(end)]))
    scale_bar(root, scale, height, unit)
    return finished(root)


CURVE = (620.0, 380.0)
LEFT, BOTTOM, INSET = 64.0, 46.0, 30.0


def compaction_curve(curve: CompactionCurve, unit: Unit, tests: list[tuple[DensityTest, float]]) -> SafeString:
    """Dry density against moisture: the laboratory's points and line, its peak, zero air voids, and the field's own
    tests, each (test, dry density)."""
    width, height = CURVE
    root = sheet(width, height, _("Compaction curve"), "curve plan")
    wet = [*curve.moistures, *(test.moisture for test, _dry in tests)]
    low, high = min(wet) - 0.01, max(wet) + 0.01
    dense = [*curve.densities, curve.maximum, *(dry for _test, dry in tests)]
    least, most = min(dense) - 40, max(dense) + 60

    def at(moisture: float, density: float) -> Point:
        return (
            LEFT + (moisture - low) / (high - low) * (width - LEFT - INSET),
            height - BOTTOM - (density - least) / (most - least) * (height - BOTTOM - INSET),
        )

    _axes(root, at, (low, high), (least, most), unit)
    fine = np.linspace(low, high, 120)
    voids = [(float(w), float(zero_air_voids(w, curve.gravity))) for w in fine]
    inside = [point for point in voids if least <= point[1] <= most]
    if len(inside) > 1:
        add(root, "path", class_="voids", d=path([at(*point) for point in inside]))
        x, y = at(*inside[0])
        add(root, "text", _("no air left"), x=x + 8, y=max(y + 14, 20), class_="voids-name")
    fitted_to = np.linspace(curve.moistures[0], curve.moistures[-1], 80)
    add(
        root,
        "path",
        class_="fitted",
        d=path([at(float(w), float(curve.density_at(np.array([w]))[0])) for w in fitted_to]),
    )
    for moisture, density in zip(curve.moistures, curve.densities, strict=True):
        x, y = at(moisture, density)
        add(root, "circle", class_="point", cx=x, cy=y, r=5)
    x, y = at(curve.optimum, curve.maximum)
    add(root, "path", class_="peak", d=f"M{x:.1f} {height - BOTTOM:.1f}V{y:.1f}H{LEFT:.1f}")
    peak = f"{format_density(curve.maximum, unit)} · {curve.optimum:.1%}"
    add(root, "text", peak, x=x + 8, y=y - 10, class_="figure")
    for test, dry in tests:
        x, y = at(test.moisture, dry)
        group = add(root, "g", class_="field-test", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d="M-7 -7L7 7M7 -7L-7 7")
        add(group, "text", test.place, x=10, y=5)
    return finished(root)


def _axes(root: Element, at: Callable[[float, float], Point], wet: Point, dense: Point, unit: Unit) -> None:
    width, height = CURVE
    add(root, "path", class_="axis", d=f"M{LEFT} {INSET}V{height - BOTTOM}H{width - INSET}")
    for percent in range(int(np.ceil(wet[0] * 100)), int(wet[1] * 100) + 1):
        x, _y = at(percent / 100, dense[0])
        add(root, "text", f"{percent} %", x=x, y=height - BOTTOM + 20, class_="axis-tick", text_anchor="middle")
    for density in range(int(np.ceil(dense[0] / 50)) * 50, int(dense[1]) + 1, 50):
        _x, y = at(wet[0], density)
        add(root, "path", class_="tick-line", d=f"M{LEFT - 5} {y:.1f}H{width - INSET}")
        add(
            root,
            "text",
            format_density(density, unit, named=False),
            x=LEFT - 9,
            y=y + 5,
            class_="axis-tick",
            text_anchor="end",
        )
    add(root, "text", _("moisture"), x=width - INSET, y=height - 8, class_="axis-tick", text_anchor="end")
    add(root, "text", format_density(0, unit).split()[1], x=6, y=16, class_="axis-tick")
