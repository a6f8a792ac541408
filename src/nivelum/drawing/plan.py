"""The plan: outline, what stands around it, falls, marks, the instrument, and every station with its mark."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from django.utils.html import escape
from django.utils.http import urlencode
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.levels import LineOfSight, StretchedString
from groundwork.measures import Unit, format_amount, format_level
from groundwork.surfaces import Point
from groundwork.survey import Survey
from groundwork.verdict import Standing
from nivelum.drawing.glyphs import CSS, symbol
from nivelum.drawing.kept import kept
from nivelum.drawing.pen import Element, add, finished, group, inside, path, sheet
from nivelum.drawing.surroundings import (
    MARGIN,
    WIDTH,
    Scale,
    Taken,
    area_path,
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
    word: Callable[[Standing], str],
    stands: str | None = None,
) -> SafeString:
    """The plan of a surface with `selected` ringed and the way to walk from there; each station links to itself and
    is named with its `word`. `stands` is what the tool in hand is set up on."""
    drawing = _unselected(assessment, surface, unit, word)
    stations = drawing.index('<g class="stations')
    link = drawing.index(f'data-station="{selected}"', stations)
    css = drawing.index('class="station', link) + len('class="station')
    ends = drawing.index("/>", css) + len("/>")
    sight = f'<path class="sight" d="{SIGHT}"/>'
    parts = (drawing[:stations], _instrument(assessment, stands, unit), _walk(assessment, surface, selected),
             drawing[stations:css], " chosen", drawing[css:ends], sight, drawing[ends:])  # fmt: skip
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
    return [*places_of(assessment.site), *(s.at for s in assessment.logbook.set_ups.values() if s.at)]


@kept
def _unselected(assessment: Assessment, surface: str, unit: Unit, word: Callable[[Standing], str]) -> str:
    """The plan with no station chosen and no tool in hand: the same for everyone until something is recorded. What
    differs from one to the next is put into the text, which is quicker than into the drawing; so are the stations,
    which are drawn one by one as each changes."""
    survey = assessment.surveys.of(surface)
    around = _around(assessment, unit, frozenset(a.judgement.standing for a in survey.answers.values()))
    shown = around.replace(HERE, _stations(assessment, survey, unit, word), 1)
    return shown.replace('aria-label="', f'aria-label="{escape(_told(survey, unit, word))} ', 1)


def _told(survey: Survey, unit: Unit, word: Callable[[Standing], str]) -> str:
    """What the plan shows, for those who do not see it: how many stations are shot, and which are not as they should
    be, by how much."""
    answers = survey.answers
    said = [_("{n} of {all} stations shot.").format(n=survey.shot_count, all=len(answers))]
    for name, answer in answers.items():
        judged = answer.judgement
        if judged.standing.is_sound or judged.standing is Standing.UNSHOT:
            continue
        amount = format_amount(judged.deviation or 0.0, unit) if judged.standing in WITH_AMOUNT else ""
        said.append(f"{name}: {word(judged.standing)} {amount}".strip() + ".")
        if len(said) > MOST_TOLD:
            said.append(_("And more."))
            break
    return " ".join(said)


MOST_TOLD = 8
"""So many stations are named in the words of a plan; all of them are links of their own."""


HERE = '<g class="stations"/>'


@kept
def _around(assessment: Assessment, unit: Unit, standings: frozenset[Standing]) -> str:
    """The plan but for its stations, which are to stand `HERE`."""
    job = assessment.site
    scale, width, height = fitted(_places(assessment))
    root = sheet(width, height, _("Plan of {job}").format(job=job.name), "plan")
    placed_on_the_ground(root, scale)
    root.set("data-apart", f"{job.station_spacing * scale.per_metre:.1f}")
    taken = _taken(assessment, scale)
    surroundings(root, job, scale, taken)
    for facet in job.facets:
        fall(root, facet, job, scale, taken)
    _marks(root, assessment, scale, unit)
    add(root, "g", class_="stations")
    scale_bar(root, scale, height, unit)
    return str(finished(root))


@kept
def thumbnail(assessment: Assessment) -> SafeString:
    """The job at a glance: its outline, what stands beside it, a dot where something is wrong."""
    job = assessment.site
    places = [*job.edge, *(p for f in job.features for p in f.points)]
    (west, south), (east, north) = np.min(places, axis=0), np.max(places, axis=0)
    per_metre = min(130 / (east - west), 78 / (north - south))
    scale = Scale(west + MARGIN / per_metre, north - MARGIN / per_metre, per_metre)
    root = sheet((east - west) * per_metre, (north - south) * per_metre, job.name, "thumbnail")
    root.set("aria-hidden", "true")
    for feature in job.features:
        if feature.kind in ("building", "water"):
            points = [scale.to_sheet(p) for p in feature.points]
            add(root, "path", class_=feature.kind, d=path(points, closed=True))
    add(root, "path", class_="area", d=area_path(job, scale), fill_rule="evenodd")
    for answer in assessment.surveys.ground.values():
        standing = answer.judgement.standing
        if standing is not Standing.UNSHOT:
            x, y = scale.to_sheet(answer.station.at)
            css = "dot" if standing.is_sound else f"dot bad v-{CSS[standing]}"
            add(root, "circle", class_=css, cx=x, cy=y, r=1.6 if standing.is_sound else 3.6)
    return finished(root)


def _taken(assessment: Assessment, scale: Scale) -> Taken:
    """Where stations, their names and amounts stand on the sheet, and the marks."""
    stations = [scale.to_sheet(s.at) for s in assessment.site.stations]
    marks = [scale.to_sheet(m.at) for m in assessment.site.marks]
    names_and_amounts = [(x + right, y + down) for x, y in stations for right, down in ((-22, -20), (32, 12))]
    return (*stations, *names_and_amounts, *marks, *((x + 40, y) for x, y in marks))


def _marks(root: Element, assessment: Assessment, scale: Scale, unit: Unit) -> None:
    for mark in assessment.site.marks:
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


def _instrument(assessment: Assessment, stands: str | None, unit: Unit) -> str:
    """What the tool in hand stands on: a level where it stands, a string where it is stretched."""
    reference, root = assessment.levels.references.get(stands or ""), group()
    scale, _width, _height = fitted(_places(assessment))
    if isinstance(reference, StretchedString):
        ends = [scale.to_sheet(reference.line.start_at), scale.to_sheet(reference.line.end_at)]
        add(root, "path", class_="string", d=path(ends))
        for x, y in ends:
            add(root, "circle", class_="peg", cx=x, cy=y, r=5)
    if isinstance(reference, LineOfSight) and reference.set_up.at:
        x, y = scale.to_sheet(reference.set_up.at)
        level = add(root, "g", class_="instrument", transform=f"translate({x:.1f} {y:.1f})")
        add(level, "path", d="M0 -3L-9 14M0 -3L9 14M0 -3V14M-10 -9H10V-3H-10Z")
        height = format_level(reference.height.level, unit)
        add(level, "text", _("level here"), y=30, text_anchor="middle")
        add(level, "text", _("HI {level}").format(level=height), y=45, text_anchor="middle", class_="level")
    return inside(root)


def _stations(assessment: Assessment, survey: Survey, unit: Unit, word: Callable[[Standing], str]) -> str:
    scale, _width, _height = fitted(_places(assessment))
    apart = assessment.site.station_spacing * scale.per_metre
    reach = max(9.0, min(26.0, apart * 0.45))
    drawn = [f'<g class="{"stations dense" if apart < CLOSE_TOGETHER else "stations"}">']
    said = {standing: word(standing) for standing in Standing}
    for name, answer in survey.answers.items():
        x, y = scale.to_sheet(answer.station.at)
        standing = answer.judgement.standing
        amount = format_amount(answer.judgement.deviation or 0.0, unit) if standing in WITH_AMOUNT else ""
        at = f"translate({x:.1f} {y:.1f})"
        drawn.append(_station(survey.surface.key, name, at, reach, standing, amount, said[standing]))
    return "".join((*drawn, "</g>"))


@lru_cache(maxsize=16_384)
def _station(surface: str, name: str, at: str, reach: float, standing: Standing, amount: str, says: str) -> str:
    query = "?" + urlencode({"surface": surface, "station": name})
    root = group()
    link = add(root, "a", href=query, hx_get=query, data_station=name, tabindex=-1)
    link.set("transform", at)
    link.set("aria-label", f"{name} {amount}, {says}" if amount else f"{name}, {says}")
    quiet = standing in (Standing.UNSHOT, Standing.GOOD)
    link.set("class", "station" + (" quiet" if quiet else ""))
    add(link, "circle", class_="reach", r=reach)
    add(link, "use", href=f"#{symbol(standing)}", class_=f"v-{CSS[standing]}")
    add(link, "text", name, x=-9, y=-15, class_="name").tail = " "
    if amount:
        add(link, "text", amount, x=13, y=17, class_=f"amount v-{CSS[standing]}")
    return inside(root)
