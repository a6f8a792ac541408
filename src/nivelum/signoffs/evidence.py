"""What a stage is signed on, as its page shows it: one template and one function a kind of stage."""

from collections.abc import Callable
from typing import Any

from django.template.loader import render_to_string

from groundwork.assess import Assessment, carrying
from groundwork.base import SurfaceKey
from groundwork.layerwork import FabricLaid
from nivelum.jobs.models import Job

Shown = dict[str, Any]


def _brief(assessment: Assessment) -> Shown:
    specification = assessment.job.specification
    return {
        "specification": specification,
        "school": assessment.case.school,
        "layers": [(layer, specification.compacted(layer)) for layer in specification.layers],
        "falls": [(facet, *facet.steepest) for facet in assessment.job.facets],
        "heights": [(height, assessment.job.design.level(height.at)) for height in assessment.job.heights],
    }


def _set_out(assessment: Assessment) -> Shown:
    there = assessment.setting_out
    return {"set_out": there.pegs, "location": there.location, "margins": there.margins}


def _surface(key: str, assessment: Assessment) -> Shown:
    survey = assessment.surveys.of(key)
    deviations = [a.judgement.deviation for a in survey.answers.values() if a.judgement.deviation is not None]
    return {
        "surface": survey.surface,
        "answers": survey.answers.values(),
        "shot": survey.shot_count,
        "highest": max(deviations, default=None),
        "lowest": min(deviations, default=None),
        "tolerance": survey.tolerance,
    }


def _bed(assessment: Assessment) -> Shown:
    screeded = assessment.job.specification.settlement
    return _surface(SurfaceKey.SCREED if screeded else SurfaceKey.BEDDING, assessment)


def _ground(assessment: Assessment) -> Shown:
    return {"ground": assessment.works.subgrade}


def _fabric(assessment: Assessment) -> Shown:
    return {"laid": [entry for entry in assessment.works.work if isinstance(entry, FabricLaid)]}


def _lifts(assessment: Assessment) -> Shown:
    return {"lifts": [x for key, x in assessment.works.lifts.items() if key != SurfaceKey.FORMATION]}


def _pour(assessment: Assessment) -> Shown:
    works = assessment.works
    return {"pours": works.pours, "curing": works.curing, "slab": works.slab}


def _paving(assessment: Assessment) -> Shown:
    return {"there": assessment.laying}


def _held(assessment: Assessment) -> Shown:
    edges = assessment.edges
    return {"held": [(side + 1, by or "ends in soil") for side, by in edges.held.items()], "runs": edges.runs}


def _late(assessment: Assessment) -> Shown:
    return _paving(assessment) | _held(assessment)


def _seated(assessment: Assessment) -> Shown:
    return _surface(SurfaceKey.FINISHED, assessment) | {"seating": assessment.seating}


def _joints(assessment: Assessment) -> Shown:
    return {"joints": assessment.jointing}


EVIDENCE: dict[str, tuple[str, Callable[[Assessment], Shown]]] = {
    "brief": ("brief", _brief),
    "set-out": ("set_out", _set_out),
    "excavation": ("surface", lambda assessment: _surface(SurfaceKey.FORMATION, assessment)),
    "subgrade": ("ground", _ground),
    "separation": ("fabric", _fabric),
    "early-edges": ("edges", _held),
    "base-lifts": ("lifts", _lifts),
    "bound-base": ("pour", _pour),
    "base-proof": ("surface", lambda assessment: _surface(carrying(assessment), assessment)),
    "bedding": ("surface", _bed),
    "laying": ("paving", _paving),
    "late-edges": ("late", _late),
    "seating": ("seated", _seated),
    "joints": ("joints", _joints),
    "handover": ("seated", _seated),
}
"""Each stage's template in `signoffs/evidence/`, and what it needs."""


def evidence_shown(job: Job, assessment: Assessment, key: str) -> str:
    """What a stage is computed from, by itself, for whoever signs outside of its page."""
    template, shown = EVIDENCE[key]
    context = {"job": job, "unit": job.crew.unit, "assessment": assessment} | shown(assessment)
    return render_to_string(f"signoffs/evidence/{template}.html", context)
