"""Paving on the plan: every unit, whole and cut, its rows as they were taped, what is laid; a pattern by itself."""

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import product

import numpy as np
import shapely
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.job import Job
from groundwork.laying import LINES, WHERE
from groundwork.measures import Unit, format_amount
from groundwork.pattern import Paving, PavingPattern, PavingPiece, PavingUnit
from groundwork.surfaces import Floats
from groundwork.verdict import Call
from nivelum.drawing.kept import kept
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surroundings import Scale, area_path, fitted, placed_on_the_ground, places_of, scale_bar

DRAWN_OUT = 0.3
"""A row that is off by all it may be is drawn so many metres off its line, to be seen."""
SWATCH = 84.0
CALL_CSS = {Call.GOOD: "right", Call.HIGH: "out", Call.LOW: "out", Call.TOO_CLOSE: "near"}


def _ground(root: Element, job: Job, scale: Scale) -> None:
    for feature in job.features:
        points = [scale.to_sheet(p) for p in feature.points]
        if feature.kind == "building":
            add(root, "path", class_="building", d=path(points, closed=True))
        elif feature.kind == "drain" and len(points) > 1:
            add(root, "path", class_="drain", d=path(points))
    add(root, "path", class_="area bare", d=area_path(job, scale), fill_rule="evenodd")


@kept
def chosen_drawing(assessment: Assessment, unit: Unit, piece: str) -> SafeString:
    """The layout that was chosen."""
    paving = assessment.laying.paving
    return layout_drawing(assessment.site, paving, unit, piece) if paving else SafeString()


def layout_drawing(job: Job, paving: Paving, unit: Unit, chosen: str = "") -> SafeString:
    """The layout over the area: whole units, cut ones darker, those too small marked; the string it is laid from. The
    page's script moves it by what the drawing says of its side."""
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Layout of {job}").format(job=job.name), "plan layout")
    placed_on_the_ground(root, scale)
    design = paving.design
    root.set("data-along", f"{design.along:.6f}")
    root.set("data-over", f"{design.over:.4f}")
    root.set("data-ahead", f"{design.ahead:.4f}")
    _ground(root, job, scale)
    _units(root, paving, scale)
    _string(root, paving, scale)
    _rows(root, paving, scale)
    if chosen and (piece := paving.pieces.get(chosen)):
        add(root, "path", class_="piece-chosen", d=_all(paving, [piece.shape], scale))
    scale_bar(root, scale, height, unit)
    return finished(root)


def _units(root: Element, paving: Paving, scale: Scale) -> None:
    """The field filled with a piece of its pattern that repeats; what is cut, and the border, unit by unit."""
    design = paving.design
    fill = add(add(root, "defs"), "pattern", id="laid", patternUnits="userSpaceOnUse")
    at, turned = scale.to_sheet(design.start.at), -math.degrees(design.start.turned)
    wide, high, d = _repeat(design.pattern, design.unit, scale.per_metre)
    fill.set("width", f"{wide:.4f}")
    fill.set("height", f"{high:.4f}")
    fill.set("patternTransform", f"translate({at[0]:.2f} {at[1]:.2f}) rotate({turned:.4f})")
    add(fill, "rect", width=wide, height=high, class_="joints")
    add(fill, "path", class_="unit", d=d)
    field = "".join(
        path([scale.to_sheet((x, y)) for x, y in ring.coords[:-1]], closed=True)
        for part in shapely.get_parts(paving.field) for ring in (part.exterior, *part.interiors)
    )  # fmt: skip
    add(root, "path", class_="laid-field", d=field, fill="url(#laid)", fill_rule="evenodd")
    whole = [piece.shape for piece in paving.bordering.values() if piece.is_whole]
    add(root, "path", class_="unit", d=_all(paving, whole, scale))
    _cut(add(root, "g", class_="cut-units"), paving, paving.cut, scale, _sizes(paving.cut))


@lru_cache(maxsize=64)
def _repeat(pattern: PavingPattern, unit: PavingUnit, per_metre: float) -> tuple[float, float, str]:
    """A rectangle that repeats, on the sheet, and the units in it; upwards is down there."""
    wide, high = _rectangle(pattern, unit)
    d = ""
    for (long, across), places in pattern.placed(unit, (0.0, -high, wide, 0.0)):
        right, down = f"{long * per_metre:.2f}", f"{across * per_metre:.2f}"
        for x, y in places.tolist():
            d += f"M{x * per_metre:.2f} {-(y + across) * per_metre:.2f}h{right}v{down}h-{right}z"
    return wide * per_metre, high * per_metre, d


def _rectangle(pattern: PavingPattern, unit: PavingUnit) -> tuple[float, float]:
    """The least rectangle, metres, that a pattern repeats by."""
    one, other = (np.array(each) for each in pattern.cell(unit))
    steps = [a * one + b * other for a, b in product(range(-12, 13), repeat=2) if (a, b) != (0, 0)]
    near = 1e-9 + 1e-7 * max(map(abs, (*one, *other)))
    along = min(step[0] for step in steps if abs(step[1]) < near and step[0] > near)
    across = min(step[1] for step in steps if abs(step[0]) < near and step[1] > near)
    return float(along), float(across)


