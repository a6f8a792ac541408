"""Edges on the plan, and one of them unrolled: its units and cuts to scale, its tops drawn out to be seen."""

import math

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.edges import EdgeRun, JointAnswer
from groundwork.measures import Unit, format_amount, format_distance
from groundwork.verdict import Call
from nivelum.drawing.kept import kept
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surroundings import Scale, fitted, places_of, scale_bar, surroundings

CALL_CSS = {Call.GOOD: "right", Call.HIGH: "out", Call.LOW: "out", Call.TOO_CLOSE: "near", None: "open"}
WIDE, HIGH, MARGIN = 900.0, 190.0, 34.0
DRAWN_OUT = 2600.0
"""Units of the sheet a metre of deviation: 10 mm are 26."""
MOST_OUT = 46.0
ROOMY = 34.0
"""Joints are numbered where they lie further apart on the sheet than this."""


@kept
def edge_plan(assessment: Assessment, unit: Unit, side: int) -> SafeString:
    """Every side with its number, those with an edge drawn thick, the one in hand with its joints as they stand."""
    job, there = assessment.site, assessment.edges
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, _("Edges of {job}").format(job=job.name), "plan edges")
    surroundings(root, job, scale, tuple(scale.to_sheet(corner) for corner in job.outline))
    for n in range(len(job.outline)):
        line = [scale.to_sheet(place) for place in job.ring.along(n)]
        if n in there.runs or n == side:
            css = f"edge{' chosen' if n == side else ''}{'' if n in there.runs else ' bare'}"
            add(root, "path", class_=css, d=path(line))
        x, y = _inside(assessment, n, scale)
        add(root, "text", str(n + 1), class_="side-number", x=x, y=y + 5, text_anchor="middle")
    for name in root.findall(".//text[@class='place at-kerb']"):
        name.getparent().remove(name)  # the list beside says what stands where
    if side in there.runs:
        group = add(root, "g", class_="rail-lines")
        for n, answer in there.joints(side).items():
            x, y = scale.to_sheet(there.runs[side].place(n))
            at = add(group, "g", class_=f"rail-end {CALL_CSS[answer.call]}", transform=f"translate({x:.1f} {y:.1f})")
            add(at, "rect", x=-4, y=-4, width=8, height=8)
    scale_bar(root, scale, height, unit)
    return finished(root)


def _inside(assessment: Assessment, side: int, scale: Scale) -> tuple[float, float]:
    """A place just inside the middle of a side."""
    ring = assessment.site.ring
    (x0, y0), (x1, y1) = (scale.to_sheet(place) for place in ring.ends(side))
    x, y = scale.to_sheet(ring.middle(side))
    long = max(math.dist((x0, y0), (x1, y1)), 1e-9)
    return x + (y1 - y0) / long * 20, y - (x1 - x0) / long * 20


@kept
def edge_section(assessment: Assessment, unit: Unit, side: int, chosen: int | None) -> SafeString:
    """A run unrolled: units and closers along it to scale, its string, and every joint as far off its level as it is,
    drawn out."""
    run, answers = assessment.edges.runs[side], assessment.edges.joints(side)
    root = sheet(WIDE, HIGH, _("Side {n} unrolled").format(n=side + 1), "edge-section")
    per_metre = (WIDE - 2 * MARGIN) / run.long
    string = HIGH / 2
    _units(root, run, per_metre, string)
    add(root, "path", class_="string", d=path([(MARGIN, string), (WIDE - MARGIN, string)]))
    tops = [(n, MARGIN + run.joints[n] * per_metre, each) for n, each in answers.items()]
    known = [(x, string - _out(each)) for _n, x, each in tops if each.deviation is not None]
    if len(known) > 1:
        add(root, "path", class_="tops", d=path(known))
    last = -math.inf
    for n, x, each in tops:
        y = string - _out(each)
        at = add(root, "g", class_=f"rail-end {CALL_CSS[each.call]}", transform=f"translate({x:.1f} {y:.1f})")
        if n == chosen:
            add(at, "circle", class_="chosen", r=12)
        add(at, "rect", x=-5, y=-5, width=10, height=10)
        if x - last >= ROOMY:
            last = x
            add(root, "text", str(n), class_="joint-number", x=x, y=HIGH - 8, text_anchor="middle")
            if each.call in (Call.HIGH, Call.LOW) and each.deviation is not None:
                off = format_amount(abs(each.deviation), unit).removesuffix(" mm")
                add(at, "text", f"{'+' if each.deviation > 0 else '−'}{off}", class_="rail-off", x=0,
                    y=-12 if each.deviation > 0 else 24, text_anchor="middle")  # fmt: skip
    add(root, "text", format_distance(run.long, unit), class_="small", x=WIDE - MARGIN, y=16, text_anchor="end")
    return finished(root)


def _out(each: JointAnswer) -> float:
    return max(-MOST_OUT, min(MOST_OUT, (each.deviation or 0.0) * DRAWN_OUT))


def _units(root: Element, run: EdgeRun, per_metre: float, string: float) -> None:
    deep = max(10.0, min(48.0, run.plan.height.metres * per_metre))
    gap = (run.long - sum(run.pieces)) / max(len(run.pieces) - 1, 1)
    at = 0.0
    usual = max(run.pieces)
    for piece in run.pieces:
        css = "unit" if piece > usual - 1e-6 else "unit cut"
        wide = max(piece * per_metre, 0.5)
        add(root, "rect", class_=css, x=MARGIN + at * per_metre, y=string, width=wide, height=deep)
        at += piece + gap
