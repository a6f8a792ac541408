"""A job assessed whole."""

from dataclasses import replace
from datetime import date

import pytest
from tests.walking import looked

from groundwork.assess import assess, overtaken
from groundwork.base import BaseSpecification, Layer, Role
from groundwork.entries import Fill, Foresight, PegDistance, Reading, ServicesLocated, SetUp, Strike
from groundwork.job import Acceptance, Job, Mark, SignOff
from groundwork.measures import Measured, Severity, Unit, parse_rod
from groundwork.stages import Gate
from groundwork.surfaces import Facet
from groundwork.verdict import Standing

OUTLINE = ((0.0, 0.0), (6.0, 0.0), (6.0, 4.0), (0.0, 4.0))
SPECIFICATION = BaseSpecification(
    "dense",
    (
        Layer(Role.PAVING, "concrete-block", 0.080),
        Layer(Role.BEDDING, "concrete-sand", 0.030),
        Layer(Role.BASE, "dense-graded", 0.150),
    ),
    0.005,
)
FACET = Facet("all", OUTLINE, (0, 0), 10.000, bearing=90, fall=1 / 60)
JOB = Job("pad", Unit.MILLIMETRES, OUTLINE, (FACET,), SPECIFICATION, 2.0, (Mark("sill", (0, 4), 10.200),))
SET_UP = SetUp("s1", "sill", parse_rod("1300", Unit.MILLIMETRES), at=(3.0, -2.0))


def read(number: int, station: str, typed: str, same: bool = False, set_up: str = "s1") -> Reading:
    return Reading(f"r{number}", station, set_up, parse_rod(typed, Unit.MILLIMETRES), same)


def shot_everywhere(deviation_mm: int = 0) -> tuple:
    ready = assess(replace(JOB, entries=(SET_UP,)))
    return (
        SET_UP,
        *(
            read(n, name, f"{round((ready.targets.at(name) - deviation_mm / 1000) * 1000)}")
            for n, name in enumerate(ready.surveys.ground)
        ),
        Foresight("close", "s1", "sill", parse_rod("1300", Unit.MILLIMETRES)),
    )


def test_the_target_is_instrument_height_less_design() -> None:
    # By hand: HI 10.200 + 1.300 = 11.500; at X2, 6 m down a fall of 1:60, finished 9.900, formation 255 mm below.
    ready = assess(replace(JOB, entries=(SET_UP,)))
    answer = ready.surveys.ground["X2"]
    assert answer.finished == pytest.approx(9.900)
    assert answer.design == pytest.approx(9.645)
    assert ready.targets.at("X2") == pytest.approx(1.855)
    assert ready.levels.present.in_sight(ready.targets.at("X2"))


def test_no_set_up_no_target_and_a_line_of_sight_below_the_ground_is_said() -> None:
    assert assess(JOB).targets.at("X1") is None
    low = replace(SET_UP, id="s2", mark="low", backsight=parse_rod("0.1", Unit.METRES))
    job = replace(JOB, marks=(*JOB.marks, Mark("low", (0, 0), 9.0)), entries=(low,))
    assert not assess(job).levels.present.in_sight(assess(job).targets.at("X1"))


def test_readings_on_the_same_ground_are_averaged_and_later_work_starts_afresh() -> None:
    target = assess(replace(JOB, entries=(SET_UP,))).targets.at("A1")
    at = [f"{round(target * 1000) - mm}" for mm in (19, 15, 3)]
    together = assess(replace(JOB, entries=(SET_UP, read(1, "A1", at[0]), read(2, "A1", at[1], same=True))))
    judgement = together.surveys.ground["A1"].judgement
    assert judgement.shots == 2
    assert judgement.deviation == pytest.approx(0.017, abs=0.0006)
    after = replace(together.job, entries=(*together.job.entries, read(3, "A1", at[2])))
    assert assess(after).surveys.ground["A1"].judgement.deviation == pytest.approx(0.003, abs=0.0006)


def test_a_struck_set_up_leaves_its_readings_unknown_and_a_struck_reading_never_was() -> None:
    job = replace(JOB, entries=(*shot_everywhere(), Strike("k", "s1")))
    assert {a.judgement.standing for a in assess(job).surveys.ground.values()} == {Standing.UNKNOWN}
    assert assess(job).levels.set_up is None
    job = replace(JOB, entries=(SET_UP, read(1, "A1", "1000"), Strike("k", "r1")))
    assert assess(job).surveys.ground["A1"].judgement.standing is Standing.UNSHOT


