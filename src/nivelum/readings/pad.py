"""What the panes of Ground show: plan, stake and pad, by what the person holds."""

import math
from typing import Any

from django.utils.translation import gettext

from groundwork import entries
from groundwork.assess import Assessment
from groundwork.levels import LineOfSight
from groundwork.measures import Unit
from groundwork.plan import neighbour
from groundwork.tools import Method
from groundwork.verdict import Foretold, Outcomes, Standing, Suspicion
from nivelum.crews.policy import Verb
from nivelum.drawing.glyphs import symbol
from nivelum.drawing.plan import plan
from nivelum.drawing.stake import stake
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot
from nivelum.jobs.templatetags.measures import standing_css, standing_word
from nivelum.readings.forms import (
    ANCHOR_FORMS,
    AnchorForm,
    CorrectionForm,
    FallForm,
    FillForm,
    ReadingForm,
    SightForm,
    new_turning_point,
)
from nivelum.readings.hand import Hand
from nivelum.readings.place import Place
from nivelum.recording.forms import EntryForm, StrikeForm
from nivelum.recording.services import may_strike

DIRECTIONS = {"right": (1, 0), "left": (-1, 0), "up": (0, 1), "down": (0, -1)}
WANT_FILL = {Standing.OVER_DUG, Standing.UNEXPLAINED, Standing.UNSOUND_FILL}
PANES = ("anew", "sight", "mend")
"""What else the pad shows of the tool in hand: set up anew, sight a point, put something right."""


def panes(visit: Visit, shot: Snapshot, place: Place, hand: Hand) -> dict[str, Any]:
    """Plan and stake, and what the pad needs whatever it shows."""
    assessment, unit = shot.assessment, visit.job.crew.unit
    survey = assessment.surveys.of(place.surface)
    answer = survey.answers[place.station]
    standings = {a.judgement.standing for a in survey.answers.values()}
    return job_screen(visit, shot, "ground") | {
        "answer": answer,
        "place": place,
        "survey": survey,
        "surfaces": [(s, assessment.surveys.of(s.key)) for s in assessment.surveys.levelled],
        "standings": [standing for standing in Standing if standing in standings],
        "plan": plan(assessment, place.surface, unit, place.station, standing_word, _stands_at(hand)),
        "stake": stake(assessment, survey, answer, unit),
        "ways": {way: neighbour(assessment.job.stations, place.station, to) for way, to in DIRECTIONS.items()},
        "may_measure": visit.may(Verb.MEASURE),
        "hand": hand,
        "target": survey.target(answer.station, hand.reference),
    }


def _stands_at(hand: Hand) -> str | None:
    return hand.anchor.id if hand.anchor else None


def pad(
    visit: Visit, shot: Snapshot, place: Place, hand: Hand, *, last: str = "", struck: str = "",
    pane: str = "", mark: str = "", suspicion: Suspicion | None = None, **forms: EntryForm,
) -> dict[str, Any]:  # fmt: skip
    """The pad: the last verdict and what it asks now; `forms` are those refused."""
    assessment, unit = shot.assessment, visit.job.crew.unit
    survey = assessment.surveys.of(place.surface)
    answer = survey.answers[place.station]
    told = survey.answers.get(last or place.station, answer)
    newest = next(reversed(assessment.readings.at(told.station.name, place.surface)), None)
    made = shot.made[newest.id] if newest else None
    context: dict[str, Any] = {
        "told": told if told.judgement.standing is not Standing.UNSHOT else None,
        "newest": newest,
        "newest_made": made,
        "may_strike": made is not None and may_strike(visit, made.by_id),
        "strike_form": forms.get("strike_form") or StrikeForm(initial={"strikes": newest and newest.id}),
        "wants_fill": told.judgement.standing in WANT_FILL,
        "fill_form": forms.get("fill_form") or FillForm(initial={"station": told.station.name}),
        "suspicion": suspicion,
    }
    reference = hand.reference
    walk = survey.to_walk(place.station)
    onward = survey.answers[
        survey.next_station(place.station, lambda s: reference is None or bool(reference.spot(s.at)))
    ]
    context |= {
        "onward": onward,
        "onward_distance": math.dist(onward.station.at, answer.station.at),
        "walk": walk[:4],
    }
    if hand.method is Method.STRAIGHTEDGE:
        return context | _fall_pad(assessment, place, hand, unit, forms)
    if hand.reference is None or pane == "anew" or "anchor_form" in forms:
        return context | {"anchor_form": forms.get("anchor_form") or _anchor_form(assessment, hand, place, mark)}
    if pane == "sight" or "sight_form" in forms:
        initial = {"set_up": hand.reference.id} | ({"point": mark} if mark else {})
        form = forms.get("sight_form") or SightForm(assessment=assessment, initial=initial)
        return context | {"sight_form": form, "turning": new_turning_point(assessment)}
    if pane == "mend" or "correction_form" in forms:
        return context | _mend_pad(visit, shot, hand, forms)
    text = struck and _struck_text(assessment, struck)
    initial = {"station": place.station, "set_up": hand.reference.id, "reading": text, "surface": place.surface}
    same = answer.judgement.wants_a_repeat
    return context | {
        "reading_form": forms.get("reading_form")
        or ReadingForm(initial=initial | {"same_ground": same}, unit=unit, method=hand.method),
        "was_shot": answer.judgement.shots > 0,
        "in_sight": (target := survey.target(answer.station, hand.reference)) is not None
        and hand.reference.in_sight(target),
        "run": _run(assessment, hand),
        "foretold": _foretold(assessment, place, hand, unit),
    }


