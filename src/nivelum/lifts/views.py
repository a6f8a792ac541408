"""Lifts: how thick, how wet, how many passes, is it tight?"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.http import Http404, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.http import urlencode
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork import layerwork
from groundwork.assess import Assessment
from groundwork.base import Role
from groundwork.brief import ConeLog
from groundwork.lifts import Lift, Works
from groundwork.measures import FOOT, POUND, Unit
from groundwork.stages import LessonKind
from groundwork.tools import LIMIT, MachineKind, Would, time_until
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.cone import cone_drawing
from nivelum.drawing.lifts import STATE_CSS, compaction_curve, ladder, lift_plan, pour_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.lessons import learnt
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, Made, Snapshot, snapshot
from nivelum.lifts.forms.lift import MACHINE_WORDS, AgainForm
from nivelum.lifts.services import NotChosen, choose_lifts, known_machines
from nivelum.recording.door import RecordedAt, answered, recorded
from nivelum.recording.forms import EntryForm, StrikeForm
from nivelum.recording.kinds import FACES, plain_kinds
from nivelum.recording.services import may_strike

TOLD = 8
"""So many of a lift's newest entries are listed."""


@dataclass(frozen=True)
class Listed:
    """Something recorded on a lift, as the list shows it."""

    entry: layerwork.Work
    made: Made
    may_strike: bool

    @property
    def kind(self) -> str:
        return self.entry.KIND


@require_GET
@job_view(Verb.SEE)
def lift(request: Request, visit: Visit) -> HttpResponse:
    """The ladder, the plan of what was gone over, the hands' own controls."""
    context = _lift_context(request, visit)
    return render(request, "lifts/hands.html" if request.htmx else "lifts/lift.html", context)


@require_GET
@job_view(Verb.SEE)
def lift_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have done; what is being typed is left alone."""
    return render(request, "lifts/now.html", _lift_context(request, visit))


@require_GET
@job_view(Verb.MEASURE)
def more(request: Request, visit: Visit) -> HttpResponse:
    """What is wanted now and then: settlement, machines, loosening, skins, weather."""
    if not request.htmx:
        return render(request, "lifts/lift.html", _lift_context(request, visit, more=True))
    return render(request, "lifts/more.html", _lift_context(request, visit, more=True))


@require_GET
@job_view(Verb.SEE)
def spread(request: Request, visit: Visit) -> HttpResponse:
    """What the rod reads on top of a lift, loose and compacted, station by station."""
    context, shot = _screen(request, visit, "lifts", ())
    context["leaf"] = "spread-targets"
    context["targets"] = _targets(shot.assessment, context["lift"])
    if plan := context["lift"].plan:
        context["bulks"] = learnt(visit.job, LessonKind.BULKING, plan.material.key)
        context["took"] = learnt(visit.job, LessonKind.PASSES, plan.material.key)
    return render(request, "lifts/spread.html", context)


@require_GET
@job_view(Verb.SEE)
def tests(request: Request, visit: Visit) -> HttpResponse:
    return render(request, "lifts/tests.html", _tests_context(request, visit))


@require_GET
@job_view(Verb.SEE)
def subgrade(request: Request, visit: Visit) -> HttpResponse:
    return render(request, "lifts/ground.html", _ground_context(request, visit))


@require_GET
@job_view(Verb.SEE)
def pour(request: Request, visit: Visit) -> HttpResponse:
    return render(request, "lifts/pour.html", _pour_context(request, visit))


@require_GET
@job_view(Verb.SEE)
def deliveries(request: Request, visit: Visit) -> HttpResponse:
    return render(request, "lifts/deliveries.html", _deliveries_context(request, visit))


def _ids(kind: str) -> str:
    """How the fields of a kind's form are called on a page of many forms."""
    return f"id_{kind.replace(' ', '-')}_%s"


@require_POST
@job_view(Verb.MEASURE)
def record_work(request: Request, visit: Visit, kind: str) -> HttpResponse:
    """Records an entry of work of any kind."""
    face = FACES.get(kind)
    if face is None or face.leaf not in _LEAVES or face.form is None:
        raise Http404
    shot = snapshot(visit.job)
    works, unit = shot.assessment.works, visit.job.crew.unit
    form: EntryForm
    if kind == "machine" and "again" in request.POST:
        known = known_machines(visit, list(works.machines.values()))
        form = AgainForm(request.POST, unit=unit, works=works, known=known, auto_id=_ids(kind))
    else:
        form = face.form(request.POST, request.FILES, unit=unit, works=works, auto_id=_ids(kind))
    return _answer(request, visit, kind, form)


