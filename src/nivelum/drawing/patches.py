"""An area in patches on the plan: how often each was gone over."""

import shapely
from django.utils.http import urlencode
from django.utils.translation import gettext as _

from groundwork.lifts import Coverage
from groundwork.surfaces import Point
from nivelum.drawing.pen import Element, add, path
from nivelum.drawing.surroundings import Scale


def middle_of(area: shapely.Polygon) -> Point:
    """A place well inside."""
    inside = area.representative_point()
    return float(inside.x), float(inside.y)


def gone_patterns(root: Element) -> None:
    """Strokes one way for passes one way, crossed for both, close together once it is enough."""
    defs = add(root, "defs")
    for name, size, lines in (
        ("along", 16, "M8 0V16"),
        ("across", 16, "M0 8H16"),
        ("both", 16, "M8 0V16M0 8H16"),
        ("enough", 8, "M4 0V8M0 4H8"),
    ):
        tile = add(defs, "pattern", id=f"gone-{name}", width=size, height=size, patternUnits="userSpaceOnUse")
        add(tile, "path", d=lines, class_="gone-line")


def gone_patch(
    root: Element, of: Coverage, left: int | None, scale: Scale, chosen: str, way_in: dict[str, str]
) -> None:  # fmt: skip
    """A patch with how often it was gone over and how many passes are left; it links to itself, after what leads to
    its page."""
    name = of.patch.name
    link = add(root, "a", href="?" + urlencode(way_in | {"patch": name}), data_patch=name)
    way = "enough" if of.is_done else "both" if of.along and of.across else "along" if of.along else "across"
    link.set("class", "patch" + (" chosen" if name == chosen else ""))
    rings = [of.patch.outline.exterior, *of.patch.outline.interiors]
    d = "".join(path([scale.to_sheet(p) for p in ring.coords[:-1]], closed=True) for ring in rings)
    add(link, "path", d=d, class_="gone", fill=f"url(#gone-{way})" if of.passes else "none")
    x, y = scale.to_sheet(middle_of(of.patch.outline))
    add(link, "text", str(of.passes), x=x, y=y + 6, class_="count")
    more = "" if left is None else _("enough") if left == 0 else _("{n} more").format(n=left)
    named = _("patch {n}").format(n=name)
    add(link, "text", f"{named} · {more}" if more else named, x=x, y=y + 25, class_="patch-name")
