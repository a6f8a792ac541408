"""Every school's stages from first to last, what holds each, and what a signature is worth afterwards."""

from dataclasses import replace
from datetime import timedelta

import pytest
from tests.conftest import DRAINED_PAD
from tests.walking import PHOTO, Crew, mm, name, passed, shot

from groundwork.assess import assess, carrying
from groundwork.assess.conditions import (
    CONDITIONS,
)
from groundwork.base import SurfaceKey
from groundwork.brief import DustControl, SpotLevel, Traffic
from groundwork.edgework import kinds as d
from groundwork.entries import kinds as e
from groundwork.files import loads
from groundwork.job import Acceptance, Job, SignOff, Withdrawal
from groundwork.jointwork import kinds as j
from groundwork.kinds import Entry
from groundwork.layerwork import kinds as w
from groundwork.laywork import kinds as y
from groundwork.measures import Severity
from groundwork.observations import Observed, Pictured, Seen
from groundwork.schools import Slot, school, schools, stagebook
from groundwork.stages import Gate, StageAnswer
from groundwork.stages.order import (
    WHEN,
)

PAD = loads(DRAINED_PAD)
STAGES = [
    "brief", "set-out", "excavation", "subgrade", "separation", "early-edges", "base-lifts", "bound-base",
    "base-proof", "bedding", "laying", "late-edges", "seating", "joints", "handover",
]  # fmt: skip


def job(key: str, traffic: Traffic | None = None) -> Job:
    built = school(key)
    taken = traffic or built.traffic[-1]
    brief = replace(PAD.brief, traffic=taken, engineer="M. Voss", sound_slab=key == "overlay")
    return replace(PAD, brief=brief, specification=built.specification(taken))


def walked_to(stage: str, key: str = "dense", traffic: Traffic | None = None) -> Crew:
    """A crew that has everything before a stage signed."""
    crew = Crew(job(key, traffic))
    for each in crew.now.stages.steps:
        if each == stage:
            return crew
        crew.do(each)
        crew.sign(each)
    raise KeyError(stage)


def rules(answer: StageAnswer) -> set[str]:
    return {f.rule for f in answer.stops}


@pytest.mark.parametrize("key", sorted(schools()))
def test_a_school_is_walked_from_first_to_last_and_each_stage_waits_for_what_it_stands_on(key: str) -> None:
    crew = Crew(job(key))
    for stage, step in crew.now.stages.steps.items():
        waiting = crew.now.stages.line[list(crew.now.stages.steps).index(stage) :]
        assert not any(answer.gate.is_signed for answer in waiting)
        before = crew.now.stages.of(stage)
        assert all(crew.now.stages.of(each).gate.is_signed for each in step.stands_on)
        assert "G01" not in rules(before) and before.gate in (Gate.READY_TO_CHECK, Gate.HELD)
        for later in step.opens:
            assert crew.now.stages.of(later).gate in (Gate.NOT_YET, Gate.HELD)
            assert "G01" in rules(crew.now.stages.of(later))
        crew.do(stage)
        ready = crew.now.stages.of(stage)
        assert (ready.gate, ready.awaits) == (Gate.READY, step.slots), [f.found.phrase for f in ready.stops]
        crew.sign(stage)
        assert crew.now.stages.of(stage).gate.is_signed and not crew.now.stages.of(stage).awaits
    assert all(answer.gate.is_signed for answer in crew.now.stages.line)
    assert crew.now.stages.in_hand.stage.key == "handover"
    # Everything was measured: nothing had to be accepted, and no question is left that the numbers answer.
    assert crew.job.acceptances == ()
    asks = {ask.key for step in crew.now.stages.steps.values() for ask in step.asks}
    assert not asks & {"slivers", "bond", "start", "held", "passes", "broken", "full", "rails"}


