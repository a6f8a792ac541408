"""Surfaces as built: what the D, L and F rules find, what was laid and dug, and the least work that mends."""

import math
from dataclasses import replace
from itertools import combinations
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from groundwork.base import BaseSpecification, Layer, Role, Tolerance
from groundwork.brief import Outlet, SpotLevel
from groundwork.built import AsBuilt, Fix, NoFix, dug, laid_between, least_fix
from groundwork.built.asbuilt import (
    as_built,
    findings,
)
from groundwork.built.leastfix import (
    SurfaceLimits,
    asked_of,
    division,
    passes,
)
from groundwork.files import loads
from groundwork.job import Job
from groundwork.measures import Finding, Severity, Unit
from groundwork.plan import Feature, lay
from groundwork.surfaces import Facet, most_useful, widest_hole
from groundwork.survey import Survey
from groundwork.verdict import Account, Aim, Sight

LAYERS = (
    Layer(Role.PAVING, "concrete-block", 0.06),
    Layer(Role.BEDDING, "concrete-sand", 0.03),
    Layer(Role.BASE, "dense-graded", 0.10),
)
OPEN = (
    Layer(Role.PAVING, "clay-paver", 0.06),
    Layer(Role.BEDDING, "chip", 0.03),
    Layer(Role.BASE, "clean-stone", 0.10),
)
SURE = 0.0005


def made(width: float = 6.0, height: float = 6.0, layers: tuple[Layer, ...] = LAYERS, **more: object) -> Job:
    """A yard that falls 1:60 to its free south edge; stations every 2 m."""
    outline = ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))
    facet = Facet("all", outline, (0.0, 0.0), 10.0, 180.0, 1 / 60)
    school = "open" if layers is OPEN else "dense"
    free = Feature("free edge", "", ((0.0, 0.0), (width, 0.0)))
    job = Job("Yard", Unit.MILLIMETRES, outline, (facet,), BaseSpecification(school, layers), 2.0, features=(free,))
    return replace(job, **more)  # type: ignore[arg-type]


DEMO = Path(__file__).parents[2] / "src" / "nivelum" / "demo" / "jobs"


def shot(job: Job, off: dict[str, float] | None = None, surface: str = "base", u: float = SURE) -> AsBuilt:
    """A surface at design but for the stations named, millimetres."""
    stations = lay(job.area, job.station_spacing)
    deviations = [(off or {}).get(station.name, 0.0) / 1000 for station in stations]
    return AsBuilt(job, job.specification.surface(surface), stations, deviations, [u] * len(stations))


def ruled(built: AsBuilt) -> list[tuple[str, Severity]]:
    return [(f.rule, f.severity) for f in findings(built)]


def found(built: AsBuilt, phrase: str) -> Finding:
    return next(f for f in findings(built) if phrase in f.found.phrase)


def test_a_surface_at_design_has_no_findings_and_needs_nothing() -> None:
    for surface in ("formation", "base.1", "base", "bedding", "finished"):
        built = shot(made(), surface=surface)
        assert ruled(built) == []
        fix = least_fix(built, asked_of(built, Tolerance(0.01, 0.01)), Unit.MILLIMETRES)
        assert isinstance(fix, Fix)
        assert fix.changes == ()


def test_falls_are_exact_on_a_plane_and_those_of_the_design() -> None:
    built = shot(made())
    assert np.allclose(built.falls.built, 1 / 60)
    assert np.allclose(built.falls.designed, 1 / 60)
    tilted = AsBuilt(built.job, built.surface, built.stations, [-s.at[1] / 200 for s in built.stations], [0.0] * 13)
    assert np.allclose(tilted.falls.built, 1 / 60 - 1 / 200)