def test_each_reading_is_reduced_with_its_own_set_up() -> None:
    second = replace(SET_UP, id="s2", backsight=parse_rod("1500", Unit.MILLIMETRES))
    target = assess(replace(JOB, entries=(SET_UP,))).targets.at("A1")
    typed = f"{round(target * 1000)}"
    job = replace(JOB, entries=(SET_UP, second, read(1, "A1", typed, set_up="s1")))
    assert assess(job).surveys.ground["A1"].judgement.deviation == pytest.approx(0, abs=0.0006)
    job = replace(JOB, entries=(SET_UP, second, read(1, "A1", typed, set_up="s2")))
    assert assess(job).surveys.ground["A1"].judgement.deviation == pytest.approx(0.2, abs=0.0006)


def test_an_instrument_further_off_is_less_sure() -> None:
    near, far = (
        assess(replace(JOB, entries=(replace(SET_UP, at=(3.0, -back)), read(1, "A1", "1750")))) for back in (2, 80)
    )
    unknown = assess(replace(JOB, entries=(replace(SET_UP, at=None), read(1, "A1", "1750"))))
    us = [a.surveys.ground["A1"].judgement.uncertainty for a in (near, unknown, far)]
    assert us == sorted(us) and us[0] < us[2]


DIG_SEEN = tuple(looked(assess(JOB), "excavation"))


def gate(entries: tuple, sign_offs: tuple = ()) -> Gate:
    seen = DIG_SEEN if entries else ()
    job = replace(JOB, entries=(*SQUARE, *seen, *entries), sign_offs=(BRIEF_SIGNED, SET_OUT_SIGNED, *sign_offs))
    return assess(job).stages.of("excavation").gate


def signed(entries: tuple) -> tuple[SignOff]:
    evidence = assess(replace(JOB, entries=(*DIG_SEEN, *entries))).stages.evidence_of("excavation")
    return (SignOff("o1", "excavation", "Ines", evidence),)


def taped(start: str, end: str, metres: float) -> PegDistance:
    return PegDistance(f"{start}{end}", start, end, Measured(f"{metres} m", metres))


# A pad of 6 by 4 m: its sides, and both diagonals √52 = 7.211 m.
SQUARE = (
    ServicesLocated("located", "T-1", date(2026, 3, 2), 14, "the locators"),
    *(taped(*pair, 6.0) for pair in (("P1", "P2"), ("P3", "P4"))),
    *(taped(*pair, 4.0) for pair in (("P2", "P3"), ("P4", "P1"))),
    *(taped(*pair, 7.211) for pair in (("P1", "P3"), ("P2", "P4"))),
    *looked(assess(JOB), "set-out"),
    *looked(assess(JOB), "brief"),
)
SET_OUT_SIGNED = SignOff("o2", "set-out", "Ines", assess(replace(JOB, entries=SQUARE)).stages.evidence_of("set-out"))
BRIEF_SIGNED = SignOff("o0", "brief", "Ines", assess(replace(JOB, entries=SQUARE)).stages.evidence_of("brief"))


def test_the_gate_of_the_dig() -> None:
    everywhere = shot_everywhere()
    assert gate(()) is Gate.READY_TO_CHECK
    assert gate(everywhere) is Gate.READY
    assert gate(everywhere[:5]) is Gate.HELD
    too_high = (*everywhere, read(900, "A1", "1600"))
    assert gate(too_high) is Gate.HELD
    assert gate(everywhere, signed(everywhere)) is Gate.SIGNED
    assert gate(too_high, signed(everywhere)) is Gate.OVERTAKEN
    same_answer = (*everywhere, read(901, "A1", everywhere[1].reading.raw, same=True))
    assert gate(same_answer, signed(everywhere)) is Gate.SIGNED


def test_the_dig_stands_on_a_signed_brief_a_signed_set_out_and_located_services() -> None:
    everywhere = shot_everywhere()
    held = assess(replace(JOB, entries=everywhere)).stages.of("excavation")
    signed_but_for_the_brief = replace(JOB, entries=(*SQUARE, *everywhere), sign_offs=(SET_OUT_SIGNED,))
    reaches_back = assess(signed_but_for_the_brief).stages.of("excavation").stops
    assert [f.found.text(Unit.METRES) for f in reaches_back if f.rule == "G01"] == ["Brief is not signed"]
    assert held.gate is Gate.HELD and [f.rule for f in held.stops] == ["G01", "D01", "G06"]