Shape = shapely.geometry.base.BaseGeometry


def _rings(paving: Paving, shapes: Sequence[Shape], scale: Scale) -> list[str]:
    """The outline of each as a path."""
    rings = paving.rings_on_site(shapes)
    return [path([scale.to_sheet((x, y)) for x, y in ring.tolist()], closed=True) for ring in rings]


def _all(paving: Paving, shapes: Sequence[Shape], scale: Scale) -> str:
    return "".join(_rings(paving, shapes, scale))


def _cut(group: Element, paving: Paving, pieces: Sequence[PavingPiece], scale: Scale, css: Sequence[str]) -> None:
    """Pieces one by one, each by its name, to be touched."""
    rings = _rings(paving, [piece.shape for piece in pieces], scale)
    for piece, of, d in zip(pieces, css, rings, strict=True):
        add(group, "path", class_=f"unit {of}", data_piece=piece.name, d=d)


def _sizes(pieces: Sequence[PavingPiece]) -> list[str]:
    return ["sliver" if piece.is_small else "cut" for piece in pieces]


def _line(paving: Paving, ends: Iterable[tuple[float, float]], scale: Scale) -> str:
    """A line through places as one sees them from the string."""
    design = paving.design
    cos, sin = math.cos(design.along), math.sin(design.along)
    at = [(design.at[0] + cos * x - sin * y, design.at[1] + sin * x + cos * y) for x, y in ends]
    return path([scale.to_sheet(place) for place in at])


def _string(root: Element, paving: Paving, scale: Scale) -> None:
    x0, _y0, x1, _y1 = paving.seen.bounds
    y = paving.design.string
    add(root, "path", class_="string", d=_line(paving, [(x0 - 0.15, y), (x1 + 0.15, y)], scale))


def _rows(root: Element, paving: Paving, scale: Scale, step: int = 10) -> None:
    """Rows by their numbers, every `step`, at their left."""
    group = add(root, "g", class_="row-numbers")
    for number, row in paving.rows.items():
        if number % step or number == 0:
            continue
        y = paving.design.string + paving.far_face(number) - paving.design.pitch / 2
        ((x, top),) = _spots(paving, [(row.low, y)], scale)
        add(group, "text", str(number), x=x - 7, y=top + 4, class_="row-number", text_anchor="end")


def _spots(paving: Paving, places: Sequence[tuple[float, float]], scale: Scale) -> list[tuple[float, float]]:
    design = paving.design
    cos, sin = math.cos(design.along), math.sin(design.along)
    return [
        scale.to_sheet((design.at[0] + cos * x - sin * y, design.at[1] + sin * x + cos * y)) for x, y in places
    ]  # fmt: skip


@kept
def course_drawing(assessment: Assessment, unit: Unit, row: int, where: str) -> SafeString:
    """Rows on the plan: those to tape, those taped as they lie, drawn out, what is laid; where one tapes now."""
    job, there = assessment.site, assessment.laying
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Rows of {job}").format(job=job.name), "plan courses")
    placed_on_the_ground(root, scale)
    _ground(root, job, scale)
    paving = there.paving
    if paving is None:
        return finished(root)
    design = paving.design
    for name, value in (("along", design.along), ("x", design.at[0]), ("y", design.at[1]), ("string", design.string),
                        ("pitch", there.module)):  # fmt: skip
        root.set(f"data-{name}", f"{value:.5f}")
    root.set("data-first", str(paving.first_row))
    root.set("data-last", str(max(paving.rows, default=1)))
    if there.laid_rows:
        _laid(root, paving, there.laid_rows, scale)
    _string(root, paving, scale)
    for number in there.to_tape:
        each, y = paving.rows[number], design.string + there.targets[number]
        add(root, "path", class_="row-line", d=_line(paving, [(each.low, y), (each.high, y)], scale))
        ((x, top),) = _spots(paving, [(each.low, y)], scale)
        add(root, "text", str(number), class_="row-number", x=x - 7, y=top + 4, text_anchor="end")
    for number, taped in there.taped.items():
        each = paving.rows[number]
        at = dict(zip(WHERE, each.places(), strict=True))
        places = [(at[w], design.string + taped.target + off * DRAWN_OUT / LINES)
                  for w, off in sorted(taped.off.items(), key=lambda pair: WHERE.index(pair[0]))]  # fmt: skip
        group = add(root, "g", class_=f"row-taped {CALL_CSS[taped.call]}")
        add(group, "path", d=_line(paving, places, scale))
        offs = [taped.off[w] for w in WHERE if w in taped.off]
        for (x, y), off in zip(_spots(paving, places, scale), offs, strict=True):
            add(group, "circle", cx=x, cy=y, r=4)
            if abs(off) >= 0.0005:
                sign = "+" if off > 0 else "−"
                add(group, "text", f"{sign}{format_amount(off, unit).removesuffix(' mm')}", x=x, y=y - 8,
                    class_="row-off", text_anchor="middle")  # fmt: skip
    if row in there.targets:
        at = dict(zip(WHERE, paving.rows[row].places(), strict=True))
        ((x, y),) = _spots(paving, [(at[where], design.string + there.targets[row])], scale)
        add(root, "circle", class_="chosen", cx=x, cy=y, r=12)
    scale_bar(root, scale, height, unit)
    return finished(root)


