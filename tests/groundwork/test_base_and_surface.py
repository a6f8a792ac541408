"""The depth chain and the design surface."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from groundwork.base import BaseSpecification, Layer, Role, SurfaceKey, Tolerance
from groundwork.surfaces import DesignSurface, Facet, uncovered
from groundwork.surfaces.design import (
    combined_fall,
)

P, B, BASE, SUB, BOUND = Role.PAVING, Role.BEDDING, Role.BASE, Role.SUB_BASE, Role.BOUND_BASE


def chain(*layers: tuple[Role, int], high: int = 0) -> BaseSpecification:
    return BaseSpecification("by hand", tuple(Layer(r, "dense-graded", t / 1000) for r, t in layers), high / 1000)


@pytest.mark.parametrize(
    ("specification", "depth_mm"),
    [
        # Worked by hand from the trade's chain: paver + compacted bedding + base + sub-base (+ bound base); bedding
        # settles by what the pavers are laid high (common practice, no published source).
        (chain((P, 80), (B, 30), (BASE, 150), high=5), 255),
        (chain((P, 65), (B, 25), (BASE, 150), (SUB, 100)), 340),
        (chain((P, 100), (B, 25), (BOUND, 180), (SUB, 125)), 430),
        (chain((P, 20), (B, 35), (SUB, 75), (SUB, 75)), 205),
        (chain((P, 40), (B, 10), (BASE, 150)), 200),
    ],
)
def test_excavation_depth(specification: BaseSpecification, depth_mm: float) -> None:
    assert specification.excavation_depth * 1000 == pytest.approx(depth_mm)
    assert specification.depth_of(SurfaceKey.FORMATION) == specification.excavation_depth


def test_screed_level_is_finished_less_paver_plus_what_it_settles() -> None:
    specification = chain((P, 80), (B, 30), (BASE, 150), high=5)
    assert specification.depth_of(SurfaceKey.SCREED) * 1000 == pytest.approx(80 - 5)
    assert specification.depth_of(SurfaceKey.BEDDING) * 1000 == pytest.approx(80)
    assert specification.depth_of(SurfaceKey.BASE) * 1000 == pytest.approx(105)


@pytest.mark.parametrize(
    "layers",
    [
        [],
        [(B, 30)],
        [(P, 80), (BASE, 150), (B, 30)],
        [(P, 0)],
        [(P, 80), (P, 80)],
        [(P, 3000)],
    ],
)
def test_layers_that_cannot_be_built_are_refused(layers) -> None:
    with pytest.raises(ValueError, match=r"."):
        chain(*layers)


def test_bedding_cannot_settle_away_and_tolerance_needs_room() -> None:
    with pytest.raises(ValueError, match="settle"):
        chain((P, 80), (B, 30), high=30)
    with pytest.raises(ValueError, match="room"):
        Tolerance(0.0, 0.03)


SQUARE = ((0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0))


def test_one_in_sixty_over_five_metres_is_83_mm() -> None:
    facet = Facet("f", SQUARE, (0, 0), 10.0, bearing=90, fall=1 / 60)
    assert (10.0 - facet.level_at(5, 3)) * 1000 == pytest.approx(83.33, abs=0.01)


def test_falls_along_and_across_combine() -> None:
    # 1:60 with 1:80 is 2.083 %, which is 1:48 (the 3-4-5 triangle: 1/60, 1/80 and 1/48 are as 4, 3 and 5).
    assert combined_fall(1 / 60, 1 / 80) == pytest.approx(1 / 48)
    facet = Facet("f", SQUARE, (0, 0), 10.0, bearing=0, fall=1 / 60, cross_fall=1 / 80)
    fall, towards = facet.steepest
    assert fall == pytest.approx(1 / 48)
    assert towards == pytest.approx(math.degrees(math.atan2(3, 4)))


@given(
    st.floats(0, 360), st.floats(-0.1, 0.1), st.floats(-0.1, 0.1),
    st.lists(st.tuples(st.floats(0, 10), st.floats(0, 10)), min_size=4, max_size=20),
)  # fmt: skip
def test_a_facet_is_a_plane_with_the_falls_it_says(bearing, fall, cross, points) -> None:
    facet = Facet("f", SQUARE, (2, 3), 7.0, bearing, fall, cross)
    x, y = np.array(points).T
    along = np.array([math.sin(math.radians(bearing)), math.cos(math.radians(bearing))])
    right = np.array([along[1], -along[0]])
    offsets = np.column_stack([x - 2, y - 3])
    assert facet.level_at(x, y) == pytest.approx(7.0 - fall * (offsets @ along) - cross * (offsets @ right))


def test_each_point_takes_its_own_facet_and_neighbours_agree() -> None:
    left = Facet("left", ((0, 0), (5, 0), (5, 10), (0, 10)), (5, 0), 10.0, 270, 1 / 50)
    right = Facet("right", ((5, 0), (10, 0), (10, 10), (5, 10)), (5, 0), 10.0, 90, 1 / 40)
    design = DesignSurface((left, right))
    assert design.level_at([0.0, 5.0, 10.0], [1.0, 1.0, 1.0]) == pytest.approx([9.9, 10.0, 9.875])
    assert design.disagreements() == []
    stepped = Facet("right", right.outline, (5, 0), 10.004, 90, 1 / 40)
    assert [round(d[2], 6) for d in DesignSurface((left, stepped)).disagreements()] == [0.004]


def test_ground_in_no_facet_is_measured() -> None:
    half = Facet("half", ((0, 0), (5, 0), (5, 10), (0, 10)), (0, 0), 1.0, 0, 0)
    assert uncovered(shapely.Polygon(SQUARE), [half]) == pytest.approx(50, rel=0.01)
