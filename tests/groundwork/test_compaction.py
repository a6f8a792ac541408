"""Machines, curves, densities, stiffness, sampling, vibration: against tables, handbooks and libraries."""

import math
from itertools import product

import numpy as np
import pytest
import shapely
from geotech_references.dm7_2 import chapter3
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy import stats

from groundwork.brief import Traffic
from groundwork.laboratory import (
    NotACurve,
    acceptance,
    curve,
    deformation_modulus,
    dry_density,
    hole_volume,
    least_relative_compaction,
    oversize_corrected_density,
    relative_compaction,
    water_to_add,
    zero_air_voids,
)
from groundwork.laboratory.density import (
    oversize_corrected_moisture,
)
from groundwork.plan import draw, how_many, patches
from groundwork.tools import (
    Machine,
    MachineKind,
    daily_exposure,
    greatest_thickness,
    lifts_for,
    passes_needed,
    proved_by_settlement,
    time_on_machine,
    time_until,
    what_would,
)

PLATE, TAMPER, ROLLER, HAND = MachineKind


def machine(kind: MachineKind, intensity: float) -> Machine:
    """One of that intensity: half a metre wide, a plate as long."""
    mass = intensity * {PLATE: 0.25, ROLLER: 0.5}.get(kind, 1.0)
    return Machine("m", kind, mass, 0.5, 0.5)


# UK Specification for Highway Works, Series 800, table 8/4, quoted from memory: passes at 110, 150 and 225 mm, on
# both sides of each class's limits. Two passes become three: the trade's least.
@pytest.mark.parametrize(
    ("kind", "intensity", "passes"),
    [
        (PLATE, 1400, (None, None, None)),
        (PLATE, 1401, (8, None, None)),
        (PLATE, 1800, (8, None, None)),
        (PLATE, 1801, (5, 8, None)),
        (PLATE, 2100, (5, 8, None)),
        (PLATE, 2101, (3, 6, 10)),
        (TAMPER, 50, (None, None, None)),
        (TAMPER, 51, (4, 8, None)),
        (TAMPER, 65, (4, 8, None)),
        (TAMPER, 66, (3, 6, 10)),
        (TAMPER, 75, (3, 6, 10)),
        (TAMPER, 76, (3, 4, 8)),
        (ROLLER, 700, (None, None, None)),
        (ROLLER, 701, (16, None, None)),
        (ROLLER, 1300, (16, None, None)),
        (ROLLER, 1301, (6, 16, None)),
        (ROLLER, 1800, (6, 16, None)),
        (ROLLER, 1801, (4, 6, 10)),
        (ROLLER, 2300, (4, 6, 10)),
        (ROLLER, 2301, (3, 5, 9)),
        (HAND, 10, (None, None, None)),
    ],
)
def test_passes_by_class(kind: MachineKind, intensity: float, passes: tuple[int | None, ...]) -> None:
    of = machine(kind, intensity)
    assert tuple(passes_needed(of, depth) for depth in (0.110, 0.150, 0.225)) == passes
    assert passes_needed(of, 0.226) is None
    assert passes_needed(of, 0.111) == passes[1]
    # Lighter than the table, and by hand: 50 mm, three passes, proved by settlement (common practice).
    light = passes == (None, None, None)
    assert proved_by_settlement(of) == light
    assert passes_needed(of, 0.050) == (3 if light else passes[0])
    assert greatest_thickness(of) == (
        0.050 if light else (0.110, 0.150, 0.225)[sum(n is not None for n in passes) - 1]
    )


def test_what_is_heavy_enough_is_the_lightest_class_of_each_kind() -> None:
    assert [(w.kind, w.above, w.passes) for w in what_would(0.150)] == [
        (PLATE, 1800, 8), (TAMPER, 50, 8), (ROLLER, 1300, 16)]  # fmt: skip
    assert what_would(0.226) == ()


def test_a_machine_that_cannot_be_is_refused() -> None:
    for make in ((PLATE, 90, 0.45), (PLATE, -1, 0.45, 0.5), (ROLLER, 500, 0)):
        with pytest.raises(ValueError):
            Machine("m", *make)


def test_time_on_the_machine_and_lifts() -> None:
    # area × passes / (width × speed × 0.75): 60 m², 8 passes, 0.5 m at 0.4 m/s: 480 / 0.15 = 3200 s.
    plate = Machine("m", PLATE, 400, 0.5, 0.5, 0.4)
    assert time_on_machine(60, 8, plate) == pytest.approx(3200)
    assert [lifts_for(t, 0.075) for t in (0.05, 0.075, 0.0751, 0.150, 0.200)] == [1, 1, 2, 2, 3]


