"""Drawings are to scale and say so; what they show is what the core answered."""

import re
from dataclasses import replace
from pathlib import Path

import pytest
from lxml import etree
from tests.groundwork.test_cut_and_quantities import RIDGE
from tests.groundwork.test_soundness import OUTLINE, WALL, job

from groundwork.brief import FixedHeight, HeightKind, SpotLevel, Traffic
from groundwork.job import cut
from groundwork.measures import Unit, format_area, format_mass, format_place, format_volume
from groundwork.schools import school, schools
from groundwork.shape import Ring
from groundwork.strength import parse_log
from nivelum.drawing.cone import cone_drawing
from nivelum.drawing.cut import cut_drawing
from nivelum.drawing.section import section
from nivelum.drawing.site import SiteLayers, outline_plan, site_plan

MM = Unit.MILLIMETRES


def drawn(svg: str) -> etree._Element:
    return etree.fromstring(str(svg))


def texts(svg: str) -> list[str]:
    return ["".join(node.itertext()) for node in drawn(svg).iter("{*}text")]


@pytest.mark.parametrize("key", schools())
def test_a_section_shows_every_layer_to_scale(key: str) -> None:
    built = school(key).specification(school(key).traffic[-1])
    svg = drawn(section(built, 10.0, MM, editable=True))
    heights = [float(r.get("height")) for r in svg.iter("{*}rect") if r.get("class") == "layer"]
    share = [built.compacted(layer) / built.excavation_depth for layer in built.layers]
    assert [h / sum(heights) for h in heights] == pytest.approx(share, abs=2e-3)
    per_metre = float(svg.get("data-per-metre"))
    assert sum(heights) == pytest.approx(built.excavation_depth * per_metre, rel=2e-3)
    handles = [g.get("data-field") for g in svg.iter("{*}g") if g.get("class") == "handle"]
    assert len(set(handles)) == len(built.layers) and handles[0] == "id_paving-0-thickness"
    fabrics = [p for p in svg.iter("{*}path") if p.get("class") == "fabric"]
    assert len(fabrics) == len(built.details.fabric_under)


def test_two_sections_beside_each_other_share_their_scale() -> None:
    dense, open_ = (school(key).specification(Traffic.DRIVE) for key in ("dense", "open"))
    deepest = max(dense.excavation_depth, open_.excavation_depth)
    scales = {drawn(section(s, 10.0, MM, deepest, narrow=True)).get("data-per-metre") for s in (dense, open_)}
    assert len(scales) == 1
    assert "10.000" not in texts(section(dense, 10.0, MM, deepest, narrow=True))


def test_a_cut_draws_what_the_core_found_and_says_its_exaggeration() -> None:
    site = job(
        facets=RIDGE,
        heights=(FixedHeight(HeightKind.THRESHOLD, "door", (4.2, 5.0), 9.95),
                 FixedHeight(HeightKind.DAMP_PROOF_COURSE, "dpc", (4.0, 5.0), 10.2)),
        spots=tuple(SpotLevel(p, 10.1) for p in ((0, 0), (8, 0), (8, 3), (0, 3))),
    )  # fmt: skip
    found = cut(site, (4, -1), (4, 6))
    svg = cut_drawing(site, found, MM)
    said = texts(svg)
    assert "door 9.950" in said and "dpc 10.200" in said and "10.000" in said
    times = int(re.search(r"heights × (\d+)", " ".join(said))[1])
    line = next(p.get("d") for p in drawn(svg).iter("{*}path") if p.get("class") == "finished-line")
    points = [tuple(map(float, pair.split())) for pair in line[1:].split("L")]
    # 40 mm up over 2 m, then 50 mm down over 3 m, heights drawn so many times larger.
    (x0, y0), (x1, y1), *_, (x3, y3) = points
    assert (y0 - y1) / (x1 - x0) == pytest.approx(times * 0.040 / 2, rel=0.05)
    assert (y3 - y1) / (x3 - x1) == pytest.approx(times * 0.050 / 3, rel=0.05)
    classes = {p.get("class") for p in drawn(svg).iter()}
    assert {"existing", "formation", "building", "damp", "fixed"} <= classes