def _foretold(assessment: Assessment, place: Place, hand: Hand, unit: Unit) -> dict[str, Any] | None:
    """What the page's script needs to say at once what a reading comes to: on fresh ground, and on the same."""
    if hand.reference is None or hand.method is Method.HEIGHT_METER:
        return None
    foretold = assessment.targets.foretold
    tables = [foretold(place.station, place.surface, hand.reference, same) for same in (False, True)]
    return {"unit": str(unit), "tables": [table and table_data(table) for table in tables]}


def table_data(table: Foretold) -> dict[str, Any]:
    return {
        "offset": table.offset,
        "factor": table.factor,
        "most": table.most,
        "guard": table.guard,
        "outcomes": outcomes_data(table.outcomes),
    }


def outcomes_data(outcomes: Outcomes) -> list[dict[str, Any]]:
    return [
        {
            "at": o.edge.at,
            "guards": o.edge.guards,
            "standing": str(o.standing),
            "css": standing_css(o.standing),
            "mark": symbol(o.standing),
            "says": gettext(o.phrase).format_map(_Kept(o.counts)),
            "base": o.base,
        }
        for o in outcomes
    ]


class _Kept(dict[str, float]):
    """What is not known yet stays a place in the phrase."""

    def __missing__(self, key: str) -> str:
        return f"{{{key}}}"


def _anchor_form(assessment: Assessment, hand: Hand, place: Place, mark: str) -> AnchorForm:
    initial: dict[str, Any] = {"mark": mark} if mark else {}
    if hand.method is Method.STRING:
        row = _row_through(assessment, place.station)
        initial |= {"start": row[0], "end": row[1]}
    made = ANCHOR_FORMS[hand.method]
    return made(assessment=assessment, instrument=hand.tool.instrument, initial=initial)


def _row_through(assessment: Assessment, station: str) -> tuple[str, str]:
    """The ends of the row of stations a station stands in: where a string is most likely wanted."""
    letters = station.rstrip("0123456789")
    row = [s.name for s in assessment.job.stations if s.name.rstrip("0123456789") == letters]
    row.sort(key=lambda name: int(name[len(letters) :]))
    if len(row) > 1:
        return row[0], row[-1]
    return row[0], next(n.name for n in assessment.job.stations if n.name != row[0])


def _fall_pad(
    assessment: Assessment, place: Place, hand: Hand, unit: Any, forms: dict[str, EntryForm]
) -> dict[str, Any]:
    """A fall towards the next station down the surface."""
    here = assessment.surveys.of(place.surface).answers[place.station].station
    job = assessment.job
    ways = {neighbour(job.stations, place.station, to) for to in DIRECTIONS.values()} - {place.station}
    ends = sorted((n for n in job.stations if n.name in ways), key=lambda s: job.design.level(s.at))
    form = forms.get("fall_form") or FallForm(
        unit=unit,
        instrument=hand.tool.instrument,
        level=hand.tool.spirit_level,
        initial={"station": place.station, "surface": place.surface, "end": ends[0].name if ends else "",
                 "length": "2.0" if unit.is_metric else "6"},
    )  # fmt: skip
    level = assessment.job.design.level
    checked = [a for a in assessment.surveys.falls.values() if a.check.surface == place.surface]
    return {
        "fall_form": form,
        "fall_ends": [(s.name, (level(here.at) - level(s.at)) / math.dist(here.at, s.at)) for s in ends],
        "fall_told": next((a for a in reversed(checked) if a.check.start == place.station), None),
        "falls_checked": checked[-6:],
    }


def _mend_pad(visit: Visit, shot: Snapshot, hand: Hand, forms: dict[str, EntryForm]) -> dict[str, Any]:
    """The set-ups and sights of the run in hand, each to correct or strike out, and its points, which may have been
    knocked."""
    assessment = shot.assessment
    chain = assessment.levels.runs.chain(hand.anchor.id) if isinstance(hand.anchor, entries.SetUp) else ()
    ids = {s.id for s in chain}
    sights = [s for s in assessment.levels.runs.sights if s.set_up in ids]
    order = list(assessment.logbook.entries)
    run: list[entries.SetUp | entries.Foresight] = [*chain, *sights]
    rows = [
        (entry, entry.backsight if isinstance(entry, entries.SetUp) else entry.reading, shot.made[entry.id])
        for entry in sorted(run, key=lambda e: order.index(e.id))
        if may_strike(visit, shot.made[entry.id].by_id)
    ]
    if not chain and hand.anchor:
        rows = []
    points = assessment.levels.usable
    return {
        "mend": rows,
        "correction_form": forms.get("correction_form") or CorrectionForm(unit=visit.job.crew.unit),
        "points": points,
        "since": [s for s in assessment.logbook.set_ups.values() if s.mark in points],
        "knocked": assessment.logbook.knocked,
        "strike_anchor": None if chain else hand.anchor,
    }


def _run(assessment: Assessment, hand: Hand) -> dict[str, Any] | None:
    """How the run in hand stands: its set-ups, and its last closing sight."""
    if not isinstance(hand.reference, LineOfSight):
        return None
    chain = assessment.levels.runs.chain(hand.reference.id)
    closings = reversed(assessment.levels.runs.closings)
    closing = next((c for c in closings if c.chain[-1].id == hand.reference.id), None)
    return {"set_ups": len(chain), "closing": closing, "height": hand.reference.height.level}


def _struck_text(assessment: Assessment, struck: str) -> str:
    """What was typed in the reading just struck out."""
    found = (e for e in assessment.job.entries if e.id == struck and isinstance(e, entries.Reading))
    return next((entry.reading.raw for entry in found), "")
