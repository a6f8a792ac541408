"""A surface on the plan: where it is high and low, how it falls, how thick it was laid, how well it was shot."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork.assess import Assessment
from groundwork.base import LEAST_OF_BASE
from groundwork.built import OUT_SHARE, AsBuilt, Laid, laid_between
from groundwork.measures import Unit, format_amount, format_distance, format_fall, format_limit, in_words
from groundwork.surfaces import Floats, Mesh, NoSurface, Point, bands, label_place, most_useful
from groundwork.survey import SHARE, FallCall
from groundwork.verdict import Standing
from nivelum.drawing.glyphs import CSS, symbol
from nivelum.drawing.kept import kept
from nivelum.drawing.pen import Element, add, finished, group, inside, path, sheet
from nivelum.drawing.surroundings import Scale, fall, fitted, placed_on_the_ground, places_of, scale_bar, surroundings
from nivelum.drawing.water import not_known, outline_of

LEAST_ROOM = 34.0
"""Values stand at stations no nearer to each other than this on the sheet."""


class View(StrEnum):
    LEVELS = "levels"
    FALLS = "falls"
    THICKNESS = "thickness"
    COVERAGE = "coverage"


VIEW_WORDS = {
    View.LEVELS: gettext_lazy("Levels"),
    View.FALLS: gettext_lazy("Falls"),
    View.THICKNESS: gettext_lazy("Thickness"),
    View.COVERAGE: gettext_lazy("Coverage"),
}


@dataclass(frozen=True)
class Key:
    """One line of a legend: the swatch's class and what it says."""

    css: str
    says: str


@dataclass(frozen=True)
class Scene:
    """The plan as drawn, its legend, and why there is nothing to show, if so."""

    drawing: SafeString
    keys: tuple[Key, ...]
    none: str = ""


BANDS = ("deep-low", "low", "even", "high", "deep-high")


def surface_plan(
    assessment: Assessment, surface: str, view: View, unit: Unit, cut: tuple[Point, Point] | None = None
) -> Scene:
    """The plan of a surface as built in one view, with the line of a cut where there is one."""
    scene = _uncut(assessment, surface, view, unit)
    line = _cut_line(cut, fitted(places_of(assessment.site))[0]) if cut else ""
    return replace(scene, drawing=mark_safe(scene.drawing.replace(HERE, line, 1)))


HERE = '<g class="cut"/>'


@kept
def _uncut(assessment: Assessment, surface: str, view: View, unit: Unit) -> Scene:
    """The plan without a cut, whose line is to stand `HERE`."""
    job = assessment.site
    scale, width, height = fitted(places_of(job))
    label = _("{view} of {job}").format(view=VIEW_WORDS[view], job=job.name)
    root = sheet(width, height, label, f"plan surface-plan {view}")
    placed_on_the_ground(root, scale)
    banding_patterns(root)
    taken = tuple(scale.to_sheet(s.at) for s in assessment.job.stations)
    surroundings(root, job, scale, taken)
    built = assessment.surfaces.built(surface)
    keys: tuple[Key, ...] = ()
    none = ""
    if isinstance(built, NoSurface):
        none = in_words(built, unit, _)
    else:
        clipped_to_known(root, built, scale)
        not_known(root, built, scale)
        shown = {View.LEVELS: _levels, View.FALLS: _falls, View.THICKNESS: _thickness, View.COVERAGE: _coverage}
        keys, none = shown[view](root, assessment, built, scale, unit)
    if view is not View.FALLS:
        for facet in job.facets:
            fall(root, facet, job, scale, taken)
    add(root, "g", class_="cut")
    scale_bar(root, scale, height, unit)
    return Scene(finished(root), keys, none)


def banding_patterns(root: Element) -> None:
    """Bands are told apart by their hatching: leaning one way above, the other way below, closer when further off."""
    defs = add(root, "defs")
    for name, size, lines in (
        ("deep-low", 6, "M-1 -1L7 7"),
        ("low", 13, "M-1 -1L14 14"),
        ("high", 13, "M-1 14L14 -1"),
        ("deep-high", 6, "M-1 7L7 -1"),
        ("flat", 9, "M0 4.5H9"),
        ("wrong", 9, "M0 4.5H9M4.5 0V9"),
    ):
        pattern = add(defs, "pattern", id=f"band-{name}", width=size, height=size, patternUnits="userSpaceOnUse")
        add(pattern, "rect", width=size, height=size, class_=f"of-{name}")
        add(pattern, "path", d=lines, class_=f"line-{name}")


def clipped_to_known(root: Element, built: AsBuilt, scale: Scale) -> None:
    clip = add(add(root, "defs"), "clipPath", id="known")
    add(clip, "path", d=outline_of(built.mesh.region, scale), clip_rule="evenodd")