def test_stages_come_in_the_order_of_the_work_and_schools_move_a_few() -> None:
    assert list(stagebook()) == STAGES
    for each in schools().values():
        order = [key for row in each.order for key in row]
        moved = {"pervious": {"early-edges"}, "overlay": {"early-edges"}, "cells": {"separation", "subgrade"}}.get(
            each.key, set()
        )
        rest = [key for key in order if key not in moved]
        assert rest == [key for key in STAGES if key in rest], each.key
        dug = {"excavation"} - ({"excavation"} if each.key == "overlay" else set())
        assert {"brief", "set-out", "handover"} | dug <= set(order)
        assert len(set(order)) == len(order)
    steps = assess(job("kerbed")).stages.steps
    # Kerbs before the sub-base (common practice, no published source): beside the fabric, or by themselves.
    assert steps["base-lifts"].stands_on == ("early-edges",) and steps["early-edges"].stands_on == ("subgrade",)
    side = assess(job("slab")).stages.steps
    assert side["bedding"].stands_on == side["laying"].stands_on == ("base-proof",)
    assert side["base-proof"].opens == ("bedding", "laying")
    assert assess(job("pervious")).stages.steps["early-edges"].stands_on == ("bound-base",)
    assert "separation" not in assess(job("dense")).stages.steps and "separation" in assess(job("open")).stages.steps


def test_what_the_data_names_is_there() -> None:
    asks = [a for each in schools().values() for row in each.asks.values() for a in row]
    asks += [a for stage in stagebook().values() for a in stage.asks]
    names = {a.when for a in asks} | {s.when for s in stagebook().values()}
    assert names == set(WHEN) and set(CONDITIONS) == set(STAGES)
    for a in asks:
        assert a.asks and a.why and a.wrong
    for each in schools().values():
        assert set(each.asks) | set(each.second_look) <= {key for row in each.order for key in row}
        assert each.care


def asked_somewhere() -> list[tuple[str, str]]:
    """Stages and schools so that between them every question there is is asked."""
    left = {(s.key, a.key) for s in stagebook().values() for a in s.asks}
    left |= {(stage, a.key) for each in schools().values() for stage, row in each.asks.items() for a in row}
    left -= {("early-edges", "set-forms"), ("early-edges", "set-kerbs")}  # by design, not by school: see below
    found = []
    for key in ("pervious", *sorted(schools())):
        for stage, step in assess(job(key)).stages.steps.items():
            if here := {(stage, a.key) for a in step.asks} & left:
                left -= here
                found.append((stage, key))
    assert not left, left
    return found


@pytest.mark.parametrize(("edge", "asked"), [("forms", "set-forms"), ("kerbs", "set-kerbs")])
@pytest.mark.parametrize("key", sorted(set(schools()) - {"slab", "kerbed"}))
def test_any_school_may_have_its_edges_before_its_base(key: str, edge: str, asked: str) -> None:
    of = job(key)
    details = replace(of.specification.details, early_edge=edge)
    steps = assess(replace(of, specification=replace(of.specification, details=details))).stages.steps
    order = list(steps)
    assert asked in {a.key for a in steps["early-edges"].asks}
    usual = {"pervious": "bound-base", "overlay": "base-proof"}.get(key)
    if usual:
        assert order.index("early-edges") > order.index(usual)
    else:
        first = next(stage for stage in ("base-lifts", "base-proof") if stage in steps)
        assert steps["early-edges"].opens == (first,) and steps[first].stands_on == ("early-edges",)


def test_where_somebody_else_paves_the_work_ends_with_the_base() -> None:
    of = job("dense")
    mine = assess(replace(of, brief=replace(of.brief, by_others=True, cutting=True, dust_control=DustControl.NONE)))
    assert list(mine.stages.steps)[-2:] == ["base-proof", "handover"]
    assert not {"bedding", "laying", "late-edges", "seating", "joints"} & set(mine.stages.steps)
    assert [str(s.kind) for s in mine.surveys.levelled] == ["formation", "base", "base"]
    assert "S17" not in {f.rule for f in mine.soundness}
    assert mine.stages.of("handover").gate is Gate.NOT_YET


