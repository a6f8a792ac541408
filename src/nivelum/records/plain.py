"""What a client reads first: the finished paving in plain words, two pages before the evidence."""

from dataclasses import dataclass
from datetime import date

from django.utils import timezone

from groundwork.base import Layer, SurfaceKey
from groundwork.built import AsBuilt
from groundwork.job import Acceptance
from groundwork.measures import Words
from groundwork.stages import Finish, finish
from nivelum.jobs.services import Snapshot
from nivelum.laying.kinds import pattern_words

MOST_PHOTOS = 6
"""So many photos stand in it, one a stage, the last stages first."""


@dataclass(frozen=True)
class PlainWords:
    """The finished paving as a client reads of it: what it is, how it lies; units `laid` and those that `came` in
    packs; who signed how many stages, what was accepted and by whom, a photo of each of the last stages."""

    pattern: str
    sizes: tuple[float, float] | None
    layers: list[tuple[Layer, float]]
    first: date | None
    last: date | None
    finish: Finish
    deepest: float | None
    laid: int
    came: int
    codes: list[tuple[str, int]]
    signed: list[tuple[str, int]]
    accepted: list[tuple[str, Acceptance, Words | None]]
    photos: list[tuple[str, str]]


def plain_words(shot: Snapshot, *, with_photos: bool) -> PlainWords:
    """What there is to say of a job, signed or not; photos where its reader may see them."""
    assessment = shot.assessment
    site, laying = assessment.site, assessment.laying
    built = assessment.surfaces.built(SurfaceKey.FINISHED)
    surface = built if isinstance(built, AsBuilt) else None
    by_whom: dict[str, int] = {}
    accepted, photos = [], []
    for answer in assessment.stages.line:
        for each in answer.signed.values():
            name = shot.made[each.id].by_name
            by_whom[name] = by_whom.get(name, 0) + 1
        found = {f.identity: f.found for f in answer.findings}
        accepted += [(answer.stage.name, each, found.get(each.finding)) for each in answer.acceptances]
        if answer.photos and with_photos:
            photos.append((answer.stage.title, answer.photos[-1].photo))
    days = [timezone.localtime(each.at).date() for each in shot.made.values()]
    chosen = laying.chosen
    return PlainWords(
        pattern_words(chosen.pattern) if chosen else "",
        (chosen.length.metres, chosen.width.metres) if chosen else None,
        [(layer, site.specification.compacted(layer)) for layer in site.specification.layers],
        min(days, default=None), max(days, default=None),
        finish(assessment.surveys.of(SurfaceKey.FINISHED), surface, assessment.seating, laying),
        surface.puddle_limit if surface else None,
        sum(each.laid for each in laying.taken_off), laying.packs.units, list(laying.packs.codes.items()),
        list(by_whom.items()), accepted, photos[-MOST_PHOTOS:],
    )  # fmt: skip
