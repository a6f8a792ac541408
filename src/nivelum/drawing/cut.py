"""A cut across the plan as a drawing: layers, formation, existing ground and the heights it has to meet."""

from dataclasses import dataclass

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.base import BaseSpecification, Role
from groundwork.brief import FixedHeight, HeightKind
from groundwork.job import Cut, Job
from groundwork.measures import Unit, format_distance, format_level
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.section import css_of
from nivelum.drawing.stake import Label, spread

WIDTH, HEIGHT = 620.0, 196.0
LEFT, RIGHT, TOP, BOTTOM = 100.0, 16.0, 26.0, 26.0
STEPS = (1, 2, 5, 10, 20, 50)


@dataclass(frozen=True)
class Frame:
    """Metres along and up to units on the sheet."""

    along: float
    up: float
    highest: float

    def at(self, distance: float, level: float) -> tuple[float, float]:
        return LEFT + distance * self.along, TOP + (self.highest - level) * self.up


def cut_drawing(job: Job, cut: Cut, unit: Unit) -> SafeString:
    """The cut from A at the left to B at the right; heights are drawn larger than lengths, and it says how much."""
    specification = job.specification
    depth = specification.excavation_depth
    levels = [level for s in cut.stretches for level in (s.start_level, s.end_level)]
    ground = [level for run in cut.ground for _distance, level in run]
    marks = [height.level for _distance, height in cut.heights]
    highest = max([*levels, *ground, *marks]) + 0.03
    lowest = min([min(levels) - depth, *ground, *marks]) - 0.06
    along = (WIDTH - LEFT - RIGHT) / cut.length
    times = max(step for step in STEPS if step == 1 or step * along * (highest - lowest) <= HEIGHT - TOP - BOTTOM)
    frame = Frame(along, along * times, highest)
    height = TOP + (highest - lowest) * frame.up + BOTTOM
    root = sheet(WIDTH, height, _("Cut from A to B"), "cut-drawing")
    _soil(root, job, cut, frame, height)
    for crossing in cut.crossings:
        if crossing.kind == "building":
            start = frame.at(max(0.0, crossing.start), highest)[0]
            end = frame.at(min(cut.length, crossing.end), highest)[0]
            add(root, "rect", class_="building", x=start, y=4.0, width=max(2.0, end - start), height=height - BOTTOM)
    below = 0.0
    for layer in specification.layers:
        thickness = specification.compacted(layer)
        over = 0.0 if layer.role in (Role.PAVING, Role.BEDDING) else specification.details.margin
        _band(root, cut, frame, below, below + thickness, over, f"url(#{css_of(layer)})")
        below += thickness
    _line(root, cut, frame, depth, specification.details.margin, "formation")
    _line(root, cut, frame, 0.0, 0.0, "finished-line")
    for run in cut.ground:
        add(root, "path", class_="existing", d=path([frame.at(d, level) for d, level in run]))
    _drains(root, cut, frame)
    for distance, fixed in cut.heights:
        _height(root, frame, distance, fixed, unit)
    _levels(root, cut, specification, frame, unit, height)
    add(root, "text", "A", x=LEFT + 8, y=height - 8, class_="end")
    add(root, "text", "B", x=WIDTH - RIGHT - 8, y=height - 8, class_="end")
    said = _("{length} from A to B; heights × {times}").format(length=format_distance(cut.length, unit), times=times)
    add(root, "text", said, x=LEFT + 30, y=height - 10, class_="what")
    return finished(root)


def _edges(cut: Cut, over: float) -> list[tuple[float, float]]:
    """The finished surface as (distance, level), run on level by `over` beyond its outer ends."""
    points: list[tuple[float, float]] = []
    for stretch in cut.stretches:
        points += [(stretch.start, stretch.start_level), (stretch.end, stretch.end_level)]
    first, last = points[0], points[-1]
    return [(first[0] - over, first[1]), *points, (last[0] + over, last[1])] if over else points


def _band(root: Element, cut: Cut, frame: Frame, upper: float, lower: float, over: float, fill: str) -> None:
    edges = _edges(cut, over)
    top = [frame.at(distance, level - upper) for distance, level in edges]
    bottom = [frame.at(distance, level - lower) for distance, level in reversed(edges)]
    add(root, "path", class_="layer", d=path([*top, *bottom], closed=True), fill=fill)


