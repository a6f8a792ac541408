"""Patterns over real outlines: counts by hand, areas exactly, the search against trying everything."""

import json
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import PAD

from groundwork.cli import main
from groundwork.files import loads
from groundwork.pattern import best_layouts, patterns
from groundwork.pattern.best import Found, Turned, tries
from groundwork.pattern.layout import Start, extents, lay
from groundwork.pattern.offcuts import units_for
from groundwork.pattern.units import PavingUnit

COURT = shapely.box(0, 0, 4.0, 3.0)


@pytest.mark.parametrize(("key", "joint", "whole", "cut"), [
    ("running-half", 0.0, 585, 30), ("herringbone", 0.0, 583, 34), ("basket-weave", 0.0, 600, 0),
    ("running-third", 0.0, 580, 40), ("running-half", 0.002, 551, 64), ("running-third", 0.002, 551, 69),
    ("stack", 0.002, 551, 49), ("basket-weave", 0.002, 549, 51), ("herringbone", 0.002, 549, 68),
])  # fmt: skip
def test_counts_of_200_by_100_on_4_by_3(key: str, joint: float, whole: int, cut: int) -> None:
    """First corner in the corner, no joint at the edge, pieces under 1 mm² left out, counted by hand."""
    laid = lay(COURT, patterns()[key], PavingUnit(0.200, 0.100, joint))
    assert (laid.whole, laid.cut) == (whole, cut)


def test_how_many_go_on_a_square_metre() -> None:
    # 200 × 100 with 2 mm: 1 / (0.202 × 0.102) = 48.53 in courses, 1 / (2 × 0.102²) = 48.06 in herringbone and basket.
    big = shapely.box(0, 0, 20, 20)
    for key, each in (("stack", 48.53), ("running-third", 48.53), ("herringbone", 48.06), ("basket-weave", 48.06)):
        laid = lay(big, patterns()[key], PavingUnit(0.200, 0.100, 0.002), Start((0.033, 0.021)))
        assert laid.paved / 0.02 / 400 == pytest.approx(each, rel=0.003), key
    # Three sizes on a module of 100: 160 with 4 of joint is 196 + 196 × 96 … one cell is 7 modules square.
    mixed = lay(big, patterns()["three-sizes"], PavingUnit(0.096, 0.096, 0.004), Start((0.033, 0.021)))
    assert mixed.paved / 400 == pytest.approx((0.196**2 + 0.196 * 0.096 + 0.096**2) / 0.07, rel=0.003)


@st.composite
def outlines(draw) -> shapely.Polygon:
    """A star round the origin, now and then with a hole."""
    number = draw(st.integers(3, 9))
    radii = [draw(st.floats(0.5, 2.5)) for _n in range(number)]
    ring = [(r * math.cos(2 * math.pi * n / number), r * math.sin(2 * math.pi * n / number))
            for n, r in enumerate(radii)]  # fmt: skip
    shape = shapely.Polygon(ring)
    return shape.difference(shapely.Point(0.05, 0.02).buffer(0.2)) if draw(st.booleans()) else shape


PLACES = st.tuples(*(st.integers(-1000, 1000).map(lambda mm: mm / 1000) for _axis in "xy"))


@settings(max_examples=60, deadline=None)
@given(outlines(), st.sampled_from(sorted(patterns())), PLACES, st.integers(0, 3142).map(lambda each: each / 1000))
def test_pieces_cover_the_outline_once_and_whole(shape, key: str, at, turned: float) -> None:
    """Without joints what is whole and cut comes to the area itself; no piece lies on another."""
    unit = PavingUnit(0.1, 0.1, 0.0) if key == "three-sizes" else PavingUnit(0.2, 0.1, 0.0)
    laid = lay(shape, patterns()[key], unit, Start(at, turned))
    assert laid.paved == pytest.approx(shape.area, abs=len(laid.pieces) * 1e-6 + 1e-9)
    on_site = np.array([laid.on_site(piece) for piece in laid.pieces], dtype=object)
    one, other = shapely.STRtree(on_site).query(on_site, predicate="intersects")
    shared = shapely.area(shapely.intersection(on_site[one], on_site[other], grid_size=1e-7))[one < other]
    assert shared.sum() < len(on_site) * 1e-7


