"""A cone log as a drawing: depth downward to scale, the blows as read, and the layers they come to."""

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.brief import ConeLog
from groundwork.measures import INCH, Unit, format_amount
from groundwork.strength import layers
from nivelum.drawing.pen import add, finished, path, sheet

WIDTH, HEIGHT = 360.0, 320.0
LEFT, RIGHT, TOP, BOTTOM = 64.0, 150.0, 26.0, 14.0


def cone_drawing(log: ConeLog, unit: Unit) -> SafeString:
    """Depth against blows with the layers beside it, each with its CBR."""
    root = sheet(WIDTH, HEIGHT, _("Cone log {name}").format(name=log.name), "cone")
    deepest, most = log.depths[-1], log.blows[-1]
    per_metre, per_blow = (HEIGHT - TOP - BOTTOM) / deepest, (WIDTH - LEFT - RIGHT) / most
    for layer in layers(log):
        upper, lower = TOP + layer.top * per_metre, TOP + layer.bottom * per_metre
        add(root, "path", class_="tick", d=path([(LEFT - 8, lower), (WIDTH - RIGHT + 10, lower)]))
        add(
            root,
            "text",
            format_amount(layer.bottom, unit),
            x=LEFT - 12,
            y=lower + 5,
            text_anchor="end",
            class_="figure",
        )
        middle = (upper + lower) / 2
        add(root, "text", f"CBR {layer.cbr:.2g}", x=WIDTH - RIGHT + 18, y=middle, class_="figure")
        a_blow = f"{layer.penetration * 1000:.0f} mm" if unit.is_metric else f"{layer.penetration / INCH:.2g}″"
        add(root, "text", _("{step} a blow").format(step=a_blow), x=WIDTH - RIGHT + 18, y=middle + 16, class_="what")
    points = [(LEFT + b * per_blow, TOP + d * per_metre) for b, d in zip(log.blows, log.depths, strict=True)]
    add(root, "path", class_="driven", d=path(points))
    for x, y in points:
        add(root, "circle", class_="driven-at", cx=x, cy=y, r=2.4)
    add(root, "path", class_="tick", d=path([(LEFT, TOP), (LEFT, HEIGHT - BOTTOM)]))
    add(root, "text", _("{n} blows").format(n=most), x=WIDTH - RIGHT, y=16, text_anchor="end", class_="what")
    return finished(root)