# B2 stands in the middle; over 2 m the design falls 33.3 mm.
@pytest.mark.parametrize(
    ("low", "rules"),
    [
        (2, []),
        (8, [(Severity.WARNING, "at least four fifths of the designed fall")]),
        (19, [(Severity.STOP, "at least half the designed fall")]),
    ],
)
def test_falls_warn_under_four_fifths_and_stop_under_half(low: float, rules: list[tuple[Severity, str]]) -> None:
    built = shot(made(), {"B2": -low})
    assert [(f.severity, f.limit.phrase) for f in findings(built) if f.rule == "L06"] == rules


def test_a_fall_the_wrong_way_and_a_puddle_stop_the_base_top() -> None:
    built = shot(made(), {"B2": -40})
    stops = [f for f in findings(built) if f.severity is Severity.STOP and f.rule == "L06"]
    assert stops[0].found.phrase.startswith("falls the wrong way round")
    puddle = found(built, "standing water")
    assert puddle.found.lengths["worst"] == pytest.approx(0.040 - 2 / 60, abs=1e-6)
    assert "B2" in puddle.stations


@pytest.mark.parametrize(("depth", "rules"), [(2.9, []), (3.2, ["warning"]), (4.9, ["stop"])])
def test_puddles_stop_over_3_mm_sure_of_it(depth: float, rules: list[str]) -> None:
    built = shot(made(), {"B2": -(2000 / 60 + depth)})
    assert [str(f.severity) for f in findings(built) if "standing" in f.found.phrase] == rules


@pytest.mark.parametrize(("gap", "severity"), [(9.5, None), (10.2, Severity.WARNING), (11.5, Severity.STOP)])
def test_the_straightedge_stops_over_10_mm_on_a_base_sure_of_it(gap: float, severity: Severity | None) -> None:
    # B2 alone is low: a bar from 1.5 m on one side bridges it, so the gap is near the whole of it.
    share = shot(made(), {"B2": -10}).bar.worst
    assert share is not None
    built = shot(made(), {"B2": -gap / (share.gap / 0.010)})
    assert [f.severity for f in findings(built) if f.rule == "L07"] == ([severity] if severity else [])


def test_a_bound_base_holds_5_mm_under_the_straightedge_and_paving_has_rules_of_its_own() -> None:
    bound = (
        LAYERS[0],
        Layer(Role.BEDDING, "concrete-sand", 0.03),
        Layer(Role.BOUND_BASE, "concrete", 0.12),
        LAYERS[2],
    )
    assert found(shot(made(layers=bound), {"B2": -8}, "bound base"), "3 m straightedge").rule == "L07"
    assert found(shot(made(), {"B2": -8}, "finished"), "3 m straightedge").rule == "F03"
    assert {r for r, _s in ruled(shot(made(), {"B2": -45}, "finished"))} == {"F02", "F03"}


def test_a_formation_is_asked_to_drain_only_under_a_base_that_drains_along_it() -> None:
    dip = {"B2": -50}
    assert ruled(shot(made(), dip, "formation")) == []
    piped = made(outlet=Outlet("pipe", (3.0, 0.0), 5.0, 9.0))
    for job in (piped, made(layers=OPEN)):
        assert [r for r, _s in ruled(shot(job, dip, "formation"))] == ["D05", "D05"]
    # Through an open base water goes down: its top may hold none, its formation holds all.
    assert not any("standing" in f.found.phrase for f in findings(shot(made(layers=OPEN), dip)))


def test_the_pipe_drains_the_formation_only() -> None:
    job = replace(made(features=()), outlet=Outlet("pipe", (3.0, 3.0), 5.0, 9.0))
    assert shot(job, surface="formation").water.landlocked.sum() == 0
    assert shot(job).water.landlocked.all()
    assert found(shot(job), "no way off").severity is Severity.WARNING


def test_a_base_that_falls_to_a_wall_without_a_drain_is_stopped() -> None:
    wall = Feature("building", "hut", ((0.0, 6.1), (6.0, 6.1), (6.0, 8.0), (0.0, 8.0), (0.0, 6.1)))
    job = made()
    job = replace(job, features=(*job.features, wall))
    assert ruled(shot(job)) == []
    towards = shot(job, {"X3": -60, "X4": -60})
    assert found(towards, "falls towards").found.names == {"building": "hut"}