@settings(max_examples=12, deadline=None)
@given(outlines(), st.sampled_from(["running-half", "herringbone", "basket-weave", "stack"]), PLACES)
def test_what_lies_under_a_point_is_a_unit_or_a_joint(shape, key: str, at) -> None:
    """Points at random fall on pieces as often as the pieces' area has it."""
    laid = lay(shape, patterns()[key], PavingUnit(0.2, 0.1, 0.004), Start(at, 0.3))
    draw = np.random.default_rng(7).uniform(-2.5, 2.5, (20_000, 2))
    inside = shapely.contains_xy(shape, *draw.T)
    tree = shapely.STRtree([laid.on_site(piece) for piece in laid.pieces])
    hit = len(set(tree.query(shapely.points(draw[inside]), predicate="within")[0].tolist()))
    share = laid.paved / shape.area
    assert hit / inside.sum() == pytest.approx(share, abs=4 * math.sqrt(share * (1 - share) / inside.sum()) + 1e-3)


def crossings(key: str) -> int:
    """Places well inside where corners of four units come together, a joint apart."""
    unit = PavingUnit(0.096, 0.096, 0.004) if key == "three-sizes" else PavingUnit(0.2, 0.098, 0.004)
    laid = lay(shapely.box(0, 0, 3, 3), patterns()[key], unit, Start((0.03, 0.03)))
    corners = [c for p in laid.pieces if p.is_whole for c in p.shape.exterior.coords[:-1]]
    tree = shapely.STRtree(shapely.points(corners))
    met = tree.query(shapely.points(corners), predicate="dwithin", distance=0.0041 * math.sqrt(2))
    near: dict[int, int] = {}
    for one, _other in met.T.tolist():
        near[one] = near.get(one, 0) + 1
    return sum(n >= 4 for n in near.values())


@pytest.mark.parametrize("key", sorted(patterns()))
def test_four_corners_meet_only_where_the_pattern_has_them(key: str) -> None:
    assert (crossings(key) > 0) == patterns()[key].four_corners


def test_a_unit_that_does_not_fit_its_pattern_is_said() -> None:
    with pytest.raises(ValueError, match="longer than two widths"):
        lay(COURT, patterns()["herringbone"], PavingUnit(0.25, 0.1, 0.002))
    with pytest.raises(ValueError, match="more units"):
        best_layouts(shapely.box(0, 0, 1000, 1000), patterns()["stack"], PavingUnit(0.2, 0.1, 0.0), (0, 0))
    assert patterns()["herringbone"].end_joint(PavingUnit(0.2, 0.1, 0.002)) == pytest.approx(0.004)


def test_the_search_is_never_worse_than_the_corner_and_finds_the_best() -> None:
    """Units of 200 × 100 on 1.05 × 0.65 by the centimetre: tried one by one over half a cell, by the same worth."""
    court, unit = shapely.box(0, 0, 1.05, 0.65), PavingUnit(0.2, 0.1, 0.0)
    pattern = patterns()["running-half"]
    plain = Found(lay(court, pattern, unit)).worth
    (best, *_others) = best_layouts(court, pattern, unit, (0.0, 0.0), (0.0,), steps=20)
    assert best.worth <= plain
    every = min(
        Found(lay(court, pattern, unit, Start((x / 100, y / 100)))).worth for x in range(20) for y in range(20)
    )
    assert best.worth == every


@settings(max_examples=30, deadline=None)
@given(outlines(), st.sampled_from(sorted(patterns())), PLACES, st.sampled_from([0.0, math.pi / 2, 0.4]))
def test_what_a_start_is_worth_is_what_its_layout_comes_to(shape, key: str, at, turned: float) -> None:
    """The quick look at a start against the whole layout, piece by piece."""
    unit = PavingUnit(0.096, 0.096, 0.004) if key == "three-sizes" else PavingUnit(0.2, 0.098, 0.002)
    quick = Turned(shape, patterns()[key], unit, turned)
    for each in tries((turned,), 3):
        # A corner just on a unit's edge leaves two pieces that touch, or one: nobody lays by the tenth of a micron.
        start = each.start(patterns()[key], unit, (at[0] + 0.000173, at[1] + 0.000271))
        assert quick.worth(start) == Found(lay(shape, patterns()[key], unit, start)).worth