def test_over_a_slab_that_is_there_nothing_is_dug_and_the_slab_is_proved() -> None:
    of = job("overlay")
    there = assess(of)
    assert not {"excavation", "subgrade", "base-lifts", "bound-base"} & set(there.stages.steps)
    assert there.surface_in_hand == "bound base" and there.quantities.excavation == 0
    assert "S23" not in {f.rule for f in there.soundness}
    assert "S23" in {f.rule for f in assess(replace(of, brief=replace(of.brief, sound_slab=False))).soundness}
    assert there.works.pour is None


@pytest.mark.parametrize(("stage", "key"), asked_somewhere())
def test_every_question_holds_its_stage_until_someone_answers_it(stage: str, key: str) -> None:
    crew = walked_to(stage, key)
    crew.do(stage)
    done = crew.now.stages.of(stage)
    assert done.gate is Gate.READY and done.asked
    for asked in done.asked:
        kept = tuple(
            x for x in crew.job.entries
            if not (isinstance(x, Observed | Pictured) and (x.stage, x.ask) == (stage, asked.ask.key))
        )  # fmt: skip

        def after(*more: Entry, kept=kept) -> StageAnswer:
            return assess(replace(crew.job, entries=(*kept, *more))).stages.of(stage)

        silent = after()
        assert silent.gate in (Gate.HELD, Gate.READY_TO_CHECK) and rules(silent) == {"G06"}
        no = after(Observed(name(), stage, asked.ask.key, Seen.NO, "a hollow by the gate"))
        assert no.gate is Gate.HELD and rules(no) == {"G07"} and "a hollow by the gate" in no.stops[0].identity
        assert after(Observed(name(), stage, asked.ask.key, Seen.NOT_HERE, "none here")).gate is Gate.READY
        picture = Pictured(name(), stage, PHOTO, "here", asked.ask.key)
        assert ("G06" in rules(after(picture))) is not asked.ask.photo


def at(place: str, entries: tuple, low_mm: float, surface: str) -> Entry:
    """The newest reading at a station read again so much lower."""
    last = next(
        x for x in reversed(entries) if isinstance(x, e.Reading) and (x.station, x.surface) == (place, surface)
    )
    return replace(last, id=name(), reading=mm(last.reading.metres * 1000 + low_mm))


BROKEN = {
    "brief": lambda crew: {"specification": replace(crew.job.specification, layers=tuple(
        replace(x, thickness=0.05) if x.role == "base" else x for x in crew.job.specification.layers))},
    "set-out": lambda crew: [e.PegDistance(name(), "P1", "P3", mm(7300))],
    "excavation": lambda crew: [at("A1", crew.job.entries, -40, "formation")],
    "subgrade": lambda crew: [w.SpikeTest(name(), "formation", "T1", (1.0, 1.0), mm(60))],
    "separation": lambda crew: [
        e.Strike(name(), x.id) for x in crew.job.entries if isinstance(x, w.FabricLaid)],
    "base-lifts": lambda crew: [w.Scarified(name(), list(crew.now.works.lifts)[-1], mm(60))],
    "bound-base": lambda crew: [w.Poured(name(), crew.job.today, 1.0, 3.0, mm(2), "89")],
    "base-proof": lambda crew: [at("A1", crew.job.entries, 30, carrying(crew.now))],
    "bedding": lambda crew: [Observed(name(), "bedding", "damp", Seen.NO, "dry by the gate")],
    "laying": lambda crew: [y.CourseTaped(name(), crew.now.laying.chosen.id, max(crew.now.laying.to_tape), "left",
                                          mm(crew.now.laying.targets[max(crew.now.laying.to_tape)] * 1000 + 30))],
    "late-edges": lambda crew: [e.Strike(name(), x.id) for x in crew.job.entries if isinstance(x, d.EdgePlanned)],
    "seating": lambda crew: [at("A1", crew.job.entries, 15, "finished")],
    "joints": lambda crew: [j.JointDepth(name(), "1", 1, mm(12))],
    "handover": lambda crew: [j.LipTaped(name(), (1.0, 1.0), mm(8))],
}  # fmt: skip
"""Something that later turns out wrong, stage by stage."""


