"""Programmes against plans made by hand, brute force hour by hour, every outcome counted, and themselves by other
seeds."""

import itertools
from dataclasses import replace
from datetime import date, datetime, timedelta

import numpy as np
import pytest
from tests.groundwork.test_stages import job as staged

from groundwork.assess import assess
from groundwork.daywork import DayWas, TaskMoved
from groundwork.layerwork import Poured
from groundwork.measures import Measured
from groundwork.outdoors import Outdoors, Says, UsualWeather, goes_on, limits_of, outlook, rains
from groundwork.programme import (
    Holding,
    PlanTask,
    WorkingTime,
    WorkTerms,
    programme,
    settings,
    stages_now,
    tasks_left,
    to_cover,
)
from groundwork.programme.calendar import work_hours
from groundwork.programme.played import PlayTask, Sets, Warming, played
from groundwork.programme.programme import LONG, held_by
from groundwork.weather import DayAhead, Forecast, HourAhead, of_days, stays_dry

MONDAY = datetime(2026, 3, 2, 7, 0)
WEEK = WorkingTime(7.0, 8.0)
FINE = UsualWeather(chance=0.0, least=20.0, most=20.0)
ANY = ("any", 0.0)


def terms(
    people: int = 2, usual: UsualWeather = FINE, spread: float = 1e-9, working: WorkingTime = WEEK
) -> WorkTerms:
    return WorkTerms(people, working, limits_of({}), usual, spread)


def plan(key: str, hours: float, work: Outdoors = Outdoors.ANY, sets: tuple[Sets, ...] = ()) -> PlanTask:
    return PlanTask(key, key, hours, None, (), work, 0.0, sets)


def test_working_hours_of_the_clock() -> None:
    """From Friday 13:30 on: an hour and a half of Friday, then Monday from seven; and back again."""
    hours = work_hours(datetime(2026, 3, 6, 13, 30), WEEK, 5)
    assert list(hours.begins[:3]) == [0.5, 1.0, 66.0] and list(hours.long[:3]) == [0.5, 1.0, 1.0]
    assert hours.place(np.array([0.0, 0.75, 1.5, 30.0, 66.5])) == pytest.approx([0.0, 0.5, 1.5, 2.0, 2.5])
    assert hours.hour(np.array([0.5, 2.0, 2.5])) == pytest.approx([0.75, 2.0, 66.5])
    assert hours.start(np.array([0.5, 2.0])) == pytest.approx([0.75, 66.0])
    off = work_hours(datetime(2026, 3, 6, 13, 30), replace(WEEK, days_off=frozenset({date(2026, 3, 9)})), 5)
    assert off.begins[2] == 66.0 + 24
    with pytest.raises(ValueError, match="home by midnight"):
        WorkingTime(20.0, 8.0)


def test_two_jobs_planned_by_hand() -> None:
    """In fine weather at 20 °C, two people from Monday seven o'clock, eight hours a day, weekends off."""
    # One: dig 16, stone 40, pave 24 person-hours: a day, two and a half, one and a half: Friday 15:00.
    one = [plan("dig", 16), plan("stone", 40), plan("pave", 24)]
    found = programme(one, {}, terms(), None, MONDAY, runs=20)
    begins_ends = [(p.begins, p.ends) for p in found.tasks]
    assert begins_ends == [
        (MONDAY, datetime(2026, 3, 2, 15)), (datetime(2026, 3, 3, 7), datetime(2026, 3, 5, 11)),
        (datetime(2026, 3, 5, 11), datetime(2026, 3, 6, 15)),
    ]  # fmt: skip
    assert found.likely == found.late == datetime(2026, 3, 6, 15)
    # Two: a slab, 8 person-hours: Monday 11:00. 2 160 °C·h over −10 at 20 °C are 72 h: Thursday 11:00; bed and
    # paving, 20 person-hours, ten hours of two: Thursday four, Friday six: 13:00.
    two = [plan("bound-base", 8), plan("laying", 20, sets=(Sets("bound-base", 2160, -10.0),))]
    still = terms()
    found = programme(two, {}, still, None, MONDAY, runs=2000)
    laid = found.of("laying")
    assert laid is not None and laid.lost_to_setting > 20  # three days of eight hours, warmer or colder
    assert abs(laid.begins - datetime(2026, 3, 5, 11)) <= timedelta(hours=1)
    assert found.likely is not None and abs(found.likely - datetime(2026, 3, 6, 13)) <= timedelta(hours=1)
    # Moved to the Monday after: it ends on the Tuesday, ten hours on.
    moved = {"laying": TaskMoved("m", "laying", date(2026, 3, 9))}
    after = programme(two, moved, still, None, MONDAY, runs=50)
    assert after.likely == datetime(2026, 3, 10, 9) and after.holds[0].what is Holding.MOVED