def test_slivers_are_cut_pieces_under_a_third_or_under_40_mm() -> None:
    """A whole unit is none, however narrow: 200 × 30 on 1.07 by 0.6, rows of 5 and a piece of 70 × 30, over a third
    and narrower than 40; 100 wide, the pieces of 70 stay."""
    thin = lay(shapely.box(0, 0, 1.07, 0.6), patterns()["stack"], PavingUnit(0.2, 0.03, 0.0))
    assert (thin.whole, thin.cut, thin.slivers) == (100, 20, 20)
    wide = lay(shapely.box(0, 0, 1.07, 0.6), patterns()["stack"], PavingUnit(0.2, 0.1, 0.0))
    assert (wide.whole, wide.cut, wide.slivers) == (30, 6, 0)
    short = lay(shapely.box(0, 0, 1.06, 0.6), patterns()["stack"], PavingUnit(0.2, 0.1, 0.0))
    assert short.slivers == 6  # 60 of 200 is under a third


def test_two_pieces_come_out_of_one_unit_where_the_saw_leaves_room() -> None:
    """Rows of 1.1 m: with half a unit at one end each takes 5 and a half. Split, two halves are one unit; sawn with
    3 mm they are not: 10 rows take 50 whole and 5, or 10."""
    court = shapely.box(0, 0, 1.1, 1.0)
    laid = lay(court, patterns()["stack"], PavingUnit(0.2, 0.1, 0.0))
    assert (laid.whole, laid.cut) == (50, 10)
    halves = extents([piece.shape for piece in laid.pieces if not piece.is_whole])
    assert units_for((0.2, 0.1), halves, np.full(10, 0.01), kerf=0.0) == 5 and laid.units == 60


def laid_out(tmp_path, capsys, *asked: str, job: str = PAD) -> tuple[int, dict]:
    file = tmp_path / "job.json"
    file.write_text(job)
    code = main(["layout", str(file), *asked])
    return code, json.loads(capsys.readouterr().out or "{}")


def test_a_pattern_is_laid_over_a_job_from_the_command_line(tmp_path, capsys) -> None:
    code, found = laid_out(
        tmp_path, capsys, "--pattern", "herringbone", "--unit", "100x200", "--joint", "2", "--pieces"
    )
    assert code == 0 and found["unit_mm"] == [200.0, 100.0] and found["end_joint_mm"] == 4.0
    area = loads(PAD).area.area
    for best in found["best"]:
        assert best["area_m2"] == pytest.approx(area, abs=1e-3) and best["cut"] == len(best["pieces"])
        # Herringbone of 200 × 100 with 2 mm leaves 0.02 / 0.0204 … of the area to the units, but for its edges.
        assert best["paved_m2"] / area == pytest.approx(0.02 / (2 * 0.102**2), abs=0.01)
        assert best["units"] >= best["whole"] + best["cut"] / 2
    assert [b["slivers"] for b in found["best"]] == sorted(b["slivers"] for b in found["best"])
    code, plain = laid_out(tmp_path, capsys)
    assert code == 0 and plain["mind"][0].startswith("wheels turn units") and "pieces" not in plain["best"][0]


@pytest.mark.parametrize(
    "asked", [("--unit", "200"), ("--unit", "2x1"), ("--joint", "-3"), ("--pattern", "fishbone")]
)
def test_what_cannot_be_laid_is_refused(tmp_path, capsys, asked: tuple[str, str]) -> None:
    with pytest.raises(SystemExit):
        laid_out(tmp_path, capsys, *asked)


def test_borders_turns_and_draws_from_the_command_line(tmp_path, capsys) -> None:
    """A border takes its breadth off the field on every side; another draw is another mix."""
    code, found = laid_out(
        tmp_path, capsys, "--pattern", "random-sizes", "--joint", "3", "--border", "across", "--corner", "butted"
    )
    assert code == 0 and all(best["string_mm"] >= 202.9 for best in found["best"])
    _code, other = laid_out(tmp_path, capsys, "--pattern", "random-sizes", "--joint", "3", "--seed", "2")
    assert [b["whole"] for b in other["best"]] != [b["whole"] for b in found["best"]]
    _code, turned = laid_out(tmp_path, capsys, "--pattern", "herringbone", "--turn", "45")
    assert {best["turned_deg"] for best in turned["best"]} <= {45, 135}


def test_a_unit_too_long_for_its_pattern_is_refused_in_words(tmp_path, capsys) -> None:
    file = tmp_path / "job.json"
    file.write_text(PAD)
    assert main(["layout", str(file), "--pattern", "basket-weave", "--unit", "300x100"]) == 2
    assert "longer than two widths" in capsys.readouterr().err