@pytest.mark.parametrize("stage", BROKEN)
def test_what_is_recorded_later_overtakes_a_signature_and_putting_it_right_brings_it_back_or_asks_for_a_new_one(
    stage: str,
) -> None:
    crew = walked_to(stage, "slab" if stage == "bound-base" else "open" if stage == "separation" else "dense")
    crew.do(stage)
    crew.sign(stage)
    before = crew.job
    harm = BROKEN[stage](crew)
    after = replace(before, **harm) if isinstance(harm, dict) else replace(before, entries=(*before.entries, *harm))
    answer = assess(after).stages.of(stage)
    assert answer.gate is Gate.OVERTAKEN and not answer.may_be_signed and answer.sign_off is not None
    crew.job = after
    following = assess(after).stages.steps[stage].opens
    assert all("G01" in rules(assess(after).stages.of(key)) for key in following)
    harmless = replace(before, entries=(*before.entries, Pictured(name(), stage, PHOTO, "one more")))
    assert assess(harmless).stages.of(stage).gate.is_signed


def first(crew: Crew, kind: type, n: int = 0) -> str:
    return [x.id for x in crew.job.entries if isinstance(x, kind)][n]


def struck(crew: Crew, kind: type) -> list:
    return [e.Strike(name(), x.id) for x in crew.job.entries if isinstance(x, kind)]


def lift_of(crew: Crew) -> str:
    return list(crew.now.works.lifts)[-1]


def gone_over(crew: Crew, lift: str) -> list:
    return [*passed(lift, crew.machine, 8), *(w.Tamped(name(), lift, n) for n in range(len(crew.job.outline)))]


def dense_at(crew: Crew, wet: float) -> list:
    lift = crew.now.works.lifts[lift_of(crew)]
    return [w.GaugeTest(name(), lift.key, place, at_, wet, 0.06) for place, at_ in lift.places]


def soft(_crew: Crew) -> list:
    return [w.SpikeTest(name(), "formation", "S9", (2.0, 2.0), mm(70))]


def made_firm(crew: Crew) -> list:
    spot = w.SoftSpot(name(), "by the gate", ((1.0, 1.0), (3.0, 1.0), (3.0, 3.0), (1.0, 3.0)), mm(200))
    cure = w.Cured(name(), spot.id, w.CureKind.STONE, crew.job.today, 2)
    return [spot, cure, w.SpikeTest(name(), "formation", "S9", (2.0, 2.0), mm(6))]


def stone(crew: Crew) -> list:
    return [e.Fill(name(), "A1", "stone"), at("A1", crew.job.entries, -60, "formation")]


def poured(crew: Crew, days_ago: int = 40, celsius: float = 16.0, gave: float = 1, volume: float = 1.0) -> list:
    return [w.Poured(name(), crew.job.today - timedelta(days=days_ago), volume, celsius, mm(gave), "x")]


def last_pour_struck(crew: Crew) -> list:
    return [e.Strike(name(), first(crew, w.Poured, -1))]


def drops(crew: Crew, by_mm: float) -> list:
    return [w.WeightTest(name(), lift_of(crew), "T1", (1.0, 1.0), (by_mm / 1000,) * 3)]


def unshot(crew: Crew, surface: str) -> list:
    return [e.Strike(name(), x.id) for x in crew.job.entries if isinstance(x, e.Reading) and x.surface == surface]


def at_first(crew: Crew, surface: str, high_mm: float) -> Entry:
    """A station of a surface nobody has shot yet, so much too high."""
    anchor, target = crew.now.levels.set_up, crew.now.targets.at("A1", surface)
    return e.Reading(name(), "A1", anchor.id, mm(target * 1000 - high_mm), surface=surface)