def test_a_changed_specification_overtakes_what_was_signed_on_the_old_one() -> None:
    everywhere = shot_everywhere()
    thicker = replace(SPECIFICATION, layers=(*SPECIFICATION.layers, Layer(Role.SUB_BASE, "dense-graded", 0.005)))
    signatures = (BRIEF_SIGNED, SET_OUT_SIGNED, *signed(everywhere))
    before = assess(replace(JOB, entries=(*SQUARE, *DIG_SEEN, *everywhere), sign_offs=signatures))
    after = assess(replace(before.job, specification=thicker))
    assert after.stages.of("excavation").gate is Gate.OVERTAKEN
    assert [answer.stage.key for answer in overtaken(before, after)] == ["brief", "excavation"]
    renamed = assess(replace(before.job, name="another name", marks=(*JOB.marks, Mark("nail", (1, 1), 10.0))))
    assert overtaken(before, renamed) == ()


def test_an_accepted_stop_no_longer_holds_until_it_changes() -> None:
    dusty = replace(JOB, brief=replace(JOB.brief, cutting=True), entries=tuple(looked(assess(JOB), "brief")))
    (stop,) = assess(dusty).stages.of("brief").stops
    accepted = Acceptance("a", "brief", stop.identity, "Ines", "lead", "all cut off site")
    answer = assess(replace(dusty, acceptances=(accepted,))).stages.of("brief")
    assert answer.gate is Gate.READY and answer.findings and not answer.stops
    assert assess(replace(dusty, acceptances=(replace(accepted, finding="S17: other"),))).stages.of("brief").stops


@pytest.mark.parametrize(
    ("deviation_mm", "rule"), [(34, "D02"), (-60, "D03"), (19, "D02")], ids=["high", "over-dug", "too close"]
)
def test_one_station_out_holds_the_stage_by_its_rule(deviation_mm: int, rule: str) -> None:
    everywhere = list(shot_everywhere())
    wrong = everywhere[4]
    everywhere[4] = replace(wrong, reading=parse_rod(str(int(wrong.reading.raw) - deviation_mm), Unit.MILLIMETRES))
    findings = [f for f in assess(replace(JOB, entries=tuple(everywhere))).surfaces.findings() if f.rule != "M01"]
    assert [(f.rule, f.severity, f.stations) for f in findings] == [(rule, Severity.STOP, (wrong.station,))]


def test_a_few_stations_not_shot_warn_and_many_stop() -> None:
    everywhere = shot_everywhere()
    shots = everywhere[1:-1]
    found = [assess(replace(JOB, entries=(SET_UP, *shots[:n], everywhere[-1]))).surfaces.findings() for n in (9, 8)]
    few, many = (next(f for f in findings if "not shot" in f.found.phrase) for findings in found)
    assert (few.rule, few.severity) == ("D06", Severity.WARNING)
    assert (many.rule, many.severity) == ("D06", Severity.STOP)
    assert len(shots) == 10


def test_stone_cures_an_over_dig() -> None:
    everywhere = shot_everywhere()
    name = everywhere[3].station
    low = read(900, name, str(int(everywhere[3].reading.raw) + 50))
    level = read(901, name, everywhere[3].reading.raw)
    assert gate((*everywhere, low, level)) is Gate.HELD
    assert gate((*everywhere, low, Fill("f", name, "stone"), level)) is Gate.READY
    assert gate((*everywhere, low, Fill("f", name, "soil"), level)) is Gate.HELD


def test_after_a_reading_the_next_station_not_shot_is_next() -> None:
    everywhere = shot_everywhere()
    names = [s.name for s in assess(JOB).job.stations]
    assert assess(replace(JOB, entries=(SET_UP,))).surveys.formation.next_station(names[0]) == names[1]
    assert assess(replace(JOB, entries=everywhere[:-2])).surveys.formation.next_station(names[0]) == names[-1]
    assert assess(replace(JOB, entries=everywhere)).surveys.formation.next_station(names[-1]) == names[0]


def test_once_all_are_shot_the_next_is_one_that_is_not_as_it_should_be() -> None:
    """The third stands 40 mm high: from the last and from the first one is led to it, from itself simply on."""
    everywhere = list(shot_everywhere())
    names = [s.name for s in assess(JOB).job.stations]
    high = next(n for n, entry in enumerate(everywhere) if getattr(entry, "station", "") == names[2])
    everywhere[high] = read(800, names[2], str(int(everywhere[high].reading.raw) - 40))
    survey = assess(replace(JOB, entries=tuple(everywhere))).surveys.formation
    assert survey.next_station(names[-1]) == names[2] == survey.next_station(names[0])
    assert survey.next_station(names[2]) == names[3]
