"""A drawing to be looked at by itself, in any program: its colours go with it."""

from collections.abc import Sequence

from django.utils.safestring import SafeString
from lxml import etree

from nivelum.drawing.glyphs import every_definition
from nivelum.drawing.pen import SVG, add

INK, DUST, PAPER, STONE, SLAB, CHALK, DIG, LOW, WATER = (
    "#18222b", "#414c55", "#fbfaf6", "#ece9e1", "#dedacf", "#17409c", "#94300a", "#5f2468", "#6d8ea3",
)  # fmt: skip
STYLE = f"""
text {{ font-family: Archivo, 'Liberation Sans', Arial, sans-serif; font-size: 14px; fill: {INK}; }}
path, circle {{ fill: none; }}
.area {{ fill: {PAPER}; stroke: {INK}; stroke-width: 2.5; }}
.building {{ fill: {SLAB}; stroke: {INK}; stroke-width: 1.5; }}
.kerb {{ stroke: {INK}; stroke-width: 7; }} .free-edge {{ stroke: {PAPER}; stroke-width: 3; stroke-dasharray: 2 9; }}
.drain-bed {{ stroke: {INK}; stroke-width: 10; }}
.drain {{ stroke: {PAPER}; stroke-width: 6; stroke-dasharray: 3 4; }}
.water {{ stroke: {WATER}; stroke-width: 1.5; }} .ridge {{ stroke: {DUST}; stroke-dasharray: 12 5 2 5; }}
.place {{ text-anchor: middle; }}
.fall path, .fall-arrow path, .scale-bar path {{ stroke: {DUST}; stroke-width: 1.8; }}
.deep-low {{ fill: url(#band-deep-low); }} .low {{ fill: url(#band-low); }} .even {{ fill: {PAPER}; }}
.high {{ fill: url(#band-high); }} .deep-high {{ fill: url(#band-deep-high); }}
.flat {{ fill: url(#band-flat); }} .wrong {{ fill: url(#band-wrong); }}
pattern rect {{ fill: {PAPER}; }} .line-deep-low, .line-low {{ stroke: {LOW}; stroke-width: 1.4; }}
.line-deep-high, .line-high, .line-flat, .line-wrong {{ stroke: {DIG}; stroke-width: 1.4; }}
.contour {{ stroke: {INK}; stroke-width: 1.6; }} .contour-value {{ font-weight: 700; text-anchor: middle; }}
.covered {{ fill: {WATER}; fill-opacity: .25; }} .hole {{ stroke: {DIG}; stroke-width: 3; stroke-dasharray: 8 5; }}
.hole-size {{ text-anchor: middle; font-weight: 700; }} .useful {{ stroke: {CHALK}; stroke-width: 3; }}
.glyph .s {{ stroke: {INK}; stroke-width: 2.6; }} .glyph .f {{ fill: {INK}; }} .spot-value {{ font-weight: 700; }}
.cut-line path {{ stroke: {CHALK}; stroke-width: 3; }} .cut-line circle {{ fill: {CHALK}; }}
.unit {{ fill: {PAPER}; stroke: {INK}; stroke-width: .3; }} .unit.cut {{ fill: {SLAB}; }}
.unit.sliver {{ fill: {DIG}; }}
.string {{ stroke: {CHALK}; stroke-width: 2; stroke-dasharray: 8 4; }} .cut-number {{ font-size: 6px; }}
#unknown circle {{ fill: {DUST}; }} .not-known {{ fill: url(#unknown); }}
"""


LINE = 24.0


def standing_alone(drawing: SafeString, title: str, legend: Sequence[tuple[str, str]]) -> str:
    """The drawing as a file of its own, on the colour of its sheet, with the styles it is drawn in, its title and its
    legend: each line's class and what it says."""
    root = etree.fromstring(str(drawing).encode())
    _left, _top, width, height = root.get("viewBox", "0 0 1 1").split()
    tall = float(height) + LINE * (len(legend) + 1.5)
    root.set("viewBox", f"0 0 {width} {tall:.0f}")
    root.set("width", width)
    root.set("height", f"{tall:.0f}")
    add(root, "text", title, x=34, y=float(height) + LINE - 6, font_weight="bold")
    for number, (css, says) in enumerate(legend, start=1):
        y = float(height) + LINE * (number + 0.8)
        if css == "arrow":
            add(root, "path", d=f"M36 {y:.0f}h20m-6 -5l6 5l-6 5", stroke=CHALK, stroke_width=2)
        elif css != "none":
            add(root, "path", class_=css, d=f"M34 {y - 9:.0f}h26v16h-26z", stroke=INK)
        add(root, "text", says, x=70, y=y + 5)
    style = etree.Element(f"{{{SVG}}}style")
    style.text = STYLE
    sheet = etree.Element(f"{{{SVG}}}rect", width="100%", height="100%", fill=STONE)
    root.insert(0, etree.fromstring(str(every_definition()))[0])
    root.insert(0, sheet)
    root.insert(0, style)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8").decode()