def lower(surface: str, by_mm: float):
    return lambda c: [at("A1", c.job.entries, by_mm, surface)]


HELD = [
    # Stage, school, what goes wrong, the rule it holds by, what puts it right.
    ("set-out", "dense", lambda c: struck(c, e.ServicesLocated), "D01",
     lambda c: [e.ServicesLocated(name(), "T-2", c.job.today, 14, "the locators")]),
    ("set-out", "dense", lambda c: [e.PegDistance(name(), "P1", "P3", mm(7300))], "P01",
     lambda c: [e.PegDistance(name(), "P1", "P3", mm(7211))]),
    ("excavation", "dense", lower("formation", -40), "D02", lower("formation", 40)),
    ("excavation", "dense", lower("formation", 60), "D03", stone),
    ("excavation", "dense", lambda c: unshot(c, "formation"), "D06", lambda c: [*shot(c.now, "formation")]),
    ("excavation", "dense", lambda c: [*struck(c, e.Foresight),
                                       e.Foresight(name(), first(c, e.SetUp), "bolt", mm(1600))], "R01",
     lambda c: [e.Strike(name(), first(c, e.Foresight, -1))]),
    ("subgrade", "dense", soft, "D04", made_firm),
    ("subgrade", "dense", lambda c: [w.Scarified(name(), "formation", mm(50)), *passed("formation", c.machine, 1)],
     "L02", lambda c: gone_over(c, "formation")),
    ("separation", "open", lambda c: struck(c, w.FabricLaid), "D11",
     lambda c: [w.FabricLaid(name(), "formation", mm(900), True, mm(200))]),
    ("base-lifts", "dense", lambda c: [w.Scarified(name(), lift_of(c), mm(60))], "L02",
     lambda c: gone_over(c, lift_of(c))),
    ("base-lifts", "dense", lambda c: dense_at(c, 1900 * 1.06), "L04", lambda c: dense_at(c, 2190 * 1.06)),
    ("base-lifts", "dense", lambda c: [w.Settling(name(), lift_of(c), "A1", 8, mm(1400), mm(1406))], "L05",
     lambda c: [w.Settling(name(), lift_of(c), "A1", 9, mm(1406), mm(1407))]),
    ("base-lifts", "dense", lambda c: [w.ToppedUp(name(), lift_of(c), "A1", mm(20))], "L09",
     lambda c: [e.Strike(name(), first(c, w.ToppedUp))]),
    ("base-lifts", "open", lambda c: [w.GaugeTest(name(), lift_of(c), "T1", (1.0, 1.0), 1700.0, 0.02)], "L10",
     lambda c: [e.Strike(name(), first(c, w.GaugeTest))]),
    ("base-lifts", "dense", lambda c: drops(c, 2.0), "L12", lambda c: drops(c, 0.3)),
    ("base-lifts", "slab", lower("sub-base", -30), "L06", lower("sub-base", 30)),
    ("bound-base", "slab", lambda c: poured(c, gave=9), "B01", last_pour_struck),
    ("bound-base", "slab", lambda c: poured(c, celsius=3.0), "B02", last_pour_struck),
    ("bound-base", "slab", lambda c: poured(c, days_ago=0), "B04", last_pour_struck),
    ("bound-base", "slab", lambda c: struck(c, w.Poured), "B06", lambda c: poured(c, volume=9.0)),
    ("base-proof", "dense", lower("base", -30), "L06", lower("base", 30)),
    ("base-proof", "dense", lambda c: unshot(c, "base"), "D06", lambda c: [*shot(c.now, "base")]),
    ("bedding", "dense", lambda c: [at_first(c, "screed", 20)], "F01", lower("screed", 20)),
    ("seating", "dense", lower("finished", -20), "F01", lower("finished", 20)),
    ("handover", "dense", lower("finished", -20), "F01", lower("finished", 20)),
]  # fmt: skip


