"""Water: will it drain? Rain on a surface as designed, as built, or as it would be once the work is done."""

from dataclasses import dataclass
from typing import Any

from django.http import HttpResponse, QueryDict
from django.shortcuts import render
from django.utils.functional import cached_property
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from groundwork.assess import Assessment
from groundwork.base import SurfaceKey
from groundwork.built import BARROW, AsBuilt, Fix, NoFix, loads, loads_in_all, work
from groundwork.measures import Unit
from groundwork.surfaces import NoSurface, Puddle
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.water import full_times, scene, shown_puddles, water_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot
from nivelum.water.forms import RainForm

BUILT, DESIGNED, MENDED = "built", "designed", "mended"


@dataclass(frozen=True)
class PuddleRow:
    """One puddle as the list shows it; `full_after` in seconds, None where it takes days."""

    number: int
    puddle: Puddle
    station: str
    sill: str
    too_deep: bool
    full_after: float | None

    @property
    def minutes(self) -> float | None:
        return None if self.full_after is None else self.full_after / 60


class Pane:
    """One surface in the rain, as it is shown."""

    def __init__(self, assessment: Assessment, surface: str, state: str, unit: Unit, form: RainForm) -> None:
        self.surface = assessment.job.specification.surface(surface)
        self.survey = assessment.surveys.of(surface)
        self.unit, self.form = unit, form
        self.state = state
        self.fix = assessment.surfaces.fix(surface) if state == MENDED else None
        found = assessment.surfaces.designed(surface) if state == DESIGNED else assessment.surfaces.built(surface)
        if state == MENDED and isinstance(self.fix, Fix):
            found = self.fix.after
        self.none = str(found) if isinstance(found, NoSurface) else ""
        self.built: AsBuilt | None = None if isinstance(found, NoSurface) else found

    @cached_property
    def plan(self) -> SafeString | str:
        if self.built is None:
            return ""
        return water_plan(self.built, self.unit, self.fix if isinstance(self.fix, Fix) else None)

    @cached_property
    def scene(self) -> SafeString:
        if self.built is None:
            return mark_safe("null")
        return mark_safe(scene(self.built, self.unit, self.form.intensity, self.form.duration))

    @cached_property
    def puddles(self) -> list[PuddleRow]:
        if self.built is None:
            return []
        times = full_times(self.built, self.form.intensity)
        return [
            PuddleRow(
                number, puddle, self.built.station_near(puddle.lowest), self.built.station_near(puddle.sill),
                self.limit is not None and puddle.depth > self.limit, full,
            )
            for number, (puddle, full) in enumerate(zip(shown_puddles(self.built), times, strict=True), start=1)
        ]  # fmt: skip

    @property
    def limit(self) -> float | None:
        return self.built.puddle_limit if self.built else None

    @property
    def asked_to_drain(self) -> bool:
        """Whether the rules ask anything of its falls and of what stands on it."""
        return self.built is not None and self.built.asked_to_drain

    @property
    def thinner(self) -> int:
        """How many more puddles stand, too thin to be numbered."""
        return len(self.built.water.puddles) - len(self.puddles) if self.built else 0


@require_GET
@job_view(Verb.SEE)
def water(request: Request, visit: Visit) -> HttpResponse:
    """The room: rain on one surface, or on base and formation side by side."""
    shot = snapshot(visit.job)
    assessment, unit, query = shot.assessment, visit.job.crew.unit, request.GET
    surface = query.get("surface", "")
    if surface not in {s.key for s in assessment.surveys.levelled}:
        surface = _begin(assessment)
    state = query.get("of", "")
    if state not in (BUILT, DESIGNED, MENDED):
        state = BUILT if _is_known(assessment, surface) else DESIGNED
    form = RainForm(query, unit)
    pane = Pane(assessment, surface, state, unit, form)
    panes = [pane]
    if under := _under(assessment, surface, query):
        panes.append(Pane(assessment, under, BUILT if _is_known(assessment, under) else DESIGNED, unit, form))
    context = job_screen(visit, shot, "water") | {
        "pane": pane,
        "panes": panes,
        "beside": len(panes) > 1,
        "state": state,
        "form": form,
        "surfaces": [(s, assessment.surveys.of(s.key)) for s in assessment.surveys.levelled],
        "lets_water_in": assessment.job.specification.takes_water_in,
        "state_words": {BUILT: _("as built"), DESIGNED: _("as designed"), MENDED: _("once the work is done")},
        "kept": _kept(query),
    }
    return render(request, "water/shown.html" if request.htmx else "water/water.html", context | _work(pane))


def _begin(assessment: Assessment) -> str:
    """The highest surface that was shot, else the formation."""
    shot = [s.key for s in assessment.surveys.levelled if _is_known(assessment, s.key)]
    return shot[-1] if shot else SurfaceKey.FORMATION


def _is_known(assessment: Assessment, surface: str) -> bool:
    return not isinstance(assessment.surfaces.built(surface), NoSurface)


def _under(assessment: Assessment, surface: str, query: QueryDict) -> str:
    """The formation, where it is asked for beside another surface."""
    return SurfaceKey.FORMATION if query.get("beside") and surface != SurfaceKey.FORMATION else ""


def _kept(query: QueryDict) -> str:
    """The rain that was asked for, to go on to other surfaces."""
    kept = QueryDict(mutable=True)
    for name in ("rain", "minutes", "beside"):
        if query.get(name):
            kept[name] = query.get(name, "")
    return kept.urlencode()


def _work(pane: Pane) -> dict[str, Any]:
    """The least fix as a list, in the order one walks."""
    fix = pane.fix
    if isinstance(fix, NoFix):
        return {"no_fix": fix.why}
    if not isinstance(fix, Fix):
        return {}
    rows = [(change, work(fix, change), loads(fix, change)) for change in fix.changes]
    filled, trimmed = loads_in_all(fix)
    return {
        "fix": fix,
        "asked_to_drain": pane.asked_to_drain,
        "rows": rows,
        "barrow": BARROW,
        "fill_barrows": filled.barrows,
        "fill_mass": filled.mass,
        "trim_barrows": trimmed.barrows,
    }