@require_POST
@job_view(Verb.MEASURE)
def strike(request: Request, visit: Visit) -> HttpResponse:
    """Strikes out something recorded here."""
    return _answer(request, visit, request.POST.get("kind", ""), StrikeForm(request.POST))


@require_POST
@job_view(Verb.DESIGN)
def choose(request: Request, visit: Visit) -> HttpResponse:
    """Lays a layer in another number of lifts."""
    role, number = request.POST.get("role", ""), request.POST.get("number", "")
    if role not in (Role.BASE, Role.SUB_BASE) or not number.isascii() or not number.isdigit() or len(number) > 2:
        raise Http404
    refused = ""
    try:
        choose_lifts(visit, Role(role), int(number), Author(visit.person))
    except NotChosen as error:
        refused = str(error)
    if refused:
        return render(request, "lifts/lift.html", _lift_context(request, visit) | {"refused": refused}, status=422)
    return HttpResponseRedirect(reverse("lifts", args=[visit.job.id]))


def _answer(request: Request, visit: Visit, kind: str, form: Any) -> HttpResponse:
    """Records what `form` holds and shows where it was made, its errors beside its fields where there are any."""
    face = FACES.get(kind)
    leaf = face.leaf if face and face.leaf in _LEAVES else "lifts"
    field = (face.first if face else "") or next((f.name for f in form.visible_fields() if f.name != "lift"), "")
    done = recorded(visit, form, field)
    lift = request.POST.get("lift")
    makes, page, part = _LEAVES[leaf]
    way = reverse(leaf, args=[visit.job.id]) + (f"?{urlencode({'lift': lift})}" if lift else "")

    def context() -> dict[str, Any]:
        if done:
            return makes(request, visit)
        own = _lift_context(request, visit, more=kind in MORE) if leaf == "lifts" else makes(request, visit)
        return own | {"wrong_kind": kind, "forms": own["forms"] | {kind: form}}

    return answered(request, done, RecordedAt(page, part, way), context)


def _screen(
    request: Request, visit: Visit, leaf: str, kinds: tuple[str, ...], shot: Snapshot | None = None
) -> tuple[dict[str, Any], Snapshot]:
    """What every leaf shows: the job, as in `shot` where that is known, the lift asked for, an empty form of each
    kind it makes."""
    shot = shot or snapshot(visit.job)
    works, unit = shot.assessment.works, visit.job.crew.unit
    asked = request.POST.get("lift") or request.GET.get("lift", "")
    chosen = works.lifts.get(asked) or works.in_hand
    stations = list(shot.assessment.surveys.ground)
    forms = {
        kind: made(unit=unit, works=works, initial=_usual(kind, works, chosen, stations), auto_id=_ids(kind))
        for kind in (*kinds, *plain_kinds(leaf))
        if (made := FACES[kind].form)
    }
    context = job_screen(visit, shot, "lifts") | {
        "leaf": leaf,
        "works": works,
        "lift": chosen,
        "surface": shot.assessment.job.specification.surface(chosen.key),
        "lifts": [(shot.assessment.job.specification.surface(key), each, STATE_CSS[each.state])
                  for key, each in works.lifts.items()],
        "may_measure": visit.may(Verb.MEASURE),
        "may_design": visit.may(Verb.DESIGN),
        "forms": forms,
        "wrong_kind": "",
        "plain": {kind: FACES[kind].title for kind in plain_kinds(leaf)},
    }  # fmt: skip
    return context, shot


def _usual(kind: str, works: Works, chosen: Lift, stations: list[str]) -> dict[str, Any]:
    initial: dict[str, Any] = {"lift": chosen.key}
    if kind in ("cured", "poured"):
        initial["on"] = timezone.localdate()
    if kind == "laboratory":
        initial |= {"gravity": "2.65", "material": chosen.plan.material.key if chosen.plan else None}
    if kind == "settling":
        initial["after_passes"] = max(1, chosen.passes_done)
    if kind == "spread":
        initial["station"] = next((n for n in stations if n not in chosen.spread), None)
    if kind == "delivered":
        initial["material"] = works.courses[-1].layer.material if works.courses else None
    return initial


HANDS = ("spread", "moisture")
MORE = ("machine", "settling", "scarified", "topped_up", "weather")