@pytest.mark.parametrize(("stage", "key", "wrong", "rule", "right"), HELD, ids=[f"{r[0]} {r[3]}" for r in HELD])
def test_what_is_computed_holds_its_stage_and_lets_it_go_once_it_is_put_right(stage, key, wrong, rule, right) -> None:
    crew = walked_to(stage, key)
    crew.do(stage)
    assert crew.now.stages.of(stage).gate is Gate.READY
    crew.record(*wrong(crew))
    held = crew.now.stages.of(stage)
    assert rule in rules(held) and held.gate in (Gate.HELD, Gate.READY_TO_CHECK)
    crew.record(*right(crew))
    assert crew.now.stages.of(stage).gate is Gate.READY, [
        (f.rule, f.found.phrase) for f in crew.now.stages.of(stage).stops
    ]


def test_lifts_nobody_has_made_hold_the_lifts() -> None:
    crew = walked_to("base-lifts")
    crew.compact(next(key for key in crew.now.works.lifts if key != "formation"))
    crew.look("base-lifts")
    assert "L13" in rules(crew.now.stages.of("base-lifts"))
    crew.compact(lift_of(crew))
    assert crew.now.stages.of("base-lifts").gate is Gate.READY


def test_a_brief_is_held_by_its_design_and_a_deep_dig_by_nobodys_word_on_its_sides() -> None:
    crew = walked_to("brief")
    crew.look("brief")
    dusty = assess(replace(crew.job, brief=replace(crew.job.brief, dust_control=DustControl.NONE)))
    assert dusty.stages.of("brief").gate is Gate.HELD and "S17" in rules(dusty.stages.of("brief"))
    assert crew.now.stages.of("brief").gate is Gate.READY
    high = tuple(SpotLevel(corner, 11.3) for corner in crew.job.outline)
    deep = replace(walked_to("excavation").job, spots=high)
    assert "D08" in rules(assess(deep).stages.of("excavation"))
    word = w.Competent(name(), "M. Voss", "engineer", "battered back")
    assert "D08" not in rules(assess(replace(deep, entries=(*deep.entries, word))).stages.of("excavation"))


def test_a_base_under_heavy_traffic_wants_the_engineer_beside_the_lead_and_two_persons() -> None:
    heavy = replace(job("dense", Traffic.DRIVE), brief=replace(PAD.brief, traffic=Traffic.HEAVY, engineer="M. Voss"))
    crew = Crew(heavy)
    assert crew.now.stages.steps["brief"].slots == (Slot.LEAD, Slot.ENGINEER)
    assert crew.now.stages.steps["laying"].slots == (Slot.LEAD,)
    assert crew.now.stages.steps["base-proof"].slots == (Slot.LEAD, Slot.ENGINEER, Slot.SECOND)
    crew.do("brief")
    evidence = crew.now.stages.evidence_of("brief")
    slots = crew.now.stages.steps["brief"].slots
    lead = SignOff("1", "brief", "Ines", evidence, "ines", Slot.LEAD, slots)

    def gate(*signed: SignOff) -> tuple[Gate, tuple]:
        answer = assess(replace(crew.job, sign_offs=signed)).stages.of("brief")
        return answer.gate, answer.awaits

    assert gate(lead) == (Gate.READY, (Slot.ENGINEER,))
    assert gate(lead, replace(lead, id="2", slot=Slot.ENGINEER, joins="1")) == (Gate.READY, (Slot.ENGINEER,))
    marit = replace(lead, id="3", person="marit", slot=Slot.ENGINEER, joins="1")
    assert gate(lead, marit)[0].is_signed
    assert gate(marit)[1] == (Slot.LEAD,)
    thinner = replace(crew.job.specification, settlement=0.002)
    changed = replace(crew.job, specification=thinner, sign_offs=(lead,))
    assert assess(changed).stages.of("brief").gate is Gate.READY, "half signed, then changed: nothing stands yet"
    assert assess(changed).stages.of("brief").awaits == slots
    assert assess(replace(changed, sign_offs=(lead, marit))).stages.of("brief").gate is Gate.OVERTAKEN