def test_the_plan_of_the_design_names_corners_levels_and_heights_apart() -> None:
    heights = tuple(FixedHeight(HeightKind.DRAIN, f"a long name {n}", (4.0 + n / 100, 2.5), 9.9) for n in range(3))
    site = job(facets=RIDGE, heights=heights)
    svg = drawn(site_plan(site, MM, SiteLayers(levels=True, names=True, cut=((0, 0), (8, 5)), point=(1, 1))))
    names = ["".join(t.itertext()) for t in svg.iter("{*}text")]
    assert {"X1", "X2", "X3", "X4", "A", "B"} <= set(names)
    assert {"10.000", "9.960", "9.950"} <= set(names)
    marks = [g for g in svg.iter("{*}g") if g.get("class") == "height"]
    places = {(t.get("x"), t.get("y")) for g in marks for t in g.iter("{*}text")}
    assert len(places) == 6  # each name and level in a place of its own


def test_a_new_outline_can_be_taken_by_its_corners() -> None:
    svg = drawn(outline_plan(Ring(OUTLINE), (), (WALL, replace(WALL, kind="drain", points=((1.0, 1.0),))), MM))
    corners = [c for c in svg.iter("{*}circle") if c.get("class") == "drag"]
    assert [c.get("data-corner") for c in corners] == ["0", "1", "2", "3"]
    per_metre, west = float(svg.get("data-per-metre")), float(svg.get("data-west"))
    assert west + float(corners[1].get("cx")) / per_metre == pytest.approx(8, abs=0.01)


def test_a_cone_log_is_drawn_downward_with_its_layers() -> None:
    log = parse_log("CP1", "0 0\n" + "\n".join(f"5 {50 * n}" for n in range(1, 7)) + "\n2 380\n2 460\n2 540")
    for unit, step in ((MM, "10 mm a blow"), (Unit.FEET_INCHES, "0.39″ a blow")):
        said = texts(cone_drawing(log, unit))
        assert step in said and any(text.startswith("CBR 22") for text in said)


@pytest.mark.parametrize(
    ("shown", "by_hand"),
    [
        # 1 m² = 10.764 sq ft, 1 m³ = 1.308 cu yd, 1 short ton = 907.185 kg, 1 ft = 0.3048 m: by definition.
        (format_area(10, MM), "10.0 m²"),
        (format_area(10, Unit.FEET_INCHES), "108 sq ft"),
        (format_volume(10, Unit.FEET_TENTHS), "13.1 cu yd"),
        (format_mass(9071.85, Unit.FEET_INCHES), "10.0 tons"),
        (format_mass(1500, Unit.METRES), "1.5 t"),
        (format_place(3.048, Unit.FEET_INCHES), "10.00′"),
        (format_place(-0.0001, MM), "0.000"),
    ],
)
def test_quantities_in_the_crews_own_measure(shown: str, by_hand: str) -> None:
    assert shown == by_hand


def test_text_stands_out_seven_to_one_on_every_ground_by_day_and_at_dusk() -> None:
    """WCAG 2.2, 1.4.6, by its own formula of relative luminance; the colours as the style sheet has them."""
    style = (Path(__file__).parents[2] / "src/nivelum/styles/nivelum.css").read_text(encoding="utf-8")
    day, dusk = (
        dict(re.findall(r"--([\w-]+): #(\w{6});", part)) for part in re.findall(r":root {(.*?)}", style, re.S)[:2]
    )

    def luminance(colour: str) -> float:
        parts = [int(colour[n : n + 2], 16) / 255 for n in (0, 2, 4)]
        red, green, blue = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
        return 0.2126 * red + 0.7152 * green + 0.0722 * blue

    def contrast(one: str, other: str) -> float:
        dark, light = sorted((luminance(one), luminance(other)))
        return (light + 0.05) / (dark + 0.05)

    for of in (day, day | dusk):
        verdicts = ("good", "dig", "low", "close")
        pairs = [
            (text, ground) for text in ("ink", "dust", "chalk", *verdicts) for ground in ("stone", "slab", "paper")
        ]
        pairs += [("on-verdict", verdict) for verdict in verdicts] + [("on-chalk", "chalk"), ("stone", "ink")]
        faint = {pair: contrast(*(of[name] for name in pair)) for pair in pairs}
        assert {pair: round(value, 2) for pair, value in faint.items() if value < 7} == {}