# Directive 2002/44/EC: A(8) = a√(T/8 h); 5.0 m/s² for 2 h is the action value.
def test_daily_vibration() -> None:
    assert daily_exposure([(5.0, 2 * 3600)]) == pytest.approx(2.5)
    assert daily_exposure([(5.0, 3600), (5.0, 3600)]) == pytest.approx(2.5)
    assert daily_exposure([(5.0, 8 * 3600)]) == pytest.approx(5.0)
    assert time_until(5.0) == pytest.approx(2 * 3600) and time_until(0) == math.inf
    # Two machines add as squares (HSE's and every maker's exposure table do): 1.5 and 2.0 make 2.5.
    assert daily_exposure([(1.5, 8 * 3600), (2.0, 8 * 3600)]) == pytest.approx(2.5)


@given(st.floats(-0.3, -0.05), st.floats(0.06, 0.12), st.floats(1900, 2150))
def test_a_parabola_gives_back_its_own_vertex(bend: float, top: float, most: float) -> None:
    moistures = [top - 0.03, top - 0.015, top, top + 0.012, top + 0.028]
    points = [(w, most + bend * 1e5 * (w - top) ** 2) for w in moistures]
    found = curve(points, gravity=3.5)
    assert found.fit == "parabola"
    assert (found.optimum, found.maximum) == (pytest.approx(top, abs=1e-6), pytest.approx(most, rel=1e-9))


# A worked example of a standard Proctor test from a textbook (Das, Principles of Geotechnical Engineering, chapter on
# compaction; from memory): mould 1/30 ft³, mass of moist soil in lb at each moisture; read off
# its graph: maximum dry unit weight about 111.5 lb/ft³ at about 15 %.
DAS = ((10, 3.88), (12, 4.09), (14, 4.23), (16, 4.28), (18, 4.24), (20, 4.19))


def test_a_textbooks_proctor_example() -> None:
    dry = [(w / 100, dry_density(mass * 30 * 16.018463, w / 100)) for w, mass in DAS]
    assert [d / 16.018463 for _w, d in dry] == pytest.approx([105.8, 109.6, 111.3, 110.7, 107.8, 104.75], abs=0.06)
    found = curve(dry, gravity=2.7)
    assert found.maximum / 16.018463 == pytest.approx(111.5, abs=0.6)
    assert found.optimum == pytest.approx(0.15, abs=0.006)


def test_a_lopsided_curve_is_followed_by_a_spline() -> None:
    points = [(0.03, 1950.0), (0.05, 2010.0), (0.06, 2140.0), (0.07, 2120.0), (0.09, 1990.0)]
    found = curve(points, 2.7)
    assert found.fit == "spline"
    assert found.density_at(np.array([0.05]))[0] == pytest.approx(2010)
    fine = np.linspace(0.03, 0.09, 60_001)
    assert found.maximum == pytest.approx(found.density_at(fine).max(), abs=1e-3)
    assert found.optimum == pytest.approx(fine[found.density_at(fine).argmax()], abs=2e-6)


# ρ = Gs ρw /(1 + w Gs): 2.70 at 12 % is 2.039 t/m³.
def test_zero_air_voids() -> None:
    assert zero_air_voids(0.12, 2.70) == pytest.approx(2039, abs=0.5)


GOOD = [(0.04, 2050.0), (0.05, 2110.0), (0.06, 2130.0), (0.07, 2100.0)]


@pytest.mark.parametrize(
    ("points", "why"),
    [
        (GOOD[:3], "at least 4"),
        ([*GOOD, (0.05, 2090.0)], "two points"),
        ([*GOOD[:3], (0.07, 2400.0)], "zero air voids"),
        ([(0.04, 2050.0), (0.05, 2060.0), (0.06, 2080.0), (0.07, 2100.0)], "outside"),
        ([(0.04, 2100.0), (0.05, 2080.0), (0.06, 2060.0), (0.07, 2050.0)], "outside"),
        ([(0.0, 2050.0), *GOOD[1:]], "between 0 and 100"),
        ([(0.04, -1.0), *GOOD[1:]], "more than nothing"),
    ],
)
def test_a_curve_that_cannot_be_right_is_refused(points: list, why: str) -> None:
    assert curve(GOOD, 2.7).fit == "parabola"
    with pytest.raises(NotACurve, match=why):
        curve(points, 2.7)


# geotech-references (UFC 3-220-20, DM 7.2, equations 3-1, 3-6 and 3-7, and relative compaction), over a grid.
def test_densities_agree_with_a_reference_library() -> None:
    for wet, moisture in product((1700.0, 2000.0, 2350.0), (0.0, 0.03, 0.06, 0.12, 0.25)):
        theirs = chapter3.dry_unit_weight(wet, moisture * 100)
        assert dry_density(wet, moisture) == pytest.approx(theirs)
        assert relative_compaction(theirs, 2130) * 100 == pytest.approx(chapter3.relative_compaction(theirs, 2130))
    for fine, oversize, gravity in product((1800.0, 2000.0, 2200.0), (0.0, 0.05, 0.2, 0.4), (2.5, 2.65, 2.9)):
        theirs = chapter3.oversize_corrected_dry_unit_weight(fine, oversize, gravity, 1 - oversize, 1000.0)
        assert oversize_corrected_density(fine, oversize, gravity) == pytest.approx(theirs)
        water = chapter3.oversize_corrected_water_content(oversize, 0.015, 1 - oversize, 0.08)
        assert oversize_corrected_moisture(0.08, oversize, 0.015) == pytest.approx(water)