def test_withdrawing_takes_a_signature_or_an_acceptance_back_and_leaves_it_in_the_record() -> None:
    crew = walked_to("excavation")
    crew.do("excavation")
    crew.sign("excavation")
    signed = crew.job.sign_offs[-1]
    back = Withdrawal("w", signed.id, "Ines", "signed the wrong job")
    after = assess(replace(crew.job, withdrawals=(back,))).stages.of("excavation")
    assert (after.gate, after.sign_off, after.withdrawal) == (Gate.READY, None, back)
    crew.record(at("A1", crew.job.entries, -40, "formation"))
    stop = next(f for f in crew.now.stages.of("excavation").stops if f.rule == "D02")
    accepted = Acceptance("a", "excavation", stop.identity, "Ines", "lead", "rock, left as it is")
    crew.job = replace(crew.job, acceptances=(*crew.job.acceptances, accepted))
    crew.sign("excavation")
    assert crew.now.stages.of("excavation").gate is Gate.OVERTAKEN or crew.now.stages.of("excavation").gate.is_signed
    held = assess(replace(crew.job, withdrawals=(Withdrawal("v", "a", "Ines", "it can be broken out"),)))
    assert "D02" in rules(held.stages.of("excavation"))


def test_a_stage_signed_over_an_accepted_stop_says_so() -> None:
    crew = walked_to("excavation")
    crew.make("excavation")
    crew.record(at("A1", crew.job.entries, -40, "formation"))
    crew.look("excavation")
    stop = next(f for f in crew.now.stages.of("excavation").findings if f.rule == "D02")
    assert stop.severity is Severity.STOP and crew.now.stages.of("excavation").gate is Gate.READY
    crew.sign("excavation")
    signed = crew.now.stages.of("excavation")
    assert signed.gate is Gate.SIGNED_ACCEPTED and signed.acceptances[0].reason == "as agreed"
    frozen = [f for f in signed.sign_off.evidence["findings"] if "accepted" in f]
    assert frozen and frozen[0]["rule"] == "D02"


def test_what_nobody_may_accept_is_not_acceptable() -> None:
    untouched = assess(job("dense"))
    stops = [f for stage in untouched.stages.line for f in stage.stops]
    assert {f.rule for f in stops if not f.acceptable} >= {"G01", "G06", "D01", "D04"}


def test_the_seated_surface_is_judged_at_seating_and_again_at_handover() -> None:
    crew = walked_to("seating")
    crew.record(*shot(crew.now, SurfaceKey.FINISHED))
    assert crew.now.stages.of("seating").gate is Gate.HELD and rules(crew.now.stages.of("seating")) == {
        "G06", "V03", "V06"
    }  # fmt: skip
    low = replace(crew.job, entries=(*crew.job.entries, at("A1", crew.job.entries, 12, "finished")))
    assert {"F01"} <= rules(assess(low).stages.of("seating")) and {"F01"} <= rules(assess(low).stages.of("handover"))


@pytest.mark.parametrize(
    ("entry", "field"),
    [
        (Observed("1", "nowhere", "x", Seen.YES), "stage"),
        (Observed("1", "brief", "x", Seen.YES), "ask"),
        (Observed("1", "brief", "on-site", Seen.NO, " "), "words"),
        (Observed("1", "brief", "on-site", Seen.NOT_HERE, "no"), "words"),
        (Observed("1", "subgrade", "photo", Seen.YES), "answer"),
        (Pictured("1", "brief", PHOTO, "", "x"), "ask"),
        (Observed("1", "brief", "on-site", Seen.NO, "copied"), None),
        (Pictured("1", "brief", PHOTO, "the step"), None),
    ],
)
def test_an_observation_names_what_the_stage_asks(entry, field) -> None:
    found = entry.wrong(assess(job("dense")).standing)
    assert (found and found.field) == field
