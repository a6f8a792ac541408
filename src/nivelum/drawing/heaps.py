"""Heaps of loose material beside the section of the base, all to one scale: where does it go on the site?"""

from collections.abc import Sequence

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.base import BaseSpecification
from groundwork.orders import Heap
from nivelum.drawing.pen import add, finished, path, sheet
from nivelum.drawing.section import css_of

WIDTH, GROUND, GAP = 800.0, 26.0, 14.0
PERSON = 1.75
"""Metres: how tall whoever stands beside it is."""


def heaps_drawing(found: Sequence[Heap], specification: BaseSpecification, broad: float) -> SafeString:
    """The base as dug, `broad` metres of it, somebody to scale, and each heap by its number."""
    strip = min(broad, max((heap.across for heap in found), default=broad))
    metres = strip + 0.9 + sum(heap.across for heap in found)
    scale = (WIDTH - GAP * (len(found) + 3)) / metres
    tall = max([PERSON, *(heap.high for heap in found)])
    height = GROUND + tall * scale + max(specification.excavation_depth * scale, 30.0) + 6
    at, ground = GAP, GROUND + tall * scale
    root = sheet(WIDTH, height, _("Heaps of what comes loose, to scale beside the section"), "heaps")
    add(root, "path", class_="grade", d=path([(0, ground), (WIDTH, ground)]))
    below = ground
    for layer in specification.layers:
        thick = specification.compacted(layer) * scale
        add(
            root,
            "rect",
            class_="layer",
            x=at,
            y=below,
            width=strip * scale,
            height=thick,
            fill=f"url(#{css_of(layer)})",
        )
        below += thick
    at += strip * scale + GAP
    body = PERSON * scale
    add(root, "circle", class_="person", cx=at + 0.3 * scale, cy=ground - body * 0.92, r=body * 0.075)
    add(root, "path", class_="person", d=path([(at + 0.3 * scale, ground - body * 0.84), (at + 0.3 * scale, ground)]))
    at += 0.9 * scale + GAP
    for number, heap in enumerate(found, 1):
        half, top = heap.across / 2 * scale, ground - heap.high * scale
        add(
            root,
            "path",
            class_="heap",
            d=path([(at, ground), (at + half, top), (at + 2 * half, ground)], closed=True),
        )
        add(root, "text", str(number), x=at + half, y=ground + 22, class_="figure", text_anchor="middle")
        at += 2 * half + GAP
    return finished(root)