def _lift_context(request: Request, visit: Visit, more: bool = False) -> dict[str, Any]:
    """Everything beside a lift; with `more` the forms wanted now and then too, which a lift without a machine, or one
    that wants its settlement, has at once."""
    shot = snapshot(visit.job)
    works = shot.assessment.works
    asked_for = works.lifts.get(request.POST.get("lift") or request.GET.get("lift", "")) or works.in_hand
    more = more or asked_for.next_step.kind in ("machine", "light", "settle")
    context, shot = _screen(request, visit, "lifts", (*HANDS, *MORE) if more else HANDS, shot)
    assessment, unit = shot.assessment, visit.job.crew.unit
    chosen: Lift = context["lift"]
    asked = request.POST or request.GET
    patch = asked.get("patch", "")
    patch = patch if patch in assessment.standing.patches else ""
    machines = works.machines
    wanted = asked.get("machine", "")
    last = next((e.machine for e in reversed(chosen.work) if isinstance(e, layerwork.Passed)), "")
    machine_id = next((m for m in (wanted, last, *reversed(machines)) if m in machines), "")
    machine = machines.get(machine_id)
    here = [each for each in chosen.coverage if patch in ("", each.patch.name)]
    return context | {
        "ladder": ladder(assessment, chosen.key, unit),
        "plan": lift_plan(assessment, chosen, unit, patch),
        "state_css": STATE_CSS[chosen.state],
        "patch": patch,
        "machine": machine,
        "machine_id": machine_id,
        "more": more and visit.may(Verb.MEASURE),
        "known": known_machines(visit, list(machines.values())) if more and visit.may(Verb.MEASURE) else [],
        "ways": [("along", min(c.along for c in here)), ("across", min(c.across for c in here))],
        "step": chosen.next_step.kind,
        "next_way": "along" if min(c.along for c in here) <= min(c.across for c in here) else "across",
        "told": _told(visit, shot, chosen),
        "sides": [(n, f"P{n + 1}–P{(n + 1) % len(assessment.job.outline) + 1}") for n in chosen.untamped],
        "until_action": None if machine is None else time_until(machine.vibration) / 60,
        "until_limit": None if machine is None else time_until(machine.vibration, LIMIT) / 60,
        "minutes": round(chosen.plan.seconds / 60) if chosen.plan and chosen.plan.seconds else 0,
        "water_a_point": chosen.plan.water_a_point if chosen.plan and chosen.optimum is not None else None,
        "more_lifts": chosen.plan is not None and chosen.plan.wants_other_lifts,
        "would": [_would(w, unit) for w in chosen.plan.would] if chosen.plan else [],
        "stations": tuple(assessment.surveys.ground),
        "patches": [c.patch.name for c in chosen.coverage],
        "base_query": urlencode({"lift": chosen.key, "machine": machine_id}),
        "may_choose": visit.may(Verb.DESIGN) and not chosen.is_begun,
    }


def _would(of: Would, unit: Unit) -> str:
    """A machine that is heavy enough, in words."""
    per = {MachineKind.PLATE: "kg/m²", MachineKind.TAMPER: "kg", MachineKind.ROLLER: "kg/m"}[of.kind]
    number = of.above
    if not unit.is_metric:
        per = {"kg/m²": "lb/ft²", "kg": "lb", "kg/m": "lb/ft"}[per]
        number /= {"lb/ft²": POUND / FOOT**2, "lb": POUND, "lb/ft": POUND / FOOT}[per]
    return _("a {kind} over {number} {per} ({n} passes)").format(
        kind=MACHINE_WORDS[of.kind], number=round(number), per=per, n=of.passes
    )


def _told(visit: Visit, shot: Snapshot, chosen: Lift) -> list[Listed]:
    """The newest of what was recorded on a lift."""
    return [
        Listed(entry, shot.made[entry.id], may_strike(visit, shot.made[entry.id].by_id))
        for entry in reversed(chosen.work[-TOLD:])
    ]


def _targets(assessment: Assessment, chosen: Lift) -> list[tuple[str, float | None, float | None]]:
    """Station by station what should be read loose and compacted, where the tool in hand reads there."""
    if chosen.plan is None or assessment.levels.present is None:
        return []
    targets, raised = assessment.targets, chosen.plan.loose - chosen.plan.compacted
    return [
        (name, targets.loose(name, chosen.key, raised), targets.at(name, chosen.key))
        for name in assessment.surveys.of(chosen.key).answers
    ]