def banded(
    root: Element, mesh: Mesh, values: Floats, limits: Sequence[float], scale: Scale, says: Sequence[str]
) -> None:
    """Five bands and the lines between them, each line with what it stands for."""
    group = add(root, "g", class_="bands", clip_path="url(#known)")
    root.find(".//path[@class='area']").addnext(group)
    found, lines = bands(mesh, values, [-math.inf, *limits, math.inf])
    edges = [-math.inf, *limits, math.inf]
    for band in found:
        name = BANDS[edges.index(band.low)]
        d = "".join(path([scale.to_sheet((x, y)) for x, y in ring.tolist()], closed=True) for ring in band.rings)
        add(group, "path", d=d, fill_rule="evenodd", class_=f"band {name}")
    for contour in lines:
        d = "".join(path([scale.to_sheet((x, y)) for x, y in line.tolist()]) for line in contour.lines)
        add(group, "path", d=d, class_="contour")
    for contour in lines:
        place = label_place(contour, mesh.region)
        if place:
            x, y = scale.to_sheet(place)
            add(root, "text", says[list(limits).index(contour.value)], x=x, y=y + 5, class_="contour-value")


def _signed(metres: float, unit: Unit) -> str:
    shown = format_amount(metres, unit)
    if shown == format_amount(0.0, unit):
        return shown
    return f"{'−' if metres < 0 else '+'}{shown}"


def _levels(
    root: Element, assessment: Assessment, built: AsBuilt, scale: Scale, unit: Unit
) -> tuple[tuple[Key, ...], str]:
    tolerance = assessment.surveys.of(built.surface.key).tolerance
    limits = (-tolerance.low, -tolerance.low / 2, tolerance.high / 2, tolerance.high)
    banded(root, built.mesh, built.deviations, limits, scale, [_signed(limit, unit) for limit in limits])
    texts = {s.name: _bare(_signed(d, unit)) for s, d in zip(built.stations, built.at_stations.tolist(), strict=True)}
    _marked(root, assessment, built.surface.key, scale, texts)
    low, half_low, half_high, high = (format_limit(abs(limit), unit) for limit in limits)
    return (
        Key("band deep-high", _("more than {limit} high").format(limit=high)),
        Key("band high", _("{low} to {high} high").format(low=half_high, high=high)),
        Key("band even", _("near design")),
        Key("band low", _("{low} to {high} low").format(low=half_low, high=low)),
        Key("band deep-low", _("more than {limit} low").format(limit=low)),
    ), ""


def _bare(text: str) -> str:
    return text.removesuffix(" mm")


def _marked(root: Element, assessment: Assessment, surface: str, scale: Scale, texts: dict[str, str]) -> None:
    """Every station with its verdict's mark, and beside it a value."""
    roomy = assessment.job.station_spacing * scale.per_metre >= LEAST_ROOM
    answers = assessment.surveys.of(surface).answers
    group = add(root, "g", class_="stations")
    for name, answer in answers.items():
        x, y = scale.to_sheet(answer.station.at)
        at = add(group, "g", transform=f"translate({x:.1f} {y:.1f})", class_="spot")
        standing = answer.judgement.standing
        add(at, "use", href=f"#{symbol(standing)}", class_=f"v-{CSS[standing]}", transform="scale(.62)")
        if roomy or standing not in (Standing.GOOD, Standing.UNSHOT):
            add(at, "text", name, x=-8, y=-7, class_="spot-name", text_anchor="end")
            if name in texts:
                add(at, "text", texts[name], x=8, y=15, class_="spot-value")


def _falls(
    root: Element, assessment: Assessment, built: AsBuilt, scale: Scale, unit: Unit
) -> tuple[tuple[Key, ...], str]:
    falls, mesh = built.falls, built.mesh
    group = add(root, "g", class_="fall-field")
    root.find(".//path[@class='area']").addnext(group)
    kinds = {"wrong": falls.of(FallCall.WRONG_WAY), "flat": falls.under(OUT_SHARE)}
    for name in ("flat", "wrong"):
        for triangle in np.flatnonzero(kinds[name]):
            corners = [scale.to_sheet((x, y)) for x, y in mesh.points[mesh.triangles[triangle]].tolist()]
            add(group, "path", d=path(corners, closed=True), class_=f"triangle {name}")
    gradient = mesh.gradient(built.levels)
    middles = mesh.points[mesh.triangles].mean(axis=1)
    least = LEAST_ROOM**2 / 2 / scale.per_metre**2
    for triangle in np.flatnonzero((mesh.areas >= least) & (mesh.compactness > 0.2)):
        steep = float(np.hypot(*gradient[triangle]))
        x, y = scale.to_sheet((float(middles[triangle, 0]), float(middles[triangle, 1])))
        arrow = add(group, "g", transform=f"translate({x:.1f} {y:.1f})", class_="fall-arrow")
        if steep > 1e-6:
            bearing = math.degrees(math.atan2(-gradient[triangle, 0], -gradient[triangle, 1]))
            add(arrow, "path", d="M0 9V-9M-4 -4L0 -9L4 -4", transform=f"rotate({bearing:.0f})")
        bad = falls.calls[triangle] in (FallCall.WRONG_WAY, FallCall.FLAT)
        if bad:
            add(arrow, "text", format_fall(steep), x=0, y=22, text_anchor="middle")
    _marked(root, assessment, built.surface.key, scale, {})
    designed = falls.designed[falls.judged]
    usual = format_fall(float(np.median(designed))) if len(designed) else "—"
    return (
        Key("arrow", _("down the fall; designed {fall}").format(fall=usual)),
        Key("triangle flat", _("under {share} % of its designed fall").format(share=round(100 * OUT_SHARE))),
        Key("triangle wrong", _("falls the wrong way")),
        Key("none", _("steepness is written where a fall is under {share} %").format(share=round(100 * SHARE))),
    ), ""


