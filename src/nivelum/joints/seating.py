"""Seating: which patch is gone over next and which way, how high units lay before, what is to do at each station."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment
from groundwork.base import SurfaceKey
from groundwork.edges import SET
from groundwork.jointwork import LaidShot
from groundwork.levels import Reference
from groundwork.measures import Unit
from groundwork.seating import KEPT_OFF
from groundwork.verdict import Call, Suspicion
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.joints import seat_drawing
from nivelum.drawing.kept import kept
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.joints.forms import WAYS, BeforeForm, SeatPassForm
from nivelum.joints.screens import joints_screen
from nivelum.readings.hand import hand
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.doubt import read_once
from nivelum.recording.forms import EntryForm
from nivelum.recording.setting import SettingPlace, rows_script, set_rows, travelling


@require_GET
@job_view(Verb.SEE)
def seating(request: Request, visit: Visit) -> HttpResponse:
    """Patches to go over, and stations before and after."""
    return shown(request, _at(visit), _seating(request, visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def seating_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "joints/seating_now.html", _seating(request, visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def gone_over(request: Request, visit: Visit) -> HttpResponse:
    """A patch of the paving gone over once."""
    form = SeatPassForm(request.POST)
    return _told(request, visit, recorded(visit, form, "machine"), "pass_form", form)


@require_POST
@job_view(Verb.MEASURE)
def shot_before(request: Request, visit: Visit) -> HttpResponse:
    """What was read on units at a station before they were seated."""
    assessment = snapshot(visit.job).assessment
    form = BeforeForm(request.POST, unit=visit.job.crew.unit, method=hand(request, visit, assessment).method)

    def again(read: LaidShot) -> tuple[str, str]:
        return read.station, f"{reverse('seating', args=[visit.job.id])}?station={read.station}"

    done, doubt = read_once(visit, form, lambda _read: None, assessment.seating.misread, again)
    return _told(request, visit, done, "before_form", form, doubt)


def _told(
    request: Request, visit: Visit, done: Entry | None, name: str, form: EntryForm, doubt: Suspicion | None = None
) -> HttpResponse:  # fmt: skip
    wrong = {} if done else {name: form, "suspicion": doubt}
    return answered(request, done, _at(visit), lambda: _seating(request, visit, snapshot(visit.job)) | wrong)


def _seating(request: Request, visit: Visit, shot: Snapshot) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    there = assessment.seating
    if not there.is_there:
        return joints_screen(visit, shot, "seating")
    asked = request.GET.get("patch", "")
    coming = there.next_pass
    patch = asked if asked in {each.patch.name for each in there.coverage} else coming[0] if coming else ""
    covered = next((each for each in there.coverage if each.patch.name == patch), None)
    held = hand(request, visit, assessment)
    said = request.POST.get("station") if request.method == "POST" else request.GET.get("station")
    station = said if said in there.stations else there.next_before
    target = there.target(station, held.reference) if station and held.reference else None
    machine = there.machines.get(there.machine_now or "")
    return joints_screen(visit, shot, "seating") | {
        "patch": patch, "covered": covered, "way": covered.next_way if covered else None,
        "way_words": WAYS[covered.next_way] if covered else "",
        "left": there.passes_left(covered) if covered else 0, "is_all_over": coming is None and bool(there.coverage),
        "is_open": there.kept_off is not None,
        "machine": machine,
        "drawing": seat_drawing(assessment, unit, patch) if there.is_plated else "",
        "kept_off": KEPT_OFF,
        "pass_form": SeatPassForm(), "before_form": BeforeForm(unit=unit), "hand": held, "station": station,
        "target": target, "stations": there.stations.values(), "came": there.came_down,
        "came_mean": sum(there.came_down) / len(there.came_down) if there.came_down else None,
        "findings": [f for f in there.findings if f.rule in ("V01", "V02", "V07")],
        "shot_left": assessment.surveys.of(SurfaceKey.FINISHED).left,
        "stations_at": there.stations,
        "travels": travelling(
            _read_by(assessment, held.reference, unit), _script(assessment, held.reference, unit),
            {"station": station or ""},
        ) if held.reference else "",
    }  # fmt: skip


@kept
def _read_by(assessment: Assessment, reference: Reference, unit: Unit) -> dict[str, Any]:
    """Every station as it should lie before it is seated, for a page without a signal."""
    there = assessment.seating
    places = (
        SettingPlace(
            {"station": name}, name, name, there.target(name, reference), there.foreseen(name, reference),
            each.before is not None and SET.call(each.before - there.drop, 0.0) is Call.GOOD,
        )
        for name, each in there.stations.items()
    )  # fmt: skip
    return set_rows(places, SET, unit)


@kept
def _script(assessment: Assessment, reference: Reference, unit: Unit) -> SafeString:
    return rows_script(_read_by(assessment, reference, unit))


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt(
        "joints/seating.html", "joints/seating_now.html", reverse("seating", args=[visit.job.id])
    )  # fmt: skip