def test_rain_every_hour_of_a_day_costs_that_day() -> None:
    days = [DayAhead(date(2026, 3, 2), 12, 14), DayAhead(date(2026, 3, 3), 12, 14, 48, 1.0),
            DayAhead(date(2026, 3, 4), 12, 14)]  # fmt: skip
    wet = of_days(days, MONDAY, "typed")
    found = programme([plan("stone", 32, Outdoors.FINES)], {}, terms(), wet, MONDAY, runs=300)
    # Sixteen hours of two: Monday and, Tuesday being lost but for an hour that brings next to nothing, Wednesday.
    assert found.likely is not None and found.likely.date() == date(2026, 3, 4)
    assert found.holds[0].what is Holding.WEATHER and found.holds[0].share > 0.95
    assert programme([plan("stone", 32, Outdoors.CLEAN)], {}, terms(), wet, MONDAY, runs=50).likely == datetime(
        2026, 3, 3, 15
    )


def by_the_hour(tasks: list[PlayTask], factors: list[float], open_: list[bool], hours: int) -> list[int]:
    """Played through by hand: a tenth of an hour at a time, one task after the other."""
    ends, at = [], 0
    for task, factor in zip(tasks, factors, strict=True):
        left = round(task.hours * factor * 10)
        while left > 0:
            if at >= hours * 10:
                return [*ends, -1]
            if open_[at // 10]:
                left -= 1
            at += 1
        ends.append(at)
    return ends


def test_every_outcome_of_a_small_plan() -> None:
    """Three tasks, each at one of two paces, in one of 32 weathers of five hours: 256 outcomes as runs of their own,
    against playing them through; and what held each, by the definition."""
    day = WorkingTime(0.0, 24.0, frozenset())
    hours = work_hours(datetime(2026, 3, 2), day, 2)
    tasks = [PlayTask("a", 1.0, ANY), PlayTask("b", 2.0, ANY), PlayTask("c", 1.5, ANY)]
    outcomes = [
        (list(paces), [*weather, *[True] * 43])
        for paces in itertools.product([1.0, 1.6], repeat=3)
        for weather in itertools.product([True, False], repeat=5)
    ]
    open_ = {ANY: np.array([weather for _paces, weather in outcomes])}
    factors = np.array([paces for paces, _weather in outcomes]).T
    warming = Warming({}, np.zeros(len(outcomes), dtype=np.int64))
    done = played(tasks, hours, open_, factors, warming)
    held: dict[tuple[str, Holding], float] = {}
    for n, (paces, weather) in enumerate(outcomes):
        ends = by_the_hour(tasks, paces, weather, 48)
        assert done.ends[:, n] * 10 == pytest.approx(ends, abs=1e-3)
        losses = {}
        for k, task in enumerate(tasks):
            before = ends[k - 1] if k else 0
            losses[task.key, Holding.WEATHER] = (ends[k] - before) / 10 - task.hours * paces[k]
            losses[task.key, Holding.PACE] = task.hours * (paces[k] - 1)
        worst = max(losses.values())
        ties = [key for key, value in losses.items() if worst > 0.25 and value > worst - 1e-6]
        for key in ties:
            held[key] = held.get(key, 0.0) + 1 / len(ties) / len(outcomes)
    found = {(hold.task, hold.what): hold.share for hold in held_by(done)}
    assert max(found, key=found.__getitem__) == max(held, key=held.__getitem__) == ("a", Holding.WEATHER)
    assert sum(found.values()) == pytest.approx(sum(held.values()))
    assert found["a", Holding.WEATHER] == pytest.approx(held["a", Holding.WEATHER], abs=0.05)


def test_shares_by_simulation_are_those_of_every_outcome() -> None:
    """Two tasks of one hour each; each of three hours is wet by its own chance, in spells: all eight weathers with
    their probabilities, against 20 000 runs."""
    wet = [0.3, 0.35, 0.4]
    chances = [*wet, *[0.0] * 30]
    rows = [HourAhead(MONDAY + timedelta(hours=n), 15.0, chance=c, rain=9 * c) for n, c in enumerate(chances)]
    forecast = Forecast(MONDAY, tuple(rows))
    tasks = [plan("a", 1, Outdoors.SWEEPING), plan("b", 1, Outdoors.SWEEPING)]
    found = programme(tasks, {}, terms(1), forecast, MONDAY, runs=20_000)
    ends: dict[int, float] = {}
    for hours in itertools.product([False, True], repeat=3):
        share, before = 1.0, None
        for n, is_wet in enumerate(hours):
            if before is None:
                chance = wet[0]
            else:  # the chance of the hour, given the hour before: rain goes on, and each hour keeps its chance
                goes_on_wet = 0.7 + 0.3 * wet[n]
                chance = goes_on_wet if before else (wet[n] - wet[n - 1] * goes_on_wet) / (1 - wet[n - 1])
                assert 0 <= chance <= 1
            share *= chance if is_wet else 1 - chance
            before = is_wet
        dry = [n for n in range(5) if n >= 3 or not hours[n]]
        ends[dry[1] + 1] = ends.get(dry[1] + 1, 0.0) + share
    assert sum(ends.values()) == pytest.approx(1)
    cumulated = 0.0
    for end in sorted(ends):
        cumulated += ends[end]
        at = (timedelta(hours=end) + timedelta(seconds=1)).total_seconds()
        assert float(np.mean(found.takes <= at)) == pytest.approx(cumulated, abs=0.02)


def test_rain_comes_in_spells_and_by_its_chance() -> None:
    ahead = outlook(MONDAY, 60, None, UsualWeather(chance=0.05))
    rain = rains(ahead, 20_000, np.random.default_rng(5))
    assert (rain > 0).mean() == pytest.approx(0.05, abs=0.003)
    assert (rain[:, :24] == 0).all(axis=1).mean() == pytest.approx(stays_dry(0.05, 24), abs=0.01)
    assert rain[rain > 0].mean() == pytest.approx(1.05, abs=0.04)
    # What has to stay dry for a day goes on in the hours that do.
    open_ = goes_on(Outdoors.BONDED, ahead, rain, limits_of({}), 24)
    assert open_[:, 0].mean() == pytest.approx(stays_dry(0.05, 24), abs=0.01)


def a_job():  # type: ignore[no-untyped-def]
    return assess(staged("slab"))


def test_a_whole_job_is_the_same_by_every_seed() -> None:
    """Half of the runs and four of five are done by days that differ by less than 2 % of the time it takes."""
    tasks = tasks_left(a_job(), {}, {}, 16.0, MONDAY)
    usual = UsualWeather(0.08, 6, 14)
    ends = [programme(tasks, {}, terms(usual=usual, spread=0.2), None, MONDAY, seed) for seed in range(8)]
    for which in ("likely", "late"):
        took = [(getattr(each, which) - MONDAY).total_seconds() for each in ends]
        assert (max(took) - min(took)) / 2 < 0.02 * np.mean(took)
    assert ends[0].likely < ends[0].late and len({each.holds[0].task for each in ends}) == 1


def test_tasks_follow_the_school_and_what_was_done() -> None:
    job = a_job()
    keys = [task.key for task in tasks_left(job, {}, {}, 4.0, MONDAY)]
    assert keys.index("bound-base") < keys.index("bedding.1") < keys.index("laying.1") < keys.index("bedding.2")
    assert keys[0] == "brief" and keys[-1] == "handover"
    whole = {t.key: t.person_hours for t in tasks_left(job, {}, {}, 4.0, MONDAY)}
    left = {t.key: t.person_hours for t in tasks_left(job, {}, {"excavation": 1.0}, 4.0, MONDAY)}
    assert left["excavation"] == pytest.approx(whole["excavation"] - 1)
    gone = {t.key: t.person_hours for t in tasks_left(job, {}, {"excavation": 500.0}, 4.0, MONDAY)}
    assert gone["excavation"] == pytest.approx(whole["excavation"] * 0.1)
    by_stage = sum(hours for key, hours in whole.items() if key.startswith("laying."))
    assert by_stage == pytest.approx(sum(t.hours for t in job.labour.tasks({}) if t.stage == "laying"))


def poured(at: datetime, celsius: float = 10.0) -> Poured:
    return Poured("p1", at.date(), 6.0, celsius, Measured("2", 0.002), "88", at)


def test_a_cold_week_moves_the_day_it_may_be_driven_on() -> None:
    """3 360 °C·h over 0: at 10 °C 14 days. A week recorded at 2 °C earns 336 instead of 1 680: 1 344 short, which is
    5.6 days more at 10 °C."""
    at = datetime(2026, 3, 2, 12, 0)
    job = replace(staged("slab"), entries=(poured(at),))
    now = datetime(2026, 3, 9, 12, 0)

    def drive(entries: tuple[object, ...]) -> datetime:
        found = settings(assess(replace(job, entries=(*job.entries, *entries))), None, 10.0, now, None)
        return next(s.at for s in found if s.then.phrase == "drive on it")

    usual = drive(())
    assert usual == at + timedelta(days=14)
    cold = tuple(DayWas(f"d{n}", date(2026, 3, 2) + timedelta(days=n), 2.0, 2.0) for n in range(8))
    late = drive(cold)
    # The eighth day goes on at 2 °C until midnight: twelve hours more at 8 degrees less.
    assert late == at + timedelta(days=14) + timedelta(hours=(168 + 12) * 8 / 10)


def test_hour_by_hour_for_what_is_open_and_the_night() -> None:
    at = datetime(2026, 3, 9, 9, 0)
    job = assess(replace(staged("slab"), entries=(poured(datetime(2026, 3, 9, 8, 0), 6.0),)))
    days = [DayAhead(date(2026, 3, 9), -1, 8), DayAhead(date(2026, 3, 10), -3, 6, 5, 0.9, 2, 6)]
    forecast = of_days(days, at, "typed")
    now = stages_now(job, forecast, limits_of({}), at, at + timedelta(hours=8))
    assert {each.stage for each in now} and all(each.hours[0].hour.at == at for each in now)
    cover = to_cover(job, forecast, at, WEEK)
    # Poured in the morning, frost in the night: an hour at 6 °C is far from the 1 080 °C·h of its first strength.
    assert cover[0].insulates and "slab" in cover[0].what.phrase


def test_while_only_the_brief_is_open_one_looks_at_what_comes_first_after_it() -> None:
    at = datetime(2026, 3, 9, 9, 0)
    forecast = of_days([DayAhead(date(2026, 3, 9), 8, 15)], at, "typed")
    now = stages_now(assess(staged("dense")), forecast, limits_of({}), at, at + timedelta(hours=8))
    assert [each.stage for each in now] == ["set-out"]
    assert {hour.says for hour in now[0].hours} == {Says.GO} and now[0].until is None


def test_what_is_beyond_the_days_looked_at_has_no_day() -> None:
    """A task put off to another century: what is before it has its days, it and the end have none."""
    off = {"b": TaskMoved("m", "b", date(2099, 12, 31))}
    found = programme([plan("a", 16), plan("b", 2)], off, terms(), None, MONDAY, runs=20)
    first, last = found.tasks
    assert first.ends == datetime(2026, 3, 2, 15) and last.begins is None and last.ends is None and last.late is None
    assert found.likely is None and found.late is None and found.chance_by(date(2050, 1, 1)) == 0


def test_how_far_ahead_one_looks_first_changes_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    """Looked at as far as ever from the beginning, the runs are the same: here every one ends within the shorter."""
    tasks = [plan("a", 60), plan("b", 90, Outdoors.BED, (Sets("a", 480.0, 0.0),)), plan("c", 30, Outdoors.UNITS)]
    wet = terms(usual=UsualWeather(chance=0.05, least=2.0, most=9.0), spread=0.2)
    short = programme(tasks, {}, wet, None, MONDAY, seed=5, runs=400)
    monkeypatch.setitem(programme.__globals__, "SHORT", LONG)
    whole = programme(tasks, {}, wet, None, MONDAY, seed=5, runs=400)
    assert np.isfinite(short.takes).all() and np.array_equal(short.takes, whole.takes)
    assert (short.tasks, short.holds) == (whole.tasks, whole.holds)


def test_where_nobody_works_nothing_is_done() -> None:
    years = frozenset(date(2026, 3, 2) + timedelta(days=n) for n in range(800))
    shut = terms()._replace(working=replace(WEEK, days_off=years))
    found = programme([plan("a", 16)], {}, shut, None, MONDAY, runs=20)
    assert found.likely is None and found.tasks == ()