def _tests_context(request: Request, visit: Visit) -> dict[str, Any]:
    kinds = ("gauge", "sand", "weight", "spike", "cone", "proof_roll", "laboratory")
    context, shot = _screen(request, visit, "lift-tests", kinds)
    chosen: Lift = context["lift"]
    works: Works = context["works"]
    results = [(d.test, d.dry) for d in chosen.densities if d.dry is not None]
    curve = chosen.curve
    return context | {
        "probes": settings.PROBES,
        "density_words": _density_words(visit.job.crew.unit),
        "curve": lambda: compaction_curve(curve, visit.job.crew.unit, results) if curve else "",
        "tested": str([(test.id, test.place, test.moisture, dry) for test, dry in results]),
        "compaction": curve,
        "ground": works.subgrade if chosen.course is None else None,
        "places": _places(shot.assessment, chosen),
        "cones": [
            (test.place, cone_drawing(ConeLog(test.place, test.blows, test.depths, test.soil), visit.job.crew.unit))
            for test in chosen.tests
            if isinstance(test, layerwork.ConeTest)
        ],
        "told": [t for t in _told(visit, shot, chosen) if isinstance(t.entry, layerwork.PlacedTest)],
        "plan": lift_plan(shot.assessment, chosen, visit.job.crew.unit, ""),
    }


def _density_words(unit: Unit) -> tuple[str, str, str]:
    """What the fields of density tests are in."""
    if unit.is_metric:
        return _("Wet density, kg/m³"), _("Sand used, kg"), _("Sand’s density, kg/m³")
    return _("Wet density, lb/ft³"), _("Sand used, lb"), _("Sand’s density, lb/ft³")


def _places(assessment: Assessment, chosen: Lift) -> list[tuple[str, str, float, bool]]:
    """Each drawn place, its nearest station, how far from it, and whether it was tested."""
    tested = {test.place for test in chosen.tests}
    near = [(name, *assessment.works.nearest_station(at)) for name, at in chosen.places]
    return [(name, station, far, name in tested) for name, station, far in near]


def _ground_context(request: Request, visit: Visit) -> dict[str, Any]:
    context, shot = _screen(request, visit, "subgrade", ("soft_spot", "cured", "fabric", "competent"))
    works: Works = context["works"]
    formation = works.lifts["formation"]
    return context | {
        "ground": works.subgrade,
        "plan": lift_plan(shot.assessment, formation, visit.job.crew.unit, ""),
        "depth_findings": works.depth_findings,
        "scarify": shot.assessment.case.school.scarify,
        "today": shot.assessment.job.today,
        "lift": formation,
        "surface": shot.assessment.job.specification.surface(formation.key),
        "laid": [e for e in works.work if isinstance(e, layerwork.FabricLaid)],
        "competent": [e for e in works.work if isinstance(e, layerwork.Competent)],
    }


def _pour_context(request: Request, visit: Visit) -> dict[str, Any]:
    context, shot = _screen(request, visit, "pour", ("poured",))
    works: Works = context["works"]
    today = shot.assessment.job.today
    plan = pour_drawing(shot.assessment, works.pour, visit.job.crew.unit) if works.pour else ""
    may = [(m, m.waits(today)) for m in works.curing.may] if works.curing else []
    return context | {
        "pour": works.pour,
        "may": may,
        "plan": plan,
        "pours": works.pours,
        "findings": works.pour_findings,
    }


def _deliveries_context(request: Request, visit: Visit) -> dict[str, Any]:
    context, shot = _screen(request, visit, "deliveries", ("delivered",))
    works: Works = context["works"]
    tickets = [(e, shot.made[e.id], may_strike(visit, shot.made[e.id].by_id))
               for e in reversed(works.work) if isinstance(e, layerwork.Delivered)]  # fmt: skip
    return context | {"tickets": tickets, "tallies": works.tallies, "findings": works.delivery_findings}


_LEAVES: dict[str, tuple[Callable[[Request, Visit], dict[str, Any]], str, str]] = {
    "lifts": (_lift_context, "lifts/lift.html", "lifts/hands.html"),
    "lift-tests": (_tests_context, "lifts/tests.html", ""),
    "subgrade": (_ground_context, "lifts/ground.html", ""),
    "pour": (_pour_context, "lifts/pour.html", ""),
    "deliveries": (_deliveries_context, "lifts/deliveries.html", ""),
}
