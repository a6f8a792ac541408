"""The one door: a job in, an assessment out. Every part is computed when asked for, and once."""

from collections.abc import Sequence
from functools import cached_property

from groundwork.assess.parts import Parts
from groundwork.assess.stages import Stages
from groundwork.assess.standing import Now
from groundwork.job import Job, followed_by
from groundwork.kinds import Entry
from groundwork.schools import EXCAVATION
from groundwork.stages import StageAnswer
from groundwork.workings import carried


class Assessment(Parts):
    """What a job comes to: its parts, and the stages they hold; made by `assess`, and a step on by `advance`."""

    def __init__(self, job: Job, before: "Assessment | None" = None, added: Sequence[Entry] = ()) -> None:
        super().__init__(job, before, added)
        self.stages = Stages(self)
        """How each stage stands, and what it is signed on."""

    @cached_property
    def standing(self) -> Now:
        """What a further entry finds."""
        return Now(self, self.stages.steps)

    @property
    @carried
    def surface_in_hand(self) -> str:
        """The surface being built: the formation until the dig is signed, then the lowest with a station left or
        not good, else the finished paving."""
        levelled, stages = self.surveys.levelled, self.stages
        first, *rest = levelled
        if EXCAVATION in stages.steps and not stages.of(EXCAVATION).gate.is_signed:
            return first.key
        above = [self.surveys.of(surface.key) for surface in (rest if EXCAVATION in stages.steps else levelled)]
        return next((s.surface.key for s in above if s.left or s.unsound), levelled[-1].key)


def assess(job: Job) -> Assessment:
    """The assessment of a job: verdicts, findings, stage gates and evidence, computed from what was recorded."""
    return Assessment(job)


def advance(before: Assessment, values: Sequence[Entry]) -> Assessment:
    """The assessment of a job once `values`, of any kind, were recorded after all that it has: what they do not touch
    is taken over. A new design is another site, and begins anew."""
    job = followed_by(before.job, values)
    if job.site is not before.site:
        return Assessment(job)
    return Assessment(job, before, job.entries[len(before.job.entries) :])


def overtaken(before: Assessment, after: Assessment) -> tuple[StageAnswer, ...]:
    """The sign-offs that hold before a change and no longer hold after it."""
    return tuple(
        answer
        for answer in before.stages.line
        if answer.gate.is_signed
        and (answer.stage.key not in after.stages.steps or not after.stages.of(answer.stage.key).gate.is_signed)
    )