def test_a_hole_in_the_coverage_wider_than_the_spacing_warns() -> None:
    job = made(10.0, 10.0)
    stations = lay(job.area, 2.0)

    def without(*names: str) -> list[str]:
        kept = [s for s in stations if s.name not in names]
        built = AsBuilt(job, job.specification.surface("base"), kept)
        return [f.rule for f in findings(built)]

    assert without() == without("C3") == []
    assert without("C3", "C4") == ["D06"]
    unshot = {s.name: s.at for s in stations if s.name in ("C3", "A1")}
    assert most_useful(unshot, [s.at for s in stations if s.name not in unshot]) == "C3"
    assert most_useful({}, [(0, 0)]) is None


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 40))
@example(0, 28)  # a cell that the edge only grazes holds the widest
def test_the_widest_hole_is_found_against_a_fine_grid(seed: int, count: int) -> None:
    area = shapely.Polygon([(0, 0), (9, 0), (9, 4), (5, 4), (5, 8), (0, 8)])
    rng = np.random.default_rng(seed)
    places = rng.uniform(0, 8, (count, 2))
    hole = widest_hole(places, area)
    grid = np.stack(np.meshgrid(np.arange(0, 9.01, 0.05), np.arange(0, 8.01, 0.05)), axis=-1).reshape(-1, 2)
    inside = grid[shapely.intersects_xy(area, *grid.T)]
    far = np.hypot(*(inside[:, None] - places).transpose(2, 0, 1)).min(axis=1).max()
    assert hole is not None
    assert far - 1e-9 <= hole.radius <= far + 0.05
    assert np.hypot(*(places - hole.at).T).min() == pytest.approx(hole.radius)
    assert widest_hole([], area) is None


def survey(job: Job, surface: str, off: dict[str, float]) -> Survey:
    """A surface shot at design but for the stations named, millimetres; None where it was not shot."""
    of = job.specification.surface(surface)
    accounts = {}
    for station, finished in zip(job.stations, job.finished, strict=True):
        account = Account(Aim(finished - of.depth, job.specification.tolerance(of), of.kind))
        if (low := off.get(station.name, 0.0)) is not None:
            account = account.shot([Sight(finished - of.depth + low / 1000, "s", SURE, 0.0)])
        accounts[station.name] = account
    return Survey(of, job.specification.tolerance(of), job, accounts)


def test_what_was_laid_is_the_prism_between_two_surfaces() -> None:
    job = made()
    laid = laid_between(job, survey(job, "formation", {}), survey(job, "base", {}))
    assert laid is not None
    assert (laid.volume, laid.mean, laid.specified) == (pytest.approx(3.6), pytest.approx(0.1), pytest.approx(0.1))
    high, low = (
        dict.fromkeys(["A1", "A2", "A3", "B1", "B2", "B3", "C1", "C2", "C3", "X1", "X2", "X3", "X4"], 6.0),
        {"B2": -12.0},
    )
    thick = laid_between(job, survey(job, "formation", low), survey(job, "base", high))
    assert thick is not None
    assert thick.least[1] == pytest.approx(0.106)
    # B2 stands for a pyramid on the triangles around it, and a little is carried on to the edge beside.
    around = thick.mesh.shares[thick.mesh.vertex_of[thick.stations.index("B2")]] * 3
    assert thick.volume == pytest.approx(36 * 0.106 + around * 0.012 / 3, rel=0.003)
    assert thick.mass(job.specification.layers[2].made_of) == pytest.approx(thick.volume * 2200, rel=0.1)
    assert laid_between(job, survey(job, "formation", {}), survey(job, "base", dict.fromkeys(high))) is None