def test_what_was_weighed_wrong_is_refused() -> None:
    for wrong in (
        lambda: dry_density(0, 0.05), lambda: dry_density(2000, -0.01), lambda: relative_compaction(1, 0),
        lambda: hole_volume(1.6, 1.6, 1400), lambda: oversize_corrected_density(2000, 0.41, 2.65),
        lambda: deformation_modulus(0), lambda: acceptance([], 0.98),
    ):  # fmt: skip
        with pytest.raises(ValueError):
            wrong()


# ASTM D1556 by hand: 5.2 kg of sand used, 1.6 in the cone, 1400 kg/m³: a hole of 2.571 l; 5.7 kg out of it at 5 %.
def test_sand_replacement() -> None:
    volume = hole_volume(5.2, 1.6, 1400)
    assert volume == pytest.approx(0.0025714, abs=1e-7)
    assert dry_density(5.7 / volume, 0.05) == pytest.approx(2111.1, abs=0.1)


# TP BF-StB part B 8.3: 22.5/s; 0.50 mm is 45 MPa. Water: 10 m² × 0.10 m, 2.1 t/m³, 4 to 6 %: 42 l.
def test_stiffness_and_water() -> None:
    assert deformation_modulus(0.0005) == pytest.approx(45)
    assert water_to_add(10 * 0.10, 2100, 0.04, 0.06) == pytest.approx(42)
    assert water_to_add(1, 2100, 0.08, 0.06) < 0


@given(st.lists(st.floats(0.9, 1.05), min_size=2, max_size=20))
def test_statistics_of_acceptance_agree_with_scipy(results: list[float]) -> None:
    found = acceptance(results, 0.98)
    assume(max(results) - min(results) > 1e-3)
    theirs = stats.describe(results)
    assert (found.number, found.mean, found.least) == (theirs.nobs, pytest.approx(theirs.mean), theirs.minmax[0])
    assert found.spread == pytest.approx(math.sqrt(theirs.variance), abs=1e-9)
    low, _high = stats.t.interval(0.90, theirs.nobs - 1, theirs.mean, stats.sem(results))
    assert found.sure == pytest.approx(low)


@pytest.mark.parametrize(
    ("results", "mean_holds", "each_holds"),
    [((0.98, 0.98), True, True), ((0.9799, 0.98), False, True), ((1.02, 0.95), True, True),
     ((1.03, 0.949), True, False), ((0.98,), True, True)],
)  # fmt: skip
def test_the_mean_and_each_test_hold_at_their_limits(results, mean_holds, each_holds) -> None:
    found = acceptance(results, 0.98)
    assert (found.mean_holds, found.each_holds, found.passes) == (mean_holds, each_holds, mean_holds and each_holds)


def test_what_is_asked_by_traffic() -> None:
    asked = [(t, base) for t in (Traffic.FOOT, Traffic.DRIVE) for base in (False, True)]
    assert [least_relative_compaction(*a) for a in asked] == [0.95, 0.98, 0.98, 0.98]


HOOK = shapely.Polygon([(0, 0), (20, 0), (20, 6), (6, 6), (6, 15), (0, 15)])


def test_test_places_are_the_same_again_and_anywhere() -> None:
    places = draw(HOOK, "job base.1", 400)
    assert places == draw(HOOK, "job base.1", 400) and places != draw(HOOK, "job base.2", 400)
    assert all(HOOK.buffer(-0.299).covers(shapely.Point(p)) for p in places)
    # Evenly likely: shares of two halves within what chance allows, by the binomial test.
    low = sum(y < 6 for _x, y in places)
    room = HOOK.buffer(-0.3)
    expected = room.intersection(shapely.box(0, 0, 20, 6)).area / room.area
    assert stats.binomtest(low, 400, expected).pvalue > 0.001
    assert [how_many(a) for a in (5, 50, 100, 101, 500)] == [2, 2, 2, 3, 10]


@given(st.floats(2, 60), st.floats(2, 40), st.floats(0, 3))
def test_patches_are_the_area(length: float, breadth: float, turn: float) -> None:
    whole = shapely.affinity.rotate(shapely.box(0, 0, length, breadth), turn, use_radians=True)
    for area in (whole, whole.difference(shapely.affinity.scale(whole, 0.5, 0.5, origin=whole.exterior.coords[0]))):
        parts = patches(area)
        assert sum(p.area for p in parts) == pytest.approx(area.area, rel=1e-6)
        assert shapely.union_all([p.outline for p in parts]).symmetric_difference(area).area < 1e-5 * area.area
        assert 1 <= len(parts) <= 14 and [p.name for p in parts] == [str(n) for n in range(1, len(parts) + 1)]
