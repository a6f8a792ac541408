"""LandXML 1.2 in and out: its unit of length, its surfaces' places, and areas as parcels of lines and curves. It
writes north before east."""

import math
from collections.abc import Iterator, Sequence
from typing import Any
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml import ElementTree as SafeTree
from django.utils.translation import gettext as _
from lxml import etree

from groundwork.measures import FOOT, SURVEY_FOOT
from groundwork.plan import FARTHEST
from groundwork.shape import KINDS, Island, Ring
from groundwork.surfaces import Point
from nivelum.exchange.files import UnreadableFile

NAMESPACE = "http://www.landxml.org/schema/LandXML-1.2"
LINEAR_UNITS = {
    "meter": 1.0, "millimeter": 0.001, "centimeter": 0.01, "kilometer": 1000.0,
    "foot": FOOT, "ussurveyfoot": SURVEY_FOOT, "inch": FOOT / 12,
}  # fmt: skip
STRAIGHT = 1e-5
"""Metres a curve stands out of its chord at least, to be written as one; a flatter one's centre is too far away."""
JOINED = 1e-4
"""Metres: ends of two sides nearer to each other are one corner."""


def element(parent: Any, tag: str, text: str | None = None, **attributes: str) -> Any:
    child = etree.SubElement(parent, f"{{{NAMESPACE}}}{tag}", attributes)
    child.text = text
    return child


def landxml_root() -> Any:
    """An empty document in metres."""
    root = etree.Element(f"{{{NAMESPACE}}}LandXML", nsmap={None: NAMESPACE}, version="1.2")  # type: ignore[dict-item]
    element(
        element(root, "Units"), "Metric", linearUnit="meter", areaUnit="squareMeter", volumeUnit="cubicMeter",
        temperatureUnit="celsius", pressureUnit="milliBars",
    )  # fmt: skip
    return root


def landxml_text(root: Any) -> str:
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True).decode()


def to_landxml(name: str, ring: Ring, islands: Sequence[Island] = ()) -> str:
    """An area as a parcel, and what in it is not paved as one each, `desc` its kind."""
    root = landxml_root()
    parcels = element(root, "Parcels")
    every = [
        (name, "paved area", ring),
        *((f"{n} {i.name}".strip(), i.kind, i.ring) for n, i in enumerate(islands, 1)),
    ]
    for called, kind, each in every:
        parcel = element(parcels, "Parcel", name=called, desc=kind, area=f"{abs(each.area):.4f}")
        geometry = element(parcel, "CoordGeom", name=called)
        for side in range(len(each.corners)):
            start, end = each.ends(side)
            arc = each.arc(side)
            if arc and (arc.rise < STRAIGHT or arc.radius > FARTHEST / 10):
                arc = None
            turned = {"rot": "ccw" if arc.turn > 0 else "cw", "radius": f"{arc.radius:.6f}"} if arc else {}
            line = element(geometry, "Curve" if arc else "Line", **turned)
            for tag, place in (("Start", start), *((("Center", arc.centre),) if arc else ()), ("End", end)):
                element(line, tag, f"{place[1]:.6f} {place[0]:.6f}")
    return landxml_text(root)


def landxml_read(text: str) -> tuple[Element, float]:
    """The document, and the metres in its unit of length. Raises `UnreadableFile`."""
    try:
        root = SafeTree.fromstring(text.encode(), forbid_dtd=True)
    except DefusedXmlException as error:
        raise UnreadableFile(_("It declares entities or a document type, which is not read here.")) from error
    except ParseError as error:
        raise UnreadableFile(_("Not XML that can be read: {why}.").format(why=str(error)[:80])) from error
    if tag_of(root) != "LandXML":
        raise UnreadableFile(_("XML, but not LandXML."))
    return root, _linear_unit(root)


def tag_of(node: Element) -> str:
    return str(node.tag).rpartition("}")[2]


def _linear_unit(root: Element) -> float:
    for node in root.iter():
        if tag_of(node) in ("Metric", "Imperial"):
            name = node.get("linearUnit", "").lower()
            if name not in LINEAR_UNITS:
                raise UnreadableFile(_("Its unit of length is not known here: {name}.").format(name=name[:20]))
            return LINEAR_UNITS[name]
    raise UnreadableFile(_("It names no unit of length."))


def parcels(text: str) -> list[tuple[str, str, Ring]]:
    """Every parcel's kind where it says one that is known here, its name, and its ring, metres. Raises
    `UnreadableFile`."""
    root, metres = landxml_read(text)
    found = []
    for node in root.iter():
        if tag_of(node) == "Parcel" and (sides := list(_sides(node, metres))):
            kind = node.get("desc", "")
            name = node.get("name", "").partition(" ")[2] if kind in KINDS else node.get("name", "")
            found.append((kind if kind in KINDS else "", name, _closed(sides)))
    if not found:
        raise UnreadableFile(_("No parcel of lines and curves in it: draw the area as one."))
    return found


def _sides(parcel: Element, metres: float) -> Iterator[tuple[Point, float, Point]]:
    """Where each side begins, its bulge and where it ends."""
    for node in parcel.iter():
        if tag_of(node) not in ("Line", "Curve"):
            continue
        at = {tag_of(child): _place(child, metres) for child in node if tag_of(child) in ("Start", "Center", "End")}
        if not {"Start", "End"} <= at.keys() or (tag_of(node) == "Curve" and "Center" not in at):
            raise UnreadableFile(_("A line or curve in it does not say where it begins and ends."))
        start, end, bulge = at["Start"], at["End"], 0.0
        if tag_of(node) == "Curve":
            (x, y), turn = at["Center"], 1 if node.get("rot") == "ccw" else -1
            began, ends = (math.atan2(p[1] - y, p[0] - x) for p in (start, end))
            bulge = turn * math.tan(((ends - began) * turn % (2 * math.pi)) / 4)
        yield start, bulge, end


def _place(node: Element, metres: float) -> Point:
    try:
        north, east = (float(value) * metres for value in (node.text or "").split()[:2])
    except ValueError as error:
        raise UnreadableFile(_("A line or curve in it does not say where it begins and ends.")) from error
    if not (abs(north) <= FARTHEST and abs(east) <= FARTHEST):
        raise UnreadableFile(_("Something in it lies further out than any site."))
    return east, north


def _closed(sides: Sequence[tuple[Point, float, Point]]) -> Ring:
    for n, (_start, _bulge, end) in enumerate(sides):
        if math.dist(end, sides[(n + 1) % len(sides)][0]) > JOINED:
            raise UnreadableFile(_("A parcel in it is not closed: a side begins where none ends."))
    ring = Ring(tuple(start for start, _bulge, _end in sides), tuple(bulge for _start, bulge, _end in sides))
    return Ring(ring.corners) if ring.is_straight else ring