def test_what_was_dug_is_the_wedge_between_ground_and_formation() -> None:
    """Level ground over a formation that falls 1:60 over 6 m: a prism and a wedge (closed form)."""
    corners = ((-1.0, -1.0), (7.0, -1.0), (7.0, 7.0), (-1.0, 7.0))
    job = made(spots=tuple(SpotLevel(at, 10.0) for at in corners))
    formation = shot(job, surface="formation")
    whole = dug(job, formation)
    depth = job.specification.excavation_depth
    assert whole is not None
    assert (whole.area, whole.cut, whole.fill) == (
        pytest.approx(36), pytest.approx(36 * (depth - 0.05)), pytest.approx(0, abs=1e-9)
    )  # fmt: skip
    # Ground known over its west half only.
    half = replace(job, spots=tuple(SpotLevel((min(x, 3.0), y), 10.0) for x, y in corners))
    part = dug(half, formation)
    assert part is not None
    assert (part.area, part.cut) == (pytest.approx(18, abs=0.05), pytest.approx(18 * (depth - 0.05), rel=0.005))
    assert dug(made(), formation) is None


BASE_ASKED = SurfaceLimits(Tolerance(0.010, 0.010), 0.5, 0.003)


def roughly(seed: int, spread: float, job: Job) -> AsBuilt:
    stations = lay(job.area, job.station_spacing)
    deviations = np.round(np.random.default_rng(seed).normal(0, spread, len(stations)), 4)
    return AsBuilt(job, job.specification.surface("base"), stations, deviations, [SURE] * len(stations))


@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize("spread", [0.006, 0.015])
def test_every_fix_put_back_through_the_check_passes(seed: int, spread: float) -> None:
    built = roughly(seed, spread, made(8.0, 6.0))
    asked = asked_of(built, Tolerance(0.010, 0.010))
    assert asked == replace(BASE_ASKED, bar=0.010)
    fix = least_fix(built, asked, Unit.MILLIMETRES)
    assert isinstance(fix, Fix)
    assert passes(fix.after, asked)
    again = [f for f in findings(fix.after) if f.severity is Severity.STOP and f.rule == "L06"]
    assert again == []
    change = dict.fromkeys((s.name for s in built.stations), 0.0) | {c.station.name: c.by for c in fix.changes}
    assert np.allclose(fix.after.at_stations, built.at_stations + list(change.values()))
    assert all(abs(c.by / 0.001 - round(c.by / 0.001)) < 1e-6 for c in fix.changes)
    # What is filled less what is trimmed is the surface's own rise.
    rise = built.mesh.volume(fix.after.levels - built.levels)
    assert fix.filled - fix.trimmed == pytest.approx(rise)


def alone(built: AsBuilt, changes: dict[int, float]) -> AsBuilt:
    moved = built.at_stations.copy()
    for place, by in changes.items():
        moved[place] += by
    return AsBuilt(built.job, built.surface, built.stations, moved, built.uncertainties)


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("spread", [0.006, 0.011])
def test_no_smaller_set_is_found_by_trying_them_all(seed: int, spread: float) -> None:
    """Every single station by every millimetre, and every pair by steps of 4 mm."""
    job = made(4.0, 4.0)
    built = roughly(seed, spread, job)
    fix = least_fix(built, BASE_ASKED, Unit.MILLIMETRES)
    assert isinstance(fix, Fix)
    assert fix.proven
    size = len(built.stations)
    steps = np.arange(-30, 31) / 1000
    if passes(built, BASE_ASKED):
        assert fix.changes == ()
        return
    single = [abs(by) for n in range(size) for by in steps if passes(alone(built, {n: by}), BASE_ASKED)]
    if single:
        assert len(fix.changes) <= 1
        assert sum(abs(c.by) for c in fix.changes) == pytest.approx(min(single))
        return
    assert len(fix.changes) >= 2
    coarse = [by for by in np.arange(-24, 25, 4) / 1000 if by]
    pair = any(
        passes(alone(built, {one: a, other: b}), BASE_ASKED)
        for one, other in combinations(range(size), 2)
        for a in coarse
        for b in coarse
    )
    assert not pair or len(fix.changes) == 2


