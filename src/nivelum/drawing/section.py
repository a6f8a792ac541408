"""The base as a section, true to scale both ways, with depths at the left and levels at the right."""

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.base import Role
from groundwork.job import Job
from groundwork.measure import Unit, format_amount, format_level
from nivelum.drawing.pen import Element, add, finished, path, sheet, textures
from nivelum.drawing.stake import Label, spread

WIDTH, HEIGHT = 760.0, 560.0
LEFT, RIGHT, TOP, SOIL = 92.0, 560.0, 40.0, 74.0
PAVER_LENGTH, JOINT = 0.200, 0.004


def section(job: Job, finished_level: float, unit: Unit) -> SafeString:
    """The section where the finished surface is at `finished_level`; on the same scale across and down."""
    specification = job.specification
    depth = specification.excavation_depth
    per_metre = (HEIGHT - TOP - SOIL - 16) / depth
    root = sheet(WIDTH, HEIGHT, _("Section of the base, drawn to scale"), "section")
    textures(root)
    formation = TOP + depth * per_metre
    add(root, "rect", class_="ground", x=LEFT, y=formation, width=RIGHT - LEFT, height=SOIL)
    labels = []
    below = 0.0
    for layer in specification.layers:
        thickness = specification.compacted(layer)
        upper, lower = TOP + below * per_metre, TOP + (below + thickness) * per_metre
        css = layer.role.replace(" ", "-")
        add(root, "rect", class_="layer", x=LEFT, y=upper, width=RIGHT - LEFT, height=lower - upper,
            fill=f"url(#{css})")  # fmt: skip
        if layer.role is Role.PAVING:
            _joints(root, upper, lower, per_metre)
        made_of = f"{format_amount(thickness, unit)} {_(layer.role)}"
        labels.append(Label((upper + lower) / 2, ((made_of, "figure"), (layer.material, "what"))))
        below += thickness
    _levels(root, job, finished_level, per_metre, unit)
    spread(labels, TOP - 20, formation + 30)
    for label in labels:
        middle = label.placed + label.height / 2
        add(root, "path", class_="leader", d=path([(RIGHT - 12, label.y), (RIGHT + 14, middle)]))
        for number, (text, css) in enumerate(label.lines):
            add(root, "text", text, x=RIGHT + 20, y=label.placed + 13 + number * 17, class_=css)
    add(root, "text", _("soil"), x=(LEFT + RIGHT) / 2, y=formation + SOIL / 2 + 5, class_="soil")
    return finished(root)


def _joints(root: Element, upper: float, lower: float, per_metre: float) -> None:
    x = LEFT + PAVER_LENGTH * per_metre * 0.6
    while x < RIGHT:
        width = max(1.5, JOINT * per_metre)
        add(root, "rect", class_="joint", x=x, y=upper, width=width, height=lower - upper)
        x += (PAVER_LENGTH + JOINT) * per_metre


def _levels(root: Element, job: Job, finished_level: float, per_metre: float, unit: Unit) -> None:
    """Each surface's depth and level at the left, the formation's in its own colour."""
    labels = [
        Label(
            TOP + surface.depth * per_metre,
            ((format_level(finished_level - surface.depth, unit), f"figure {surface.key}"),),
        )
        for surface in job.specification.surfaces
        if surface.depth >= 0
    ]
    spread(labels, 10, HEIGHT - 10)
    for label in labels:
        css = "formation" if "formation" in label.lines[0][1] else "tick"
        right = RIGHT if css == "formation" else LEFT
        add(root, "path", class_=css, d=path([(LEFT - 14, label.y), (right, label.y)]))
        add(root, "text", label.lines[0][0], x=LEFT - 18, y=label.placed + 14, text_anchor="end",
            class_=label.lines[0][1])  # fmt: skip
