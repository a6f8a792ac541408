"""What readings are taken against: strings, the height meter, the tape, the straightedge; and every surface."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.groundwork.test_assess import FACET, JOB, SET_UP, read

from groundwork.assess import assess
from groundwork.base import BaseSpecification, Layer, Role, SurfaceKey, Tolerance
from groundwork.base.specification import (
    TOLERANCES,
)
from groundwork.brief import SpotLevel, Traffic
from groundwork.entries import FallCheck, Foresight, MeterBase, Reading, StringLine, TapeDatum
from groundwork.levels import StretchedString, sag
from groundwork.levels.references import FromGround, MeterAt
from groundwork.measures import (
    FOOT,
    INCH,
    Measured,
    MeasureError,
    Unit,
    as_typed,
    parse_bar,
    parse_rod,
    parse_signed,
)
from groundwork.schools import school
from groundwork.surfaces import DesignSurface
from groundwork.survey import FallCall
from groundwork.survey.fallcheck import fall_answer
from groundwork.tools import Instrument, Method
from groundwork.tools.kit import (
    USUAL,
)
from groundwork.verdict import Filling, Shot, Sight, Standing, judge


def m(metres: float) -> Measured:
    return Measured(f"{metres} m", metres)


def string(start_level: float, end_level: float, span: float = 10.0, **more) -> StretchedString:
    line = StringLine("l", "P1", "P2", (0.0, 0.0), (span, 0.0), m(0.2), m(0.2), start_level, end_level, **more)
    return StretchedString(line)


def test_a_level_string_sags_as_the_parabola_does() -> None:
    # By hand, 10 m at half a gram a metre and 50 N: 1.226 mm in the middle, three quarters of that at 2.5 m.
    tied = string(10.0, 10.0)
    assert tied.level_at((5.0, 0.0)) == pytest.approx(10.0 - 0.00122625)
    assert tied.level_at((2.5, 0.0)) == pytest.approx(10.0 - 0.75 * 0.00122625)
    assert tied.level_at((0.0, 0.0)) == tied.level_at((10.0, 0.0)) == pytest.approx(10.0)


def test_a_string_on_the_fall_is_straight_between_its_pegs() -> None:
    tied = string(10.0, 9.8, weight=0.0)
    assert tied.level_at((2.0, 0.0)) == pytest.approx(9.96)
    assert tied.target((2.0, 0.0), 9.773) == pytest.approx(0.187)
    sight = tied.sight((2.0, 0.0), 0.187)
    assert sight.level == pytest.approx(9.773) and sight.reading_u == 0.003


@given(st.floats(1, 60), st.floats(0.1, 5), st.floats(10, 200))
def test_sag_grows_with_the_square_of_the_span_and_falls_with_the_pull(span, weight, tension) -> None:
    assert sag(weight, 2 * span, tension) == pytest.approx(4 * sag(weight, span, tension))
    assert sag(weight, span, 2 * tension) == pytest.approx(sag(weight, span, tension) / 2)


@pytest.mark.parametrize(
    ("place", "spot"),
    [((4.0, 0.3), (4.0, 0.0)), ((4.0, -0.5), (4.0, 0.0)), ((4.0, 0.6), None), ((-0.3, 0.0), (0.0, 0.0)),
     ((10.7, 0.0), None)],
)  # fmt: skip
def test_a_string_reaches_half_a_metre_to_its_side(place, spot) -> None:
    found = string(10.0, 10.0).spot(place)
    assert found == (pytest.approx(spot) if spot else None)


def test_a_dip_beside_the_station_is_carried_over_along_the_design() -> None:
    # The pad falls 1:60 to the east; the string runs north, 0.3 m west of A2, where the surface is 5 mm higher.
    station = next(s for s in assess(JOB).job.stations if s.name == "A2")
    east, north = station.at
    line = StringLine("l", "a", "b", (east - 0.3, north - 1), (east - 0.3, north + 1), m(0.2), m(0.2),
                      10.1, 10.1, weight=0.0)  # fmt: skip
    at_string = JOB.design.level((east - 0.3, north)) - 0.255
    dip = Reading("r", "A2", "l", m(10.1 - at_string - 0.010))
    answer = assess(replace(JOB, entries=(line, dip))).surveys.ground["A2"]
    assert answer.judgement.deviation == pytest.approx(0.010)
    assert answer.judgement.level == pytest.approx(JOB.design.level(station.at) - 0.255 + 0.010)


def test_the_height_meter_adds_what_it_shows() -> None:
    base = MeterAt(MeterBase("b", "sill", m(0.012)), 10.2)
    assert base.target((0, 0), 9.7) == pytest.approx(-0.488)
    assert base.sight((0, 0), -0.488).level == pytest.approx(9.7)


def test_the_tape_hangs_on_known_ground_only() -> None:
    spots = tuple(SpotLevel(at, 10.3) for at in ((0.0, 0.0), (6.0, 0.0), (6.0, 4.0), (0.0, 4.0)))
    job = replace(JOB, spots=spots, entries=(TapeDatum("t"),))
    (reference,) = assess(job).levels.references.values()
    assert isinstance(reference, FromGround)
    assert reference.target((3.0, 2.0), 9.7) == pytest.approx(0.6)
    assert reference.spot((30.0, 2.0)) is None
    depth = replace(job, entries=(TapeDatum("t"), Reading("r", "A2", "t", m(0.62))))
    judgement = assess(depth).surveys.ground["A2"].judgement
    assert judgement.level == pytest.approx(9.68) and judgement.uncertainty > 0.008


@pytest.mark.parametrize("method", list(Method))
def test_an_instrument_without_figures_has_the_usual_ones(method: Method) -> None:
    # Standard uncertainties by method: common practice, no published source.
    assert (Instrument(method).reading_u, Instrument(method).rate) == USUAL[method]
    own = Instrument(method, "ours", 0.004, 0.0)
    assert (own.reading_u, own.rate) == (0.004, 0.0)


@pytest.mark.parametrize(
    ("gap_mm", "expected"),
    # Designed 1:60, 33.3 mm in 2 m, of which four fifths are 26.7; a bar's gap is sure within 1.645 mm.
    [(33, FallCall.GOOD), (29, FallCall.GOOD), (27, FallCall.TOO_CLOSE), (25.5, FallCall.TOO_CLOSE),
     (24, FallCall.FLAT), (1, FallCall.FLAT), (-1, FallCall.FLAT), (-3, FallCall.WRONG_WAY)],
)  # fmt: skip
def test_a_fall_by_straightedge_is_guarded_like_a_level(gap_mm: float, expected: FallCall) -> None:
    check = FallCheck("f", "a", "b", m(2.0), m(gap_mm / 1000))
    answer = fall_answer(check, {"a": (0.0, 2.0), "b": (3.0, 2.0)}, DesignSurface((FACET,)))
    assert answer.designed == pytest.approx(1 / 60) and answer.measured == pytest.approx(gap_mm / 2000)
    assert answer.call is expected


def test_a_fall_checked_uphill_is_the_same_fall() -> None:
    check = FallCheck("f", "b", "a", m(2.0), m(-0.033))
    answer = fall_answer(check, {"a": (0.0, 2.0), "b": (3.0, 2.0)}, DesignSurface((FACET,)))
    assert answer.call is FallCall.GOOD and answer.designed < 0


SURFACES = {
    # By hand from each school's usual base for cars, or on foot: what is levelled, depth in mm below finished.
    "dense": [("formation", 255), ("base.1", 180), ("base", 105), ("screed", 75), ("finished", 0)],
    "open": [("formation", 305), ("base.1", 205), ("base", 105), ("bedding", 80), ("finished", 0)],
}


@pytest.mark.parametrize("key", list(SURFACES))
def test_the_surfaces_of_a_base_from_the_formation_up(key: str) -> None:
    specification = school(key).specification(Traffic.DRIVE)
    levelled = specification.levelled
    assert levelled[0].key == SurfaceKey.FORMATION and levelled[-1].key == SurfaceKey.FINISHED
    assert levelled[0].depth == pytest.approx(specification.excavation_depth) and levelled[-1].depth == 0
    depths = [s.depth for s in levelled]
    assert depths == sorted(depths, reverse=True)
    assert [(str(s.key), round(s.depth * 1000)) for s in levelled] == SURFACES[key]


@pytest.mark.parametrize(
    "key", ["dense", "open", "kerbed", "slab", "pervious", "rigid", "cells", "slab-walk", "panel"]
)
def test_no_lift_of_any_school_is_thicker_than_is_compacted_at_once(key: str) -> None:
    taken = school(key)
    for traffic in (Traffic.FOOT, Traffic.DRIVE):
        specification = taken.specification(traffic)
        stone = [s for s in specification.levelled if s.kind in (SurfaceKey.BASE, SurfaceKey.SUB_BASE)]
        for below, above in zip((specification.levelled[0], *stone), stone, strict=False):
            assert below.depth - above.depth <= 0.1001
        assert len({s.key for s in specification.levelled}) == len(specification.levelled)


def test_two_courses_of_one_role_are_lifts_of_it() -> None:
    layers = (Layer(Role.PAVING, "concrete-block", 0.06), Layer(Role.BASE, "dense-graded", 0.06),
              Layer(Role.BASE, "dense-graded", 0.10))  # fmt: skip
    keys = [(s.key, round(s.depth, 3), s.is_covered) for s in BaseSpecification("dense", layers).levelled]
    assert keys == [("formation", 0.22, False), ("base.1", 0.17, True), ("base.2", 0.12, True), ("base", 0.06, False),
                    ("finished", 0.0, False)]  # fmt: skip


def test_each_surface_has_its_limits_and_a_job_may_set_its_own() -> None:
    # UK highway works specification and paver industry guidance, quoted from memory.
    found = {key: (round(t.high * 1000), round(t.low * 1000)) for key, t in TOLERANCES.items()}
    assert found == {"formation": (20, 30), "sub-base": (10, 30), "base": (10, 10), "bound base": (10, 10),
                     "bedding": (5, 5), "screed": (5, 5), "finished": (6, 6)}  # fmt: skip
    own = replace(JOB.specification, tolerances=((SurfaceKey.BASE, Tolerance(0.004, 0.007)),))
    assert own.tolerance(own.surface("base")) == Tolerance(0.004, 0.007)
    assert JOB.specification.tolerance(JOB.specification.surface("base.1")) == TOLERANCES[SurfaceKey.SUB_BASE]


LIMITS = Tolerance(0.010, 0.010)


@pytest.mark.parametrize(
    ("kind", "deviation_mm", "says"),
    [(SurfaceKey.BASE, 22, "take off 22 mm, compact"),
     (SurfaceKey.BASE, -22, "low by 22 mm: loosen the top, add stone, compact"),
     (SurfaceKey.BASE, -45, "add 45 mm of stone, compact"),
     (SurfaceKey.SUB_BASE, -39, "low by 39 mm: loosen the top, add stone, compact"),
     (SurfaceKey.BOUND_BASE, 15, "high by 15 mm: grind it off, or cut out and recast"),
     (SurfaceKey.BOUND_BASE, -15, "low by 15 mm: cut out and recast, no thin skin"),
     (SurfaceKey.BEDDING, -15, "low by 15 mm: add and screed again, if the base under it is right"),
     (SurfaceKey.FINISHED, -15, "low by 15 mm: lift, add bedding, lay again"),
     (SurfaceKey.FINISHED, 2, "good")],
)  # fmt: skip
def test_what_to_do_is_said_in_the_words_of_the_surface(kind: SurfaceKey, deviation_mm: float, says: str) -> None:
    shot = Shot((Sight(10 + deviation_mm / 1000, "s", 0.001, 0.001),))
    assert judge([shot], 10.0, LIMITS, kind).action.text(Unit.MILLIMETRES) == says


def test_only_the_formation_remembers_an_over_dig() -> None:
    low, level = (Shot((Sight(10 + d, "s", 0.001, 0.001),)) for d in (-0.05, 0.0))
    assert judge([low, level], 10.0, LIMITS, SurfaceKey.BASE).standing is Standing.GOOD
    assert judge([low, level], 10.0, LIMITS).standing is Standing.UNEXPLAINED
    assert judge([low, Filling(True, 1), level], 10.0, LIMITS).standing is Standing.MADE_GOOD


def test_a_base_thinner_than_specified_is_found_from_its_two_surfaces() -> None:
    # The formation 15 mm high, inside its limit, and the base 8 mm low, inside its own: 23 mm of 150 are missing.
    ready = assess(replace(JOB, entries=(SET_UP,)))
    typed = [
        (surface, ready.targets.at("A1", surface) + off) for surface, off in (("formation", -0.015), ("base", 0.008))
    ]
    readings = [Reading(f"r{n}", "A1", "s1", m(value), surface=key) for n, (key, value) in enumerate(typed)]
    thin = assess(replace(JOB, entries=(SET_UP, *readings))).surfaces.findings("base")
    assert ("L06", "base too thin at 1, down to 127 mm") in {(f.rule, f.found.text(Unit.MILLIMETRES)) for f in thin}


def test_the_surface_in_hand_follows_the_dig() -> None:
    assert assess(JOB).surface_in_hand == SurfaceKey.FORMATION


@pytest.mark.parametrize(
    ("text", "unit", "metres"),
    [("-549", Unit.MILLIMETRES, -0.549), ("+12.5", Unit.MILLIMETRES, 0.0125), ("-.35", Unit.METRES, -0.35),
     ("5", Unit.MILLIMETRES, 0.005), ("−3/8", Unit.FEET_INCHES, -0.375 * INCH),
     ("-0.42", Unit.FEET_TENTHS, -0.42 * FOOT),
     ("-4' 2\"", Unit.METRES, -50 * INCH)],
)  # fmt: skip
def test_what_goes_up_and_down_is_typed_with_its_sign(text: str, unit: Unit, metres: float) -> None:
    assert parse_signed(text, unit).metres == pytest.approx(metres)


@pytest.mark.parametrize("text", ["", "--3", "7001", "abc", "-"])
def test_what_is_no_height_is_refused(text: str) -> None:
    with pytest.raises(MeasureError):
        parse_signed(text, Unit.MILLIMETRES)


@pytest.mark.parametrize(
    ("text", "unit", "metres"),
    [("2", Unit.MILLIMETRES, 2), ("2.4", Unit.METRES, 2.4), ("1800", Unit.MILLIMETRES, 1.8),
     ("6", Unit.FEET_INCHES, 6 * FOOT), ('48"', Unit.FEET_INCHES, 48 * INCH)],
)  # fmt: skip
def test_a_bars_length_is_in_metres_or_feet(text: str, unit: Unit, metres: float) -> None:
    assert parse_bar(text, unit).metres == pytest.approx(metres)
    with pytest.raises(MeasureError):
        parse_bar("40 m", unit)


@given(st.floats(0.001, 5.9), st.sampled_from(list(Unit)))
def test_what_a_level_reads_is_typed_so_that_it_reads_back(metres: float, unit: Unit) -> None:
    assert parse_rod(as_typed(metres, unit), unit).metres == pytest.approx(metres, abs=0.00006)


def test_what_was_typed_twice_or_belongs_to_another_level_is_named() -> None:
    second = replace(SET_UP, id="s9", backsight=parse_rod("1120", Unit.MILLIMETRES))
    ready = assess(replace(JOB, entries=(SET_UP, second)))
    by_second = f"{ready.targets.at('B2', reference=ready.levels.references['s9']) * 1000:.0f}"
    shots = [
        read(n, name, f"{ready.targets.at(name, reference=ready.levels.references['s1']) * 1000:.0f}")
        for n, name in enumerate(("A1", "A2", "A3", "B1"))
    ]
    job = replace(JOB, entries=(SET_UP, second, *shots))
    doubt = assess(job).surveys.misreads(read(90, "B2", by_second, set_up="s1"))
    assert doubt and doubt.slip == "read from another set-up"
    assert assess(job).surveys.misreads(read(91, "B2", by_second, set_up="s9")) is None


def test_a_second_shot_that_differs_from_the_first_is_asked_about() -> None:
    first = read(1, "A1", "1760")
    job = replace(JOB, entries=(SET_UP, first))
    assert assess(job).surveys.misreads(read(2, "A1", "1740", same=True))
    assert assess(job).surveys.misreads(read(3, "A1", "1761", same=True)) is None


def test_findings_on_the_run_name_the_mark_it_misses() -> None:
    entries = (SET_UP, read(1, "A1", "1750"), Foresight("c", "s1", "sill", parse_rod("1312", Unit.MILLIMETRES)))
    found = {
        f.rule: f.found.text(Unit.MILLIMETRES) for f in assess(replace(JOB, entries=entries)).surfaces.findings()
    }
    assert found["R01"] == "the run to sill misses by 12 mm"
    open_ = {f.rule for f in assess(replace(JOB, entries=entries[:2])).surfaces.findings()}
    assert "R02" in open_ and "R01" not in open_