def test_a_crew_in_inches_trims_by_sixteenths() -> None:
    built = roughly(1, 0.012, made(8.0, 6.0))
    fix = least_fix(built, BASE_ASKED, Unit.FEET_INCHES)
    assert isinstance(fix, Fix)
    step = division(Unit.FEET_INCHES)
    assert step == pytest.approx(0.0015875)
    assert fix.changes
    assert all(abs(c.by / step - round(c.by / step)) < 1e-6 for c in fix.changes)


def test_where_no_fix_is_to_be_had_it_says_why() -> None:
    walled = roughly(0, 0.006, made(features=()))
    assert isinstance(no := least_fix(walled, BASE_ASKED, Unit.MILLIMETRES), NoFix)
    assert "no way off" in no.why
    vague = shot(made(), {"B2": -40}, u=0.007)
    assert isinstance(no := least_fix(vague, BASE_ASKED, Unit.MILLIMETRES), NoFix)
    assert "too unsure" in no.why


@pytest.mark.long
def test_the_least_fix_lets_the_straightedge_lie() -> None:
    # A base whose level is inside ±10 mm everywhere and on which no water stands, but with a row 9 mm low between two
    # that are 9 mm high. A bar from a high station reaches 1 m beyond the low one, where it is level: 9 − 9·2/3 + 9.
    job = made()
    off = {f"{row}{n}": by for row, by in (("A", 9.0), ("B", -9.0), ("C", 9.0)) for n in (1, 2, 3)}
    known = list(lay(job.area, job.station_spacing))
    built = AsBuilt(job, job.specification.surface("base"), known, [off.get(s.name, 0.0) / 1000 for s in known],
                    [0.0001] * len(known))  # fmt: skip
    asked = asked_of(built, Tolerance(0.010, 0.010))
    assert asked.bar == 0.010
    assert widest_by_hand(built) == pytest.approx(0.012, abs=0.0002) and not passes(built, asked)
    fix = least_fix(built, asked, Unit.MILLIMETRES)
    assert isinstance(fix, Fix) and fix.changes
    assert widest_by_hand(fix.after) <= 0.010 + 1e-4


def widest_by_hand(built: AsBuilt) -> float:
    """The widest gap under a 3 m bar by brute force: laid from every station every 2°, sampled every centimetre."""
    widest = 0.0
    for station in built.stations:
        for degrees in range(0, 360, 2):
            way = np.array([math.cos(math.radians(degrees)), math.sin(math.radians(degrees))])
            along = np.arange(0, 3.001, 0.01)
            levels = built.mesh.level_at(built.deviations, np.array(station.at) + along[:, None] * way)
            along, levels = along[np.isfinite(levels)], levels[np.isfinite(levels)]
            if len(along) < 3:
                continue
            hull = [0]
            for n in range(1, len(along)):
                while len(hull) > 1 and (levels[hull[-1]] - levels[hull[-2]]) * (along[n] - along[hull[-2]]) <= (
                    levels[n] - levels[hull[-2]]
                ) * (along[hull[-1]] - along[hull[-2]]):
                    hull.pop()
                hull.append(n)
            widest = max(widest, float((np.interp(along, along[hull], levels[hull]) - levels).max()))
    return widest


def test_a_needle_between_stations_shot_around_a_corner_bridges_nothing() -> None:
    """Of an angled walk three stations are shot, two of them seen from each other past the inner corner: no bar finds
    its way into so narrow a triangle."""
    job = loads((DEMO / "floor-walk.json").read_text(encoding="utf-8"))
    only = {station.name: 0.0 if station.name in ("A1", "X8", "X5") else None for station in job.stations}
    built = as_built(job, survey(job, "finished", only))
    assert built.bar.worst is None and np.isnan(built.bar.gaps).all()
    assert "F03" not in {finding.rule for finding in built.findings}
