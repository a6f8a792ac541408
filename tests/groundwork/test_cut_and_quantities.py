"""A cut across the plan, what a base takes, and whether its water finds a way out, worked by hand."""

from dataclasses import replace

import pytest
import shapely
from tests.groundwork.test_soundness import OUTLINE, job

from groundwork.base import SurfaceKey, quantities
from groundwork.brief import FixedHeight, HeightKind, Outlet, SpotLevel, Traffic
from groundwork.drainage import drain_down, outlet_reach, storage_depth
from groundwork.job import across, cut
from groundwork.schools import school
from groundwork.surfaces import DesignSurface, Facet

RIDGE = (
    Facet("south", ((0, 0), (8, 0), (8, 2), (0, 2)), (0, 2), 10.0, 180.0, 1 / 50),
    Facet("north", ((0, 2), (8, 2), (8, 5), (0, 5)), (0, 2), 10.0, 0.0, 1 / 60),
)


def test_a_cut_over_a_ridge() -> None:
    site = job(
        facets=RIDGE,
        heights=(FixedHeight(HeightKind.THRESHOLD, "door", (4.2, 5.0), 9.95),),
        spots=tuple(SpotLevel(p, 10.1) for p in ((0, 0), (8, 0), (8, 3), (0, 3))),
    )
    found = cut(site, (4, -1), (4, 6))
    # From y = −1: the area from 1 to 6, the ridge at 3; 2 m at 1:50 is 40 mm, 3 m at 1:60 is 50 mm.
    assert [(s.start, s.end) for s in found.stretches] == [pytest.approx((1, 3)), pytest.approx((3, 6))]
    levels = [(s.start_level, s.end_level) for s in found.stretches]
    assert levels == [pytest.approx((9.96, 10.0)), pytest.approx((10.0, 9.95))]
    (run,) = found.ground
    assert run[0][0] == pytest.approx(1.0) and run[-1][0] == pytest.approx(4.0)
    assert [level for _, level in run] == pytest.approx([10.1] * len(run))
    assert [(c.kind, round(c.start, 1)) for c in found.crossings] == [("free edge", 0.9), ("building", 6.1)]
    assert [(round(d, 1), h.name) for d, h in found.heights] == [(6.0, "door")]


def test_a_facet_drawn_past_the_area_is_cut_at_the_areas_edge() -> None:
    wide = replace(job().facets[0], outline=((-5, -5), (15, -5), (15, 15), (-5, 15)))
    (stretch,) = cut(job(facets=(wide,)), (4, -3), (4, 9)).stretches
    assert (stretch.start, stretch.end) == pytest.approx((3, 8))


def test_a_cut_that_cannot_be() -> None:
    with pytest.raises(ValueError, match="misses"):
        cut(job(), (-5, -5), (-5, 9))
    with pytest.raises(ValueError, match="lie apart"):
        cut(job(), (1, 1), (1, 1))


def test_a_cut_down_the_fall_runs_over_the_whole_area() -> None:
    start, end = across(job(), (3.0, 2.0))
    found = cut(job(), start, end)
    assert found.stretches[0].start == pytest.approx(0.6) and found.length == pytest.approx(5 + 1.2)
    assert found.stretches[0].start_level > found.stretches[-1].end_level  # down the fall


def test_what_a_base_takes() -> None:
    # 8 × 5 m, dense for a drive, 150 mm past the edge: 8.3 × 5.3 = 43.99 m². By hand.
    found = quantities(shapely.Polygon(OUTLINE), school("dense").specification(Traffic.DRIVE))
    assert found.excavation == pytest.approx(43.99 * 0.255)
    assert found.spoil == pytest.approx(43.99 * 0.255 * 1.25)
    assert found.stone == pytest.approx(43.99 * 0.150 * 2200)
    assert found.concrete == 0
    paving, bedding, base = found.layers
    assert (paving.volume, bedding.volume) == (pytest.approx(40 * 0.080), pytest.approx(40 * 0.025))
    assert base.loose == pytest.approx(43.99 * 0.150 * 1.25)
    slab = quantities(shapely.Polygon(OUTLINE), school("slab").specification(Traffic.DRIVE))
    assert slab.concrete == pytest.approx(43.99 * 0.200)


def test_a_pipe_lies_lower_under_an_open_base_than_on_a_dense_one() -> None:
    design = DesignSurface((Facet("all", OUTLINE, (0, 0), 10.0, 180.0, 1 / 50),))
    outlet = Outlet("ditch", (4.0, 0.0), run=12.0, level=9.70, fall=1 / 100, cover=0.05)
    dense = outlet_reach(outlet, design, school("dense").specification(Traffic.DRIVE), SurfaceKey.BASE)
    # Base top 105 under 10.0, cover 50, 120 down the run: 9.725, 25 to spare. By hand.
    assert (dense.leaves_at, dense.arrives_at, dense.spare) == pytest.approx((9.845, 9.725, 0.025))
    assert dense.reaches
    opened = outlet_reach(outlet, design, school("open").specification(Traffic.DRIVE), SurfaceKey.FORMATION)
    # Formation 305 under 10.0: 200 mm lower, and 175 too low to come out.
    assert opened.spare == pytest.approx(-0.175) and not opened.reaches
    assert (
        outlet_reach(outlet, design, school("panel").specification(Traffic.FOOT), SurfaceKey.BEDDING).surface
        == "formation"
    )


def test_storage() -> None:
    # 50 mm of rain, ground that lets 1e-7 m/s in: 8.64 mm goes in the day, 41.36 stays: 103.4 mm of stone at 40 %
    # voids, gone in 41.36e-3 / 1e-7 s. By hand, after d = (ΔQ·R + P − f·T)/V_r.
    depth = storage_depth(0.050, 1e-7, 0.4)
    assert depth == pytest.approx(0.1034)
    assert drain_down(depth, 1e-7, 0.4) == pytest.approx(413_600)
    assert storage_depth(0.050, 1e-5, 0.4) == 0
    assert storage_depth(0.050, 1e-7, 0.4, run_on=0.050, ratio=2) == pytest.approx(0.3534)


def test_excavation_is_only_said_where_ground_is_known() -> None:
    site = job(spots=tuple(SpotLevel(p, 10.0) for p in OUTLINE))
    flat = replace(site, facets=(replace(site.facets[0], fall=0.0),))
    assert flat.ground.excavation(flat.facets, 0.255) == pytest.approx(40 * 0.255)
    assert job().ground.excavation(job().facets, 0.255) is None
