"""Paving that is seated and filled, on the plan: passes patch by patch, units to mend, how deep joints lie."""

import shapely
from django.utils.http import urlencode
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.measures import Unit, format_amount
from groundwork.surfaces import Point
from nivelum.drawing.kept import kept
from nivelum.drawing.patches import gone_patch, gone_patterns, middle_of
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surroundings import Scale, fitted, placed_on_the_ground, places_of, scale_bar, surroundings

MARKS = {
    "rocks": "M-9 4H9M-6 4L0 -6L6 4",
    "cracked": "M-8 -8L-2 -1L2 -3L8 8",
    "chipped": "M-8 8V-8H3L8 -2V8Z",
    "hollow": "M-8 0A8 8 0 1 1 8 0A8 8 0 1 1 -8 0M-3 0H3",
    "lip": "M-9 5H0V-5H9",
}
"""What is wrong with a unit, drawn: it rocks on a point, a crack, a corner off, a ring with nothing in it, a step."""


def _plan(assessment: Assessment, title: str, css: str, taken: tuple[tuple[float, float], ...]) -> tuple[
    Element, Scale, float
]:  # fmt: skip
    job = assessment.site
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, title, f"plan {css}")
    placed_on_the_ground(root, scale)
    surroundings(root, job, scale, taken or (scale.to_sheet(middle_of(job.area)),))
    return root, scale, height


def _outline(area: shapely.geometry.base.BaseGeometry, scale: Scale) -> str:
    parts = [part for part in shapely.get_parts(area) if isinstance(part, shapely.Polygon)]
    rings = [ring for part in parts for ring in (part.exterior, *part.interiors)]
    return "".join(path([scale.to_sheet((x, y)) for x, y in ring.coords[:-1]], closed=True) for ring in rings)


@kept
def seat_drawing(assessment: Assessment, unit: Unit, patch: str) -> SafeString:
    """The paving in patches with how often each was gone over; what is kept off; each links to itself."""
    there = assessment.seating
    scale, _width, _height = fitted(places_of(assessment.site))
    taken = tuple(scale.to_sheet(middle_of(each.patch.outline)) for each in there.coverage)
    root, scale, height = _plan(assessment, _("Passes over the paving, patch by patch"), "lift-plan seat-plan", taken)
    gone_patterns(root)
    for each in there.coverage:
        gone_patch(root, each, there.passes_left(each), scale, patch, {})
    if there.kept_off is not None:
        add(root, "path", class_="kept-off", d=_outline(there.kept_off, scale), fill_rule="evenodd")
    scale_bar(root, scale, height, unit)
    return finished(root)


@kept
def mend_drawing(assessment: Assessment, unit: Unit, chosen: str) -> SafeString:
    """Units to mend in the order one walks to them, and lips as they were taped."""
    there = assessment.seating
    root, scale, height = _plan(assessment, _("Units to mend, and lips"), "mend-plan", ())
    add(root, "path", class_="gone", d=_outline(assessment.site.area, scale), fill="none", fill_rule="evenodd")
    for lip in there.lips:
        x, y = scale.to_sheet(lip.at)
        group = add(root, "g", class_="lip-taped", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d="M-4 0H4M0 -4V4")
        add(group, "text", format_amount(lip.lip.metres, unit).removesuffix(" mm"), x=7, y=4)
    walk = [scale.to_sheet(each.at) for each in there.to_mend]
    if len(walk) > 1:
        add(root, "path", class_="walk", d=path(walk))
    for number, each in enumerate(there.to_mend, 1):
        _mark(root, each.at, "lip" if each.lip is not None else str(getattr(each.found, "fault", "")), number, scale,
              is_chosen=each.found.id == chosen)  # fmt: skip
    scale_bar(root, scale, height, unit)
    return finished(root)


def _mark(root: Element, at: Point, what: str, number: int, scale: Scale, *, is_chosen: bool) -> None:
    x, y = scale.to_sheet(at)
    group = add(root, "g", class_=f"to-mend{' chosen' if is_chosen else ''}", transform=f"translate({x:.1f} {y:.1f})")
    add(group, "circle", cx=0, cy=0, r=13)
    add(group, "path", class_="s", d=MARKS[what])
    add(group, "text", str(number), x=16, y=-6)


@kept
def fill_drawing(assessment: Assessment, unit: Unit, patch: str) -> SafeString:
    """The paving in patches with how deep its joints lie and whether each is full; each links to itself."""
    there = assessment.jointing
    scale, _width, _height = fitted(places_of(assessment.site))
    taken = tuple(scale.to_sheet(middle_of(each.patch.outline)) for each in there.patches.values())
    root, scale, height = _plan(assessment, _("Joints, patch by patch"), "lift-plan fill-plan", taken)
    for name, each in there.patches.items():
        state = there.state(name)
        link = add(root, "a", href="?" + urlencode({"patch": name}), data_patch=name)
        link.set("class", f"patch fill-{state}{' chosen' if name == patch else ''}")
        add(link, "path", class_="gone", d=_outline(each.patch.outline, scale), fill_rule="evenodd")
        x, y = scale.to_sheet(middle_of(each.patch.outline))
        depths = " · ".join(format_amount(d, unit).removesuffix(" mm") for d in each.depths)
        add(link, "text", depths or "—", x=x, y=y + 6, class_="count")
        add(link, "text", _("patch {n}").format(n=name), x=x, y=y + 25, class_="patch-name")
    scale_bar(root, scale, height, unit)
    return finished(root)
