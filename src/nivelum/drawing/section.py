"""The base as a section, true to scale both ways, with levels at the left and what each layer is at the right."""

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.base import BaseSpecification, Layer, Role, SurfaceKey
from groundwork.measures import Unit, format_amount, format_level, in_system
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.stake import Label, spread

WIDTH, HEIGHT = 800.0, 352.0
LEFT, RIGHT, TOP, SOIL = 92.0, 500.0, 26.0, 40.0
NARROW = 200.0
PAVER_LENGTH, JOINT = 0.200, 0.004


def css_of(layer: Layer) -> str:
    return layer.role.replace(" ", "-")


def section(
    specification: BaseSpecification,
    finished_level: float,
    unit: Unit,
    depth_shown: float | None = None,
    editable: bool = False,
    narrow: bool = False,
) -> SafeString:
    """The section where the finished surface is at `finished_level`; on the same scale across and down.

    `depth_shown` sets the scale, so that two sections can be told apart; an `editable` one has a handle under each
    layer, which the page's script moves; a `narrow` one leaves out levels and materials."""
    per_metre = (HEIGHT - TOP - SOIL - 4) / (depth_shown or specification.excavation_depth)
    formation = TOP + specification.excavation_depth * per_metre
    root = sheet(WIDTH, HEIGHT, _("Section of the base, drawn to scale"), "section")
    left = RIGHT - NARROW if narrow else LEFT
    root.set("data-per-metre", f"{per_metre:.4f}")
    if narrow:
        root.set("viewBox", f"{left - 6:.0f} {TOP - 6:.0f} {RIGHT - left + 240:.0f} {HEIGHT - TOP + 6:.0f}")
    add(root, "rect", class_="ground", x=left, y=formation, width=RIGHT - left, height=SOIL)
    labels, handles = [], []
    below = 0.0
    for place, layer in enumerate(specification.layers):
        of_its_role = specification.roles[:place].count(layer.role)
        thickness = specification.compacted(layer)
        upper, lower = TOP + below * per_metre, TOP + (below + thickness) * per_metre
        add(root, "rect", class_="layer", x=left, y=upper, width=RIGHT - left, height=lower - upper,
            fill=f"url(#{css_of(layer)})")  # fmt: skip
        if layer.role is Role.PAVING:
            _joints(root, left, upper, lower, per_metre, specification.details.joint.width)
        made_of = f"{format_amount(thickness, unit)} {_(layer.role)}"
        lines = ((made_of, "figure"), (in_system(_(layer.made_of.title), unit), "what"))
        labels.append(Label((upper + lower) / 2, lines[:1] if narrow else lines))
        if layer.role in specification.details.fabric_under:
            add(root, "path", class_="fabric", d=_fabric(left, lower))
        handles.append((f"id_{css_of(layer)}-{of_its_role}-thickness", lower))
        below += thickness
    if not narrow:
        _levels(root, specification, finished_level, per_metre, unit)
    spread(labels, 4, HEIGHT - 4)
    for label in labels:
        middle = label.placed + label.height / 2
        add(root, "path", class_="leader", d=path([(RIGHT - 12, label.y), (RIGHT + 14, middle)]))
        for number, (text, css) in enumerate(label.lines):
            add(root, "text", text, x=RIGHT + 20, y=label.placed + 13 + number * 17, class_=css)
    add(root, "text", _("soil"), x=(left + RIGHT) / 2, y=formation + SOIL / 2 + 5, class_="soil")
    for field, lower in handles if editable else ():
        handle = add(root, "g", class_="handle", transform=f"translate({(LEFT + RIGHT) / 2:.0f} {lower:.1f})")
        handle.set("data-field", field)
        add(handle, "rect", x=LEFT - (LEFT + RIGHT) / 2, y=-11, width=RIGHT - LEFT, height=22)
        add(handle, "path", d="M-16 -3H16M-16 3H16")
    return finished(root)


def _fabric(left: float, y: float) -> str:
    """A stitched line along the underside of a layer, turned up at its ends."""
    return f"M{left:.0f} {y - 18:.1f}V{y - 4:.1f}H{RIGHT:.0f}V{y - 18:.1f}"


def _joints(root: Element, left: float, upper: float, lower: float, per_metre: float, joint: float) -> None:
    x = left + PAVER_LENGTH * per_metre * 0.6
    width = max(1.5, (joint or JOINT) * per_metre)
    while x < RIGHT - width:
        add(root, "rect", class_="joint", x=x, y=upper, width=width, height=lower - upper)
        x += PAVER_LENGTH * per_metre + width


def _levels(
    root: Element, specification: BaseSpecification, finished_level: float, per_metre: float, unit: Unit
) -> None:
    """Each surface's level at the left, the formation's in its own colour."""
    labels = [
        Label(
            TOP + surface.depth * per_metre,
            ((format_level(finished_level - surface.depth, unit), f"figure {surface.key}"),),
        )
        for surface in specification.surfaces
        if surface.depth >= 0
    ]
    spread(labels, 10, HEIGHT - 10)
    for label in labels:
        css = "formation" if SurfaceKey.FORMATION in label.lines[0][1] else "tick"
        right = RIGHT if css == "formation" else LEFT
        add(root, "path", class_=css, d=path([(LEFT - 14, label.y), (right, label.y)]))
        add(root, "text", label.lines[0][0], x=LEFT - 18, y=label.placed + 14, text_anchor="end",
            class_=label.lines[0][1])  # fmt: skip