def _laid(root: Element, paving: Paving, row: int, scale: Scale) -> None:
    """What is laid, up to a row."""
    top = paving.design.string + paving.far_face(row)
    x0, y0, x1, _y1 = paving.seen.bounds
    part = shapely.intersection(paving.seen, shapely.box(x0, y0, x1, max(top, y0 + 1e-6)))
    shapes = [each for each in shapely.get_parts(part) if isinstance(each, shapely.Polygon)]
    add(root, "path", class_="laid-part", d=_all(paving, shapes, scale))


@kept
def cut_drawing(assessment: Assessment, unit: Unit, chosen: str) -> SafeString:
    """Cut pieces on the plan, those done filled; the one in hand ringed, with its number, and the next few."""
    job, there = assessment.site, assessment.laying
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Cuts of {job}").format(job=job.name), "plan cuts")
    _ground(root, job, scale)
    if there.paving is None:
        return finished(root)
    group = add(root, "g", class_="cut-units")
    following = [cut.number for cut in there.cuts if cut.piece.name not in there.done][:6]
    pieces = [cut.piece for cut in there.cuts]
    css = ["done" if p.name in there.done else of for p, of in zip(pieces, _sizes(pieces), strict=True)]
    _cut(group, there.paving, pieces, scale, css)
    for cut in there.cuts:
        if cut.piece.name != chosen and cut.number not in following[:1]:
            continue
        spot = cut.piece.shape.representative_point()
        ((x, y),) = _spots(there.paving, [(spot.x, spot.y)], scale)
        if cut.piece.name == chosen:
            add(root, "circle", class_="chosen", cx=x, cy=y, r=12)
        add(root, "text", str(cut.number), class_="row-number", x=x, y=y - 14, text_anchor="middle")
    scale_bar(root, scale, height, unit)
    return finished(root)


@lru_cache(maxsize=64)
def pattern_swatch(pattern: PavingPattern, turned: int = 0) -> SafeString:
    """A pattern by itself, to choose it by."""
    unit = PavingUnit(0.2, 0.1, 0.006)
    per_metre = SWATCH / 0.84
    root = sheet(SWATCH, SWATCH * 0.75, pattern.title, "plan swatch-pattern")
    root.set("aria-hidden", "true")
    group = add(root, "g")
    if turned:
        group.set("transform", f"rotate({-turned} {SWATCH / 2:.0f} {SWATCH * 0.375:.0f})")
    d = ""
    for (long, across), places in pattern.placed(unit, (-0.3, -0.3, 1.2, 1.0)):
        for x, y in places.tolist():
            left, top = x * per_metre, SWATCH * 0.75 - (y + across) * per_metre
            d += f"M{left:.1f} {top:.1f}h{long * per_metre:.1f}v{across * per_metre:.1f}h-{long * per_metre:.1f}z"
    add(group, "path", class_="unit", d=d)
    return finished(root)


def layout_sheet(job: Job, paving: Paving, unit: Unit, numbers: Iterable[tuple[str, int]]) -> SafeString:
    """The layout to print: every unit drawn, rows numbered, cuts by their number in the list."""
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Layout of {job}").format(job=job.name), "plan layout")
    _ground(root, job, scale)
    add(root, "path", class_="unit", d=_all(paving, [p.shape for p in paving.pieces.values() if p.is_whole], scale))
    _cut(root, paving, paving.cut, scale, _sizes(paving.cut))
    _string(root, paving, scale)
    _rows(root, paving, scale, 5)
    for name, number in numbers:
        spot = paving.pieces[name].shape.representative_point()
        ((x, y),) = _spots(paving, [(spot.x, spot.y)], scale)
        add(root, "text", str(number), class_="cut-number", x=x, y=y + 2, text_anchor="middle")
    scale_bar(root, scale, height, unit)
    return finished(root)


def rings(paving: Paving) -> tuple[tuple[list[Floats], str], ...]:
    """Every unit's outline on site, whole, cut and border apart, to write into a file."""
    kinds: dict[str, list[Floats]] = {"WHOLE": [], "CUT": [], "BORDER": []}
    pieces = tuple(paving.pieces.values())
    for piece, ring in zip(pieces, paving.rings_on_site([piece.shape for piece in pieces]), strict=True):
        kinds["BORDER" if not piece.row else "WHOLE" if piece.is_whole else "CUT"].append(ring)
    return tuple((found, layer) for layer, found in kinds.items())
