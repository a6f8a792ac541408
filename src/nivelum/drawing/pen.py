"""Elements of an SVG drawing. lxml escapes what is written into them."""

import re
from typing import Any

from django.utils.safestring import SafeString, mark_safe
from lxml import etree

from groundwork.measures import cleaned

Element = Any
SVG = "http://www.w3.org/2000/svg"


def sheet(width: float, height: float, label: str, css: str) -> Element:
    """An empty drawing of `width` by `height` units, named for those who do not see it."""
    root = etree.Element("svg", nsmap={None: SVG})  # type: ignore[dict-item]
    root.set("viewBox", f"0 0 {width:.0f} {height:.0f}")
    root.set("class", css)
    root.set("role", "group")
    root.set("aria-label", cleaned(label))
    return root


def group() -> Element:
    """A drawing's part by itself, to be put into it as text: what is `inside` it."""
    return etree.Element("g")


def inside(root: Element) -> str:
    return "".join(etree.tostring(each, encoding="unicode") for each in root)


def add(parent: Element, tag: str, text: str | None = None, **attributes: Any) -> Element:
    """A child with attributes named as in Python: `class_`, `stroke_width`. Numbers are cut to 0.1; fractions of
    an inch in `text` are set as fractions."""
    child = etree.SubElement(parent, tag)
    for name, value in attributes.items():
        shown = f"{value:.1f}" if isinstance(value, float) else str(value)
        child.set(name.rstrip("_").replace("_", "-"), cleaned(shown))
    text = cleaned(text) if text else text  # what was kept before texts were cleaned breaks no drawing
    if text and "/" in text:
        _write(child, text)
    else:
        child.text = text
    return child


def _write(element: Element, text: str) -> None:
    parts = re.split(r"(\d+/\d+)(?=″)", text)
    element.text = parts[0]
    for fraction, after in zip(parts[1::2], parts[2::2], strict=True):
        span = etree.SubElement(element, "tspan")
        span.set("class", "fraction-of")
        span.text, span.tail = fraction, after


def path(points: list[tuple[float, float]], closed: bool = False) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points) + ("Z" if closed else "")


def finished(root: Element) -> SafeString:
    return mark_safe(etree.tostring(root, encoding="unicode"))


def textures(defs: Element) -> None:
    """The materials, as patterns for fills: `url(#soil)`, one for each role of a layer, standing water."""
    strokes = {
        "soil": (30, ["M4 6l5 2", "M19 4l-4 4", "M12 19l6 -1", "M25 24l-4 3", "M5 26l3 -3"]),
        "paving": (40, ["M0 0"]),
        "bedding": (10, ["M2 3h.8", "M7 2h.8", "M5 6.5h.8", "M9 8h.8", "M1 9h.8"]),
        "bound-base": (26, ["M4 8l4 -5l3 6z", "M16 18l5 -3l1 6z", "M18 5h.8", "M7 19h.8", "M13 12h.8"]),
        "base": (22, ["M2 3l5 -2l3 4l-4 3z", "M13 2l6 1l0 4l-5 1z", "M4 13l4 -2l4 3l-3 5l-5 -1z",
                      "M14 12l4 -1l3 4l-4 4l-3 -2z"]),
        "sub-base": (34, ["M2 5l8 -4l6 6l-5 7l-8 -2z", "M20 3l9 1l2 7l-8 3l-5 -5z",
                          "M4 20l7 -3l6 6l-4 8l-8 -3z", "M20 19l7 -3l5 7l-5 7l-7 -3z"]),
    }  # fmt: skip
    for name, (size, lines) in strokes.items():
        pattern = add(
            defs,
            "pattern",
            id=name,
            width=size,
            height=size,
            patternUnits="userSpaceOnUse",
            class_=f"tx {name}",
        )
        add(pattern, "rect", width=size, height=size)
        add(pattern, "path", d="".join(lines))
    hatch = add(defs, "pattern", id="wall", width=9, height=9, patternUnits="userSpaceOnUse", class_="tx wall")
    add(hatch, "rect", width=9, height=9)
    add(hatch, "path", d="M-2 11L11 -2")
    water = add(defs, "pattern", id="ripple", width=22, height=11, patternUnits="userSpaceOnUse")
    add(water, "rect", width=22, height=11)
    add(water, "path", d="M0 4q5.5 -4 11 0t11 0")
