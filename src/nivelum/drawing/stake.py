"""The stake: a rule standing at one station, to scale, with every layer, the formation and what was read."""

from collections.abc import Callable
from dataclasses import dataclass

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.base import BaseSpecification, SurfaceKey
from groundwork.measures import Unit, format_amount, format_level
from groundwork.survey import StationAnswer, Survey
from nivelum.drawing.glyphs import CSS
from nivelum.drawing.pen import Element, add, finished, path, sheet

WIDTH, HEIGHT = 240.0, 590.0
LEFT, RIGHT, TOP = 68.0, 122.0, 34.0
LINE_HEIGHT = 17.0


@dataclass
class Label:
    """Text wanted at `y`, moved to `placed` where others stand in its way."""

    y: float
    lines: tuple[tuple[str, str], ...]
    placed: float = 0.0

    @property
    def height(self) -> float:
        return LINE_HEIGHT * len(self.lines)


def spread(labels: list[Label], top: float, bottom: float) -> None:
    """Moves labels apart, as little as a pass down and a pass up need, between `top` and `bottom`."""
    labels.sort(key=lambda label: label.y)
    edge = top
    for label in labels:
        label.placed = max(label.y - label.height / 2, edge)
        edge = label.placed + label.height + 3
    edge = bottom
    for label in reversed(labels):
        label.placed = min(label.placed, edge - label.height)
        edge = label.placed - 3


def stake(assessment: Assessment, survey: Survey, answer: StationAnswer, unit: Unit) -> SafeString:
    """The stake at the station of `answer`; depth runs down from the finished surface. The surface being levelled
    shows the room it has."""
    specification, judgement = assessment.job.specification, answer.judgement
    tolerance, at = survey.tolerance, survey.surface.depth
    depth = specification.excavation_depth
    read = None if judgement.level is None else answer.finished - judgement.level
    top, bottom = min(0.0, read or 0.0), max(depth + max(tolerance.low, 0.03), read or 0.0)
    per_metre = (HEIGHT - TOP - 92) / (bottom - top)

    def y_at(below: float) -> float:
        return TOP + (below - top) * per_metre

    title = _("Stake at {station}, drawn to scale").format(station=answer.station.name)
    root = sheet(WIDTH, HEIGHT, title, "stake")
    root.set("preserveAspectRatio", "xMidYMin meet")
    end = y_at(bottom)
    soil = [(LEFT, y_at(depth)), (RIGHT, y_at(depth)), (RIGHT, end + 34), ((LEFT + RIGHT) / 2, end + 70)]
    add(root, "path", class_="ground", d=path([*soil, (LEFT, end + 34)], closed=True))
    labels = [Label(y_at(0), ((_("finished"), "what"), (format_level(answer.finished, unit), "figure")))]
    labels += _layers(root, specification, y_at, unit)
    high, low = y_at(at - tolerance.high), y_at(at + tolerance.low)
    add(root, "rect", class_="room", x=LEFT - 12, y=high, width=RIGHT - LEFT + 24, height=low - high)
    for surface in assessment.surveys.levelled:
        css = "aim" if surface.key == survey.surface.key else "lift-top"
        if css == "aim" or surface.is_covered:
            add(
                root,
                "path",
                class_=css,
                d=path([(LEFT - 22, y_at(surface.depth)), (RIGHT + 12, y_at(surface.depth))]),
            )
    bottom_level = answer.finished - depth
    formation = ((_("formation"), "what formation"), (format_level(bottom_level, unit), "figure formation"))
    labels.append(Label(y_at(depth), formation))
    if survey.surface.kind not in (SurfaceKey.FORMATION, SurfaceKey.FINISHED):
        labels.append(Label(y_at(at), ((format_level(answer.design, unit), "figure aimed"),)))
    if read is not None and judgement.level is not None:
        css = f"v-{CSS[judgement.standing]}"
        add(root, "path", class_=f"read {css}", d=path([(LEFT - 22, y_at(read)), (RIGHT + 12, y_at(read))]))
        figure = _("read {level}").format(level=format_level(judgement.level, unit))
        labels.append(Label(y_at(read), ((figure, f"figure {css}"),)))
    spread(labels, TOP - 20, HEIGHT - 20)
    for label in labels:
        middle = label.placed + label.height / 2
        add(root, "path", class_="leader", d=path([(RIGHT + 12, label.y), (RIGHT + 22, middle)]))
        for number, (text, css) in enumerate(label.lines):
            add(root, "text", text, x=RIGHT + 26, y=label.placed + 13 + number * LINE_HEIGHT, class_=css)
    return finished(root)


def _layers(
    root: Element, specification: BaseSpecification, y_at: Callable[[float], float], unit: Unit
) -> list[Label]:
    """Draws the layers with their depths at the left; returns the labels for the right."""
    labels, depth, last_tick = [], 0.0, -100.0
    for layer in specification.layers:
        thickness = specification.compacted(layer)
        upper, lower = y_at(depth), y_at(depth + thickness)
        css = layer.role.replace(" ", "-")
        add(root, "rect", class_="layer", x=LEFT, y=upper, width=RIGHT - LEFT, height=lower - upper,
            fill=f"url(#{css})")  # fmt: skip
        labels.append(
            Label((upper + lower) / 2, ((_(layer.role), "what"), (format_amount(thickness, unit), "figure")))
        )
        depth += thickness
        if lower - last_tick > 14:
            add(root, "path", class_="tick", d=path([(LEFT - 8, lower), (LEFT, lower)]))
            add(root, "text", format_amount(depth, unit).removesuffix(" mm"), x=LEFT - 26, y=lower + 5,
                class_="depth", text_anchor="end")  # fmt: skip
            last_tick = lower
    return labels