def _line(root: Element, cut: Cut, frame: Frame, below: float, over: float, css: str) -> None:
    add(root, "path", class_=css, d=path([frame.at(d, level - below) for d, level in _edges(cut, over)]))


def _soil(root: Element, job: Job, cut: Cut, frame: Frame, height: float) -> None:
    """Ground under the formation, and up to the existing surface where that is known."""
    depth, margin = job.specification.excavation_depth, job.specification.details.margin
    formation = [frame.at(d, level - depth) for d, level in _edges(cut, margin)]
    floor = height - BOTTOM + 6
    points = [(formation[0][0], floor), *formation, (formation[-1][0], floor)]
    add(root, "path", class_="ground", d=path(points, closed=True))
    left, right = frame.at(0, 0)[0], frame.at(cut.length, 0)[0]
    for edge, beyond, (x, y) in (("first", left, formation[0]), ("last", right, formation[-1])):
        outer = cut.stretches[0].start_level if edge == "first" else cut.stretches[-1].end_level
        top = frame.at(0, outer - 0.02)[1]
        add(
            root,
            "path",
            class_="ground",
            d=path([(beyond, floor), (beyond, top), (x, top), (x, y), (x, floor)], True),
        )


def _drains(root: Element, cut: Cut, frame: Frame) -> None:
    for crossing in cut.crossings:
        if crossing.kind in ("drain", "kerb"):
            middle = (crossing.start + crossing.end) / 2
            nearest = min(
                ((s.start, s.start_level) if abs(s.start - middle) < abs(s.end - middle) else (s.end, s.end_level)
                 for s in cut.stretches), key=lambda end: abs(end[0] - middle),
            )  # fmt: skip
            x, y = frame.at(middle, nearest[1])
            shape = "M-6 0H6V22H-6ZM-3 0V16M0 0V16M3 0V16" if crossing.kind == "drain" else "M-4 -4H4V26H-4Z"
            mark = add(root, "path", class_=f"{crossing.kind}-cut", d=shape, transform=f"translate({x:.1f} {y:.1f})")
            add(mark, "title", crossing.name or _(crossing.kind))


def _height(root: Element, frame: Frame, distance: float, fixed: FixedHeight, unit: Unit) -> None:
    x, y = frame.at(distance, fixed.level)
    css = "damp" if fixed.kind is HeightKind.DAMP_PROOF_COURSE else "fixed"
    add(root, "path", class_=css, d=path([(x - 24, y), (x + 24, y)]))
    anchor = "end" if x > WIDTH * 0.6 else "start"
    text = f"{fixed.name} {format_level(fixed.level, unit)}"
    add(root, "text", text, x=x + (24 if anchor == "end" else -24), y=y - 7, text_anchor=anchor, class_=f"{css}-name")


def _levels(
    root: Element, cut: Cut, specification: BaseSpecification, frame: Frame, unit: Unit, height: float
) -> None:
    """Finished and formation levels at A's end of the area, and the finished ones where facets meet."""
    first = cut.stretches[0]
    depth = specification.excavation_depth
    labels = [
        Label(frame.at(0, level)[1], ((format_level(level, unit), css),))
        for level, css in ((first.start_level, "figure"), (first.start_level - depth, "figure formation"))
    ]
    spread(labels, 6, height - 8)
    for label in labels:
        add(
            root,
            "text",
            label.lines[0][0],
            x=LEFT - 10,
            y=label.placed + 14,
            text_anchor="end",
            class_=label.lines[0][1],
        )
    named = [distance for distance, _height in cut.heights]
    for stretch in cut.stretches:
        if any(abs(distance - stretch.end) * frame.along < 60 for distance in named):
            continue
        x, y = frame.at(stretch.end, stretch.end_level)
        anchor = "end" if x > WIDTH - 90 else "middle"
        add(
            root,
            "text",
            format_level(stretch.end_level, unit),
            x=x,
            y=y - 8,
            text_anchor=anchor,
            class_="figure finished-level",
        )
