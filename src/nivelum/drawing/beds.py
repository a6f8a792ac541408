"""The bed on the plan: where rails lie and how they stand, and how thick it will be."""

import math
from itertools import pairwise

import shapely
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.bedding import Bay, Rail, RailEnd, covered
from groundwork.measures import Unit, format_amount, format_area
from groundwork.verdict import Call
from nivelum.drawing.kept import kept
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surfaces import Key, Scene, banded, banding_patterns, clipped_to_known
from nivelum.drawing.surroundings import Scale, fall, fitted, places_of, scale_bar, surroundings
from nivelum.drawing.water import not_known

CALL_CSS = {Call.GOOD: "right", Call.HIGH: "out", Call.LOW: "out", Call.TOO_CLOSE: "near", None: "open"}
Ends = tuple[str, str]


@kept
def rail_drawing(assessment: Assessment, unit: Unit, chosen: Ends | None) -> SafeString:
    """Every rail with its name, its packings as ticks, each end as it stands; the one in hand ringed."""
    job, bed = assessment.site, assessment.bedding
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Rails of {job}").format(job=job.name), "plan rails")
    rails = bed.plan.rails if bed.plan else {}
    spots = [rail.at(share) for rail in rails.values() for share in (0.0, 0.5, 1.0)]
    taken = tuple(scale.to_sheet(spot) for spot in (*job.outline, *spots))
    surroundings(root, job, scale, taken)
    for facet in job.facets:
        fall(root, facet, job, scale, taken)
    group = add(root, "g", class_="rail-lines")
    for rail in rails.values():
        _rail(group, rail, scale)
    for key, end in bed.ends.items():
        _end(group, end, scale, unit, key == chosen)
    scale_bar(root, scale, height, unit)
    return finished(root)


def _rail(group: Element, rail: Rail, scale: Scale) -> None:
    start, end = scale.to_sheet(rail.start), scale.to_sheet(rail.end)
    add(group, "path", class_="rail", d=path([start, end]))
    long = max(math.dist(start, end), 1e-9)
    aside = (start[1] - end[1]) / long * 4, (end[0] - start[0]) / long * 4
    ticks = ""
    for share in rail.packings:
        x, y = scale.to_sheet(rail.at(share))
        ticks += path([(x - aside[0], y - aside[1]), (x + aside[0], y + aside[1])])
    add(group, "path", class_="packing", d=ticks)
    x, y = scale.to_sheet(rail.at(0.5))
    turned = abs(end[0] - start[0]) < abs(end[1] - start[1])
    add(group, "text", rail.name, class_="rail-name", x=x + (8 if turned else 0), y=y + (5 if turned else -8),
        text_anchor="start" if turned else "middle")  # fmt: skip


def _end(group: Element, end: RailEnd, scale: Scale, unit: Unit, is_chosen: bool) -> None:
    x, y = scale.to_sheet(end.place)
    at = add(group, "g", class_=f"rail-end {CALL_CSS[end.call]}", transform=f"translate({x:.1f} {y:.1f})")
    if is_chosen:
        add(at, "circle", class_="chosen", r=13)
    add(at, "rect", x=-6, y=-6, width=12, height=12)
    if end.call in (Call.HIGH, Call.LOW) and end.deviation is not None:
        sign = "+" if end.deviation > 0 else "−"
        off = format_amount(abs(end.deviation), unit).removesuffix(" mm")
        add(at, "text", f"{sign}{off}", class_="rail-off", x=0, y=-11, text_anchor="middle")


