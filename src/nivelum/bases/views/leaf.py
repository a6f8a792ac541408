"""What every leaf of the Base room shows, and how a changed design is kept."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork.assess import Assessment, assess, overtaken
from groundwork.job import Job
from groundwork.schools import BRIEF
from groundwork.stages import StageAnswer
from nivelum.bases.forms import KeepForm
from nivelum.bases.services import NotKept, Overtakes, revise
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, Snapshot

LEAVES = (
    ("base", gettext_lazy("Section")),
    ("falls", gettext_lazy("Falls")),
    ("schools", gettext_lazy("Base types")),
    ("strength", gettext_lazy("Strength")),
    ("brief", gettext_lazy("Brief")),
)


def leaf_screen(visit: Visit, shot: Snapshot, leaf: str, tried: Assessment | None = None) -> dict[str, Any]:
    """What every leaf shows; `tried` is the job with a change nobody has kept yet."""
    tried = tried or shot.assessment
    lost = overtaken(shot.assessment, tried)
    version = shot.assessment.job.version
    return job_screen(visit, shot, "base") | {
        "leaf": leaf,
        "leaves": LEAVES,
        "tried": tried,
        "findings": tried.soundness,
        "brief_gate": tried.stages.of(BRIEF),
        "changed": tried is not shot.assessment,
        "overtaken": lost,
        "made": shot.made,
        "keep": KeepForm(initial={"version": version, "knows": stage_keys(lost)}),
        "version": version,
        "may_design": visit.may(Verb.DESIGN),
    }


def stage_keys(answers: Iterable[StageAnswer]) -> str:
    return " ".join(answer.stage.key for answer in answers)


def tried_on(shot: Snapshot, job: Job) -> Assessment:
    """The assessment of the job with a change, or the one that stands where there is none."""
    same = shot.assessment.job
    return shot.assessment if job == same else assess(replace(job, version=same.version + 1))


@dataclass(frozen=True)
class NotKeptBecause:
    """Why a design was not kept, and the sign-offs it would overtake, if that is why."""

    message: str
    overtakes: tuple[StageAnswer, ...] = ()


def keep(
    request: Request, visit: Visit, changed: Job, back: str, typed: dict[str, Any] | None = None
) -> "HttpResponse | NotKeptBecause":
    """Keeps a changed design and goes `back`; where it cannot, says why."""
    form = KeepForm(request.POST)
    if not form.is_valid():
        return NotKeptBecause(_("That did not arrive whole. Reload the page and try again."))
    data = form.cleaned_data
    author = Author(visit.person, data["device_at"])
    try:
        kept = revise(visit, changed, data["version"], form.known(), data["entry_id"], author, typed)
    except NotKept as refusal:
        return NotKeptBecause(refusal.message)
    except Overtakes as warning:
        names = ", ".join(_(answer.stage.title) for answer in warning.answers)
        message = _("This overtakes what is signed: {names}. Look, and keep it again if that is meant.")
        return NotKeptBecause(message.format(names=names), warning.answers)
    messages.success(
        request, _("Kept. The record holds it as the next version.") if kept else _("Nothing was changed.")
    )
    return redirect(back)


def as_typed(data: QueryDict, *sent: forms.BaseForm) -> dict[str, str]:
    """What was typed into the forms, for the record; anything else that came with it is not kept."""
    names = [form.add_prefix(name) for form in sent for name in form.fields]
    return {name: data.get(name, "") for name in names if data.get(name) and name not in LEFT_OUT}


LEFT_OUT = frozenset(KeepForm.base_fields)
