"""The set-out as a plan: the paved line, the dig's line outside it, the lengths taped, and how each peg must move."""

import math

import shapely
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.measures import Unit, format_amount, format_place
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surroundings import Scale, fitted, places_of, scale_bar, surroundings

ARROW = 46.0
"""How long on the sheet the arrow of the farthest peg is."""


def peg_plan(assessment: Assessment, unit: Unit) -> SafeString:
    """Every peg with its name; lengths as taped along their lines, those still to tape dashed."""
    job, pegs = assessment.job, assessment.setting_out.pegs
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Pegs of {job}").format(job=job.name), "plan pegs")
    corners = [scale.to_sheet(p) for p in job.outline]
    surroundings(root, job, scale, tuple(corners))
    margin = job.specification.details.margin
    if margin:
        dug = job.area.buffer(margin, join_style="mitre").exterior.coords[:-1]
        add(root, "path", class_="dug", d=path([scale.to_sheet((x, y)) for x, y in dug], closed=True))
    taped = {frozenset((x.start, x.end)): x.length.metres for x in pegs.lengths}
    where = dict(zip(pegs.names, corners, strict=True))
    doubted = {frozenset(pair) for conflict in pegs.conflicts for pair in conflict.lengths}
    middle = shapely.Polygon(corners).centroid
    for pair in dict.fromkeys([*pegs.still_to_tape, *((x.start, x.end) for x in pegs.lengths)]):
        key = frozenset(pair)
        css = "doubted" if key in doubted else "taped" if key in taped else "to-tape"
        _length(root, where[pair[0]], where[pair[1]], (middle.x, middle.y), taped.get(key), css, unit)
    _moves(root, assessment, scale, unit, where)
    scale_bar(root, scale, height, unit)
    return finished(root)


def _length(
    root: Element,
    start: tuple[float, float],
    end: tuple[float, float],
    middle: tuple[float, float],
    metres: float | None,
    css: str,
    unit: Unit,
) -> None:
    """A line between two pegs with its length beside it, diagonals a third of the way, on the side of the middle."""
    add(root, "path", class_=f"length {css}", d=path([start, end]))
    if metres is None:
        return
    share = 0.5 if math.dist(start, end) < 1 else 0.36
    at = (start[0] + share * (end[0] - start[0]), start[1] + share * (end[1] - start[1]))
    turn = math.degrees(math.atan2(end[1] - start[1], end[0] - start[0]))
    turn = turn - 180 if turn > 90 else turn + 180 if turn <= -90 else turn
    text = add(root, "text", format_place(metres, unit), class_=f"length-of {css}", text_anchor="middle", dy=-5)
    text.set("transform", f"translate({at[0]:.1f} {at[1]:.1f}) rotate({turn:.1f})")


def _moves(
    root: Element, assessment: Assessment, scale: Scale, unit: Unit, where: dict[str, tuple[float, float]]
) -> None:
    """Each peg, and an arrow the way it has to go, drawn out so that it can be seen."""
    answers = {peg.name: peg for peg in assessment.setting_out.pegs.pegs}
    farthest = max((peg.move for peg in answers.values()), default=0.0)
    for name, (x, y) in where.items():
        peg = answers.get(name)
        group = add(root, "g", class_="peg-mark", transform=f"translate({x:.1f} {y:.1f})")
        if peg and not peg.in_place:
            dx, dy = peg.place[0] - peg.stands[0], peg.place[1] - peg.stands[1]
            long = max(24.0, ARROW * peg.move / farthest)
            turn = math.degrees(math.atan2(dx, dy))
            arrow = add(
                group,
                "path",
                class_="move",
                d=f"M0 {-10:.0f}V{-10 - long:.1f}M-6 {-2 - long:.1f}L0 {-11 - long:.1f}L6 {-2 - long:.1f}",
            )
            arrow.set("transform", f"rotate({turn:.1f})")
            ex, ey = math.sin(math.radians(turn)) * (long + 26), -math.cos(math.radians(turn)) * (long + 20)
            add(group, "text", format_amount(peg.move, unit), class_="move-by", x=ex, y=ey + 5, text_anchor="middle")
        css = "out" if peg and not peg.in_place else "right" if peg else "open"
        add(group, "rect", class_=f"head {css}", x=-8, y=-8, width=16, height=16)
        add(
            group,
            "text",
            name,
            class_="peg-name",
            x=0,
            y=-14 if not (peg and not peg.in_place) else 26,
            text_anchor="middle",
        )
