"""The plan: outline, what stands around it, falls, marks, the instrument, and every station with its mark."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from django.utils.http import urlencode
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import get_language
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.levels import LineOfSight, StretchedString
from groundwork.measures import Unit, format_amount, format_level
from groundwork.surfaces import Point
from groundwork.survey import StationAnswer, Survey
from groundwork.verdict import Standing
from nivelum.drawing.glyphs import CSS, symbol, symbols
from nivelum.drawing.pen import Element, add, finished, path, sheet, textures
from nivelum.drawing.surroundings import (
    MARGIN,
    WIDTH,
    Scale,
    Taken,
    fall,
    fitted,
    placed_on_the_ground,
    places_of,
    scale_bar,
    surroundings,
)

SIGHT = "M-25 0H-17M17 0H25M0 -25V-17M0 17V25M-17 0A17 17 0 1 1 17 0A17 17 0 1 1 -17 0"
WITH_AMOUNT = (Standing.DIG, Standing.OVER_DUG, Standing.HIGH, Standing.LOW)
CLOSE_TOGETHER = 40.0
"""Stations nearer than this on the sheet show their names only where something is wrong."""


def plan(
    assessment: Assessment,
    surface: str,
    unit: Unit,
    selected: str,
    word: Callable[[StationAnswer], str],
    stands: str | None = None,
) -> SafeString:
    """The plan of a surface with `selected` ringed and the way to walk from there; each station links to itself and
    is named with its `word`. `stands` is what the tool in hand is set up on."""
    drawing = _unselected(assessment, surface, unit, word, stands, get_language())
    stations = drawing.index('<g class="stations')
    link = drawing.index(f'data-station="{selected}"', stations)
    css = drawing.index('class="station', link) + len('class="station')
    inside = drawing.index("/>", css) + len("/>")
    sight = f'<path class="sight" d="{SIGHT}"/>'
    parts = (drawing[:stations], _walk(assessment, surface, selected), drawing[stations:css], " chosen",
             drawing[css:inside], sight, drawing[inside:])  # fmt: skip
    return mark_safe("".join(parts))


def _walk(assessment: Assessment, surface: str, selected: str) -> str:
    """The way through the stations still to be shot, under their marks."""
    survey = assessment.surveys.of(surface)
    names = [selected, *survey.to_walk(selected)]
    if len(names) == 1:
        return ""
    scale, _width, _height = fitted(_places(assessment))
    points = [scale.to_sheet(survey.answers[name].station.at) for name in names]
    return f'<path class="walk" d="{path(points)}"/>'


def _places(assessment: Assessment) -> list[Point]:
    """Everything that has to fit on the plan; where every level stands, so that the scale is always the same."""
    return [*places_of(assessment.job), *(s.at for s in assessment.logbook.set_ups.values() if s.at)]


@lru_cache(maxsize=64)
def _unselected(
    assessment: Assessment,
    surface: str,
    unit: Unit,
    word: Callable[[StationAnswer], str],
    stands: str | None,
    language: str | None,
) -> str:
    """The plan with no station chosen: the same for everyone until something is recorded. What differs from one to
    the next is put into the text, which is quicker than into the drawing."""
    job, survey = assessment.job, assessment.surveys.of(surface)
    scale, width, height = fitted(_places(assessment))
    root = sheet(width, height, _("Plan of {job}").format(job=job.name), "plan")
    placed_on_the_ground(root, scale)
    taken = _taken(assessment, scale)
    textures(root)
    surroundings(root, job, scale, taken)
    for facet in job.facets:
        fall(root, facet, job, scale, taken)
    _marks(root, assessment, scale, unit)
    _instrument(root, assessment, stands, scale, unit)
    symbols(root, {answer.judgement.standing for answer in survey.answers.values()})
    _stations(root, survey, job.station_spacing, scale, unit, word)
    scale_bar(root, scale, height, unit)
    return str(finished(root))


def thumbnail(assessment: Assessment) -> SafeString:
    """The job at a glance: its outline, what stands beside it, a dot where something is wrong."""
    job = assessment.job
    places = [*job.outline, *(p for f in job.features for p in f.points)]
    (west, south), (east, north) = np.min(places, axis=0), np.max(places, axis=0)
    per_metre = min(130 / (east - west), 78 / (north - south))
    scale = Scale(west + MARGIN / per_metre, north - MARGIN / per_metre, per_metre)
    root = sheet((east - west) * per_metre, (north - south) * per_metre, job.name, "thumbnail")
    root.set("aria-hidden", "true")
    for feature in job.features:
        if feature.kind in ("building", "water"):
            points = [scale.to_sheet(p) for p in feature.points]
            add(root, "path", class_=feature.kind, d=path(points, closed=True))
    add(root, "path", class_="area", d=path([scale.to_sheet(p) for p in job.outline], closed=True))
    for answer in assessment.surveys.ground.values():
        standing = answer.judgement.standing
        if standing is not Standing.UNSHOT:
            x, y = scale.to_sheet(answer.station.at)
            css = "dot" if standing.is_sound else f"dot bad v-{CSS[standing]}"
            add(root, "circle", class_=css, cx=x, cy=y, r=1.6 if standing.is_sound else 3.6)
    return finished(root)


def _taken(assessment: Assessment, scale: Scale) -> Taken:
    """Where stations, their names and amounts stand on the sheet, and the marks."""
    stations = [scale.to_sheet(s.at) for s in assessment.job.stations]
    marks = [scale.to_sheet(m.at) for m in assessment.job.marks]
    names_and_amounts = [(x + right, y + down) for x, y in stations for right, down in ((-22, -20), (32, 12))]
    return (*stations, *names_and_amounts, *marks, *((x + 40, y) for x, y in marks))


def _marks(root: Element, assessment: Assessment, scale: Scale, unit: Unit) -> None:
    for mark in assessment.job.marks:
        x, y = scale.to_sheet(mark.at)
        group = add(root, "g", class_="mark-point", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d="M0 -9L9 0L0 9L-9 0Z")
        anchor = "end" if x > WIDTH * 0.72 else "start"
        side = -13 if anchor == "end" else 13
        add(group, "text", mark.name, x=side, y=-4, text_anchor=anchor)
        add(group, "text", format_level(mark.level, unit), x=side, y=11, text_anchor=anchor, class_="level")
    for name in assessment.levels.runs.turning_points:
        sight = assessment.levels.runs.turning_points[name]
        if sight.at:
            x, y = scale.to_sheet(sight.at)
            group = add(root, "g", class_="mark-point turning", transform=f"translate({x:.1f} {y:.1f})")
            add(group, "path", d="M0 -8L8 6H-8Z")
            add(group, "text", name, x=12, y=5)


def _instrument(root: Element, assessment: Assessment, stands: str | None, scale: Scale, unit: Unit) -> None:
    """What the tool in hand stands on: a level where it stands, a string where it is stretched."""
    reference = assessment.levels.references.get(stands or "")
    if isinstance(reference, StretchedString):
        ends = [scale.to_sheet(reference.line.start_at), scale.to_sheet(reference.line.end_at)]
        add(root, "path", class_="string", d=path(ends))
        for x, y in ends:
            add(root, "circle", class_="peg", cx=x, cy=y, r=5)
    if isinstance(reference, LineOfSight) and reference.set_up.at:
        x, y = scale.to_sheet(reference.set_up.at)
        group = add(root, "g", class_="instrument", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d="M0 -3L-9 14M0 -3L9 14M0 -3V14M-10 -9H10V-3H-10Z")
        height = format_level(reference.height.level, unit)
        add(group, "text", _("level here"), y=30, text_anchor="middle")
        add(group, "text", _("HI {level}").format(level=height), y=45, text_anchor="middle", class_="level")


def _stations(
    root: Element,
    survey: Survey,
    spacing: float,
    scale: Scale,
    unit: Unit,
    word: Callable[[StationAnswer], str],
) -> None:
    apart = spacing * scale.per_metre
    reach = max(9.0, min(26.0, apart * 0.45))
    group = add(root, "g", class_="stations dense" if apart < CLOSE_TOGETHER else "stations")
    for name, answer in survey.answers.items():
        x, y = scale.to_sheet(answer.station.at)
        query = "?" + urlencode({"surface": survey.surface.key, "station": name})
        link = add(group, "a", href=query, hx_get=query, data_station=name, tabindex=-1)
        link.set("transform", f"translate({x:.1f} {y:.1f})")
        standing = answer.judgement.standing
        amount = format_amount(answer.judgement.deviation or 0.0, unit) if standing in WITH_AMOUNT else ""
        link.set("aria-label", f"{name} {amount}, {word(answer)}" if amount else f"{name}, {word(answer)}")
        quiet = standing in (Standing.UNSHOT, Standing.GOOD)
        link.set("class", "station" + (" quiet" if quiet else ""))
        add(link, "circle", class_="reach", r=reach)
        add(link, "use", href=f"#{symbol(standing)}", class_=f"v-{CSS[standing]}")
        add(link, "text", name, x=-9, y=-15, class_="name").tail = " "
        if amount:
            add(link, "text", amount, x=13, y=17, class_=f"amount v-{CSS[standing]}")
