"""The marks of the verdicts, drawn for Nivelum: what was found, against a level line."""

from functools import lru_cache

from django.utils.safestring import SafeString
from lxml import etree

from groundwork.verdict import Standing
from nivelum.drawing.pen import Element, add, finished, sheet, textures

LINE = "M-11 0H11"
CSS = {
    Standing.UNSHOT: "unshot",
    Standing.UNKNOWN: "unknown",
    Standing.GOOD: "good",
    Standing.MADE_GOOD: "good",
    Standing.TOO_CLOSE: "close",
    Standing.DIG: "dig",
    Standing.OVER_DUG: "low",
    Standing.FILLED: "close",
    Standing.UNEXPLAINED: "low",
    Standing.UNSOUND_FILL: "low",
    Standing.HIGH: "dig",
    Standing.LOW: "low",
}


def glyph(parent: Element, standing: Standing) -> Element:
    """Draws the mark of `standing` around the origin, 24 units wide."""
    mark = add(parent, "g", class_=f"glyph v-{CSS[standing]}")
    match standing:
        case Standing.UNSHOT:
            add(mark, "path", class_="s", d="M-5 0H5M0 -5V5")
        case Standing.UNKNOWN:
            add(mark, "circle", class_="s", r=7, stroke_dasharray="4 3")
            add(mark, "path", class_="s", d="M-5 5L5 -5")
        case Standing.GOOD:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "circle", class_="f", r=5)
        case Standing.MADE_GOOD:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "circle", class_="f", r=5)
            add(mark, "path", class_="f", d="M-9 8l3 -4l3 4l-3 3zM-2 10l3 -3l3 3l-3 3zM5 8l3 -4l3 4l-3 3z")
        case Standing.TOO_CLOSE:
            add(mark, "path", class_="s", d="M-13 0H-6M6 0H13")
            add(mark, "circle", class_="s", r=5)
        case Standing.DIG | Standing.HIGH:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "path", class_="f", d="M-8 -14H8L0 -2Z")
        case Standing.OVER_DUG | Standing.LOW:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "path", class_="s", d="M-7 12H7L0 2.5Z")
        case Standing.FILLED:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "path", class_="s", d="M-8 4H8L5 12H-5Z")
            add(mark, "path", class_="s", d="M-3 8h.5M2 8h.5")
        case Standing.UNEXPLAINED:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "path", class_="s", d="M-3 4.5a3 3 0 1 1 3.6 3v1.6M.6 12.5h.1")
        case Standing.UNSOUND_FILL:
            add(mark, "path", class_="s", d=LINE)
            add(mark, "path", class_="s", d="M-5 4L5 13M5 4L-5 13")
    return mark


def symbol(standing: Standing) -> str:
    """The name under which a page's `definitions` hold the mark of `standing`."""
    return f"mark-{standing.name.lower().replace('_', '-')}"


def definitions() -> Element:
    """What drawings refer to by name: the marks for their `use` elements, the patterns for their fills."""
    defs = etree.Element("defs")
    textures(defs)
    for standing in Standing:
        glyph(defs, standing).set("id", symbol(standing))
    return defs


@lru_cache(maxsize=1)
def every_definition() -> SafeString:
    """All of them, for a page: once, however many drawings it has."""
    root = sheet(0, 0, "", "sr-only")
    root.attrib.pop("role")
    root.set("aria-hidden", "true")
    root.append(definitions())
    return finished(root)


@lru_cache(maxsize=256)
def lone_glyph(standing: Standing, label: str) -> SafeString:
    """A mark by itself, for legends and banners."""
    root = sheet(32, 32, label, "mark")
    root.set("role", "img")
    glyph(add(root, "g", transform="translate(16 16)"), standing)
    return finished(root)