def layer_under(assessment: Assessment, surface: str) -> Laid | None:
    """What was laid up to a surface from the next one below it that was shot."""
    keys = [s.key for s in assessment.surveys.levelled]
    for below in reversed(keys[: keys.index(surface)]):
        if assessment.surveys.of(below).shot_count >= 3:
            return laid_between(assessment.job, assessment.surveys.of(below), assessment.surveys.of(surface))
    return None


def _thickness(
    root: Element, assessment: Assessment, built: AsBuilt, scale: Scale, unit: Unit
) -> tuple[tuple[Key, ...], str]:
    laid = layer_under(assessment, built.surface.key)
    if laid is None:
        _marked(root, assessment, built.surface.key, scale, {})
        return (), _("no surface under it was shot at the same stations")
    step = LEAST_OF_BASE
    limits = tuple(laid.specified + by for by in (-step, -step / 2, step / 2, step))
    says = [format_amount(limit, unit) for limit in limits]
    banded(root, laid.mesh, laid.at_vertices, limits, scale, says)
    texts = {n: _bare(format_amount(t, unit)) for n, t in zip(laid.stations, laid.thickness.tolist(), strict=True)}
    _marked(root, assessment, built.surface.key, scale, texts)
    return (
        Key("band deep-high", _("over {limit} thick").format(limit=says[3])),
        Key("band high", _("{low} to {high}").format(low=says[2], high=says[3])),
        Key("band even", _("as specified: {thick}").format(thick=format_amount(laid.specified, unit))),
        Key("band low", _("{low} to {high}").format(low=says[0], high=says[1])),
        Key("band deep-low", _("under {limit}").format(limit=says[0])),
    ), ""


def _coverage(
    root: Element, assessment: Assessment, built: AsBuilt, scale: Scale, unit: Unit
) -> tuple[tuple[Key, ...], str]:
    group = add(root, "g", class_="reaches", clip_path="url(#paved)")
    paved = add(add(root, "defs"), "clipPath", id="paved")
    add(paved, "path", d=path([scale.to_sheet(p) for p in assessment.job.edge], closed=True))
    root.find(".//path[@class='area']").addnext(group)
    for station in built.stations:
        x, y = scale.to_sheet(station.at)
        add(group, "circle", cx=x, cy=y, r=built.reach * scale.per_metre, class_="covered")
    _marked(root, assessment, built.surface.key, scale, {})
    keys = [Key("covered", _("within reach of a station that was shot"))]
    if hole := built.hole:
        x, y = scale.to_sheet(hole.at)
        add(root, "circle", cx=x, cy=y, r=hole.radius * scale.per_metre, class_="hole")
        far = format_distance(hole.radius, unit)
        add(root, "text", far, x=x, y=y + 6, class_="hole-size")
        keys.append(Key("hole", _("furthest from anything shot: {far}").format(far=far)))
    unshot = {
        n: a.station.at
        for n, a in assessment.surveys.of(built.surface.key).answers.items()
        if a.judgement.standing is Standing.UNSHOT
    }
    if unshot and (best := most_useful(unshot, [s.at for s in built.stations])):
        x, y = scale.to_sheet(unshot[best])
        add(root, "path", d="M-17 -17H17V17H-17Z", transform=f"translate({x:.1f} {y:.1f})", class_="useful")
        keys.append(Key("useful", _("most useful next: {station}").format(station=best)))
    return tuple(keys), ""


def _cut_line(cut: tuple[Point, Point], scale: Scale) -> str:
    start, end = (scale.to_sheet(p) for p in cut)
    root = group()
    line = add(root, "g", class_="cut-line")
    add(line, "path", d=path([start, end]))
    for (x, y), name in ((start, "A"), (end, "B")):
        add(line, "circle", cx=x, cy=y, r=12)
        add(line, "text", name, x=x, y=y + 6, text_anchor="middle")
    return inside(root)
