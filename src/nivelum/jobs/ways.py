"""The way about a job: what is done at each stage and where, and the page that is in hand."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.urls import reverse
from django.utils.http import urlencode

from groundwork.assess import Assessment
from groundwork.base import SurfaceKey
from groundwork.stages import Gate
from nivelum.jobs.rooms import ROOMS, Does, Each, Leaf, Room

BASES = (SurfaceKey.SUB_BASE, SurfaceKey.BASE)
SHOT_AT = {
    "excavation": (SurfaceKey.FORMATION,),
    "base-lifts": BASES,
    "bound-base": (SurfaceKey.BOUND_BASE,),
    "base-proof": (*BASES, SurfaceKey.BOUND_BASE),
    "bedding": (SurfaceKey.BEDDING, SurfaceKey.SCREED),
    "seating": (SurfaceKey.FINISHED,),
    "handover": (SurfaceKey.FINISHED,),
}
"""The surfaces that are shot at a stage."""


@dataclass(frozen=True)
class StagePage:
    """A page one goes to at a stage, the room it is in, and what is done there."""

    room: Room
    title: Any
    does: Does
    address: str


def ways(assessment: Assessment, job_id: UUID, stage: str) -> tuple[StagePage, ...]:
    """Where one goes at a stage: to measure, to make, to look, to sign."""
    found = [
        StagePage(room, leaf.title, leaf.does, address)
        for room in ROOMS
        for leaf in room.leaves
        if (leaf.does is Does.SIGN or stage in leaf.stages)
        and leaf.where(assessment)
        and (address := _address(assessment, job_id, leaf, stage))
    ]
    return tuple(sorted(found, key=lambda way: list(Does).index(way.does)))


def in_hand(assessment: Assessment, job_id: UUID) -> StagePage:
    """Where the stage in hand is gone on with: its first page, or to be signed where nothing is left but that."""
    key = assessment.stages.in_hand_key
    every = ways(assessment, job_id, key)
    return every[-1] if assessment.stages.course(key)[0] in (Gate.READY, Gate.OVERTAKEN) else every[0]


def _address(assessment: Assessment, job_id: UUID, leaf: Leaf, stage: str) -> str:
    """The page of a leaf at a stage; nothing where the job has none there."""
    at = reverse(leaf.name, args=[job_id])
    if leaf.each is None:
        return at
    one = {Each.SURFACE: _surface, Each.LIFT: _lift, Each.STAGE: _itself}[leaf.each](assessment, stage)
    return f"{at}?{urlencode({leaf.each.value: one})}" if one else ""


def _itself(_assessment: Assessment, stage: str) -> str:
    return stage


def _surface(assessment: Assessment, stage: str) -> str:
    """The surface that is shot at a stage: of several the one being built, else the topmost."""
    of_it = [s.key for s in assessment.surveys.levelled if s.kind in SHOT_AT.get(stage, ())]
    if stage == "base-lifts" and assessment.surface_in_hand in of_it:
        return assessment.surface_in_hand
    return of_it[-1] if of_it else ""


def _lift(assessment: Assessment, stage: str) -> str:
    """The lift that is worked on at a stage: the ground, or of the base the one in hand."""
    ground, *base = assessment.works.lifts
    if stage == "subgrade" or not base:
        return ground
    now = assessment.works.in_hand_key
    return now if now in base else base[0]