@kept
def bed_drawing(assessment: Assessment, unit: Unit, square_metres: float) -> Scene:
    """How thick the bed will be over the base as shot, in bands about what is allowed; how far so much reaches."""
    job, bed = assessment.site, assessment.bedding
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Thickness of the bed of {job}").format(job=job.name), "plan surface-plan bed")
    banding_patterns(root)
    surroundings(root, job, scale, tuple(scale.to_sheet(s.at) for s in job.stations))
    laid, limits = bed.bed, bed.range
    keys: tuple[Key, ...] = ()
    if laid and limits:
        clipped_to_known(root, laid.built, scale)
        not_known(root, laid.built, scale)
        steps = (limits.anywhere[0], limits.mean[0], limits.mean[1], limits.anywhere[1])
        says = [format_amount(step, unit) for step in steps]
        if all(one < other - 1e-6 for one, other in pairwise(steps)):
            banded(root, laid.built.mesh, laid.thickness, steps, scale, says)
        keys = (
            Key("band deep-high", _("over {limit}: the base is low").format(limit=says[3])),
            Key("band high", _("{low} to {high}").format(low=says[2], high=says[3])),
            Key("band even", _("{low} to {high}, as meant").format(low=says[1], high=says[2])),
            Key("band low", _("{low} to {high}").format(low=says[0], high=says[1])),
            Key("band deep-low", _("under {limit}: the base is high").format(limit=says[0])),
        )
        _stations(root, assessment, scale, unit)
    if bed.plan and square_metres:
        for bay, share in covered(assessment.laying.to_lay(bed.plan.bays), square_metres):
            _reached(root, bay, share, scale)
    scale_bar(root, scale, height, unit)
    return Scene(finished(root), keys)


def _stations(root: Element, assessment: Assessment, scale: Scale, unit: Unit) -> None:
    laid, places = assessment.bedding.bed, {s.name: s.at for s in assessment.site.stations}
    group = add(root, "g", class_="stations")
    for name, thick in (laid.at_stations() if laid else {}).items():
        x, y = scale.to_sheet(places[name])
        at = add(group, "g", transform=f"translate({x:.1f} {y:.1f})", class_="spot")
        add(at, "circle", r=2.5, class_="spot-at")
        add(at, "text", format_amount(thick, unit).removesuffix(" mm"), x=6, y=14, class_="spot-value")


STEP_CSS = {"screed": "open", "check": "look", "mend": "mend", "cover": "ready", "lay": "sheeted", "": "laid"}


@kept
def bay_drawing(assessment: Assessment, unit: Unit, chosen: str) -> SafeString:
    """Every bay with its name, as it stands; the one in hand outlined."""
    job, bays = assessment.site, assessment.bedding.bays
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Bays of {job}").format(job=job.name), "plan bays")
    surroundings(root, job, scale, tuple(scale.to_sheet(corner) for corner in job.outline))
    for name, each in bays.items():
        ring = [scale.to_sheet((x, y)) for x, y in each.bay.outline.exterior.coords[:-1]]
        css = f"bay {STEP_CSS[each.step]}{' chosen' if name == chosen else ''}"
        add(root, "path", class_=css, d=path(ring, closed=True))
    for name, each in bays.items():
        inside = each.bay.outline.representative_point()
        x, y = scale.to_sheet((inside.x, inside.y))
        add(root, "text", name, class_="bay-name", x=x, y=y, text_anchor="middle")
    scale_bar(root, scale, height, unit)
    return finished(root)


def _reached(root: Element, bay: Bay, share: float, scale: Scale) -> None:
    """A bay to be screeded today, all of it or from where it begins."""
    part = bay.outline if share >= 1 else bay.until(share)
    inside = part.representative_point()
    x, y = scale.to_sheet((inside.x, inside.y))
    d = "".join(
        path([scale.to_sheet((east, north)) for east, north in each.exterior.coords[:-1]], closed=True)
        for each in shapely.get_parts(part)
        if isinstance(each, shapely.Polygon)
    )
    add(root, "path", class_="today" if share >= 1 else "today part", d=d)
    says = bay.name if share >= 1 else f"{bay.name}: {round(100 * share)} %"
    add(root, "text", says, class_="bay-name", x=x, y=y, text_anchor="middle")


def bay_words(bays: list[tuple[Bay, float]], unit: Unit) -> str:
    """What is covered, bay by bay, in words."""
    return ", ".join(
        f"{bay.name} {format_area(bay.area, unit)}" if share >= 1
        else _("{share} % of {bay}").format(share=round(100 * share), bay=bay.name)
        for bay, share in bays
    )  # fmt: skip
