"""Base: what are we building, and is that sound here? Its leaves: section, falls, schools, ground, brief."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from groundwork.adviser import advice, advise
from groundwork.assess import Assessment, StageAnswer, assess, overtaken
from groundwork.base import SurfaceKey
from groundwork.cone import layers as cone_layers
from groundwork.cone import log_text
from groundwork.cut import Cut, across, cut
from groundwork.falls import NoFalls, PlannedFalls, plan_falls, settled
from groundwork.job import Job
from groundwork.measure import MeasureError
from groundwork.outline import place
from groundwork.schools import school, schools
from groundwork.stages import BRIEF
from groundwork.surface import Point
from nivelum.bases.forms import ConeForm, FallsForm, KeepForm, PlaceForm, SpecificationForm, TrafficForm
from nivelum.bases.ground import ground_strength
from nivelum.bases.services import NotKept, Overtakes, first_design, first_facets, revise, start_job, with_school
from nivelum.bases.sheet import SiteSheet, place_text
from nivelum.crews.models import Crew
from nivelum.crews.policy import MAY, Verb
from nivelum.drawing.cone import cone_drawing
from nivelum.drawing.cut import cut_drawing
from nivelum.drawing.section import section
from nivelum.drawing.site import Shown, outline_plan, site_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.forms import EntryForm
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, Snapshot, snapshot

LEAVES = (
    ("base", gettext_lazy("Section")),
    ("falls", gettext_lazy("Falls")),
    ("schools", gettext_lazy("Schools")),
    ("strength", gettext_lazy("Strength")),
    ("brief", gettext_lazy("Brief")),
)


def _screen(visit: Visit, shot: Snapshot, leaf: str, tried: Assessment | None = None) -> dict[str, Any]:
    """What every leaf shows; `tried` is the job with a change nobody has kept yet."""
    tried = tried or shot.assessment
    lost = overtaken(shot.assessment, tried)
    version = shot.assessment.job.version
    return job_screen(visit, shot, "base") | {
        "leaf": leaf,
        "leaves": LEAVES,
        "tried": tried,
        "findings": tried.soundness,
        "brief_gate": tried.stage(BRIEF.key),
        "changed": tried is not shot.assessment,
        "overtaken": lost,
        "made": shot.made,
        "keep": KeepForm(initial={"version": version, "knows": _keys(lost)}),
        "version": version,
        "may_design": visit.may(Verb.DESIGN),
    }


def _keys(answers: Iterable[StageAnswer]) -> str:
    return " ".join(answer.stage.key for answer in answers)


def _try(shot: Snapshot, job: Job) -> Assessment:
    """The assessment of the job with a change, or the one that stands where there is none."""
    same = shot.assessment.job
    return shot.assessment if job == same else assess(replace(job, version=same.version + 1))


@dataclass(frozen=True)
class Refusal:
    """Why a design was not kept, and the sign-offs it would overtake, if that is why."""

    message: str
    overtakes: tuple[StageAnswer, ...] = ()


def _keep(
    request: HttpRequest, visit: Visit, changed: Job, back: str, typed: dict[str, Any] | None = None
) -> "HttpResponse | Refusal":
    """Keeps a changed design and goes `back`; where it cannot, says why."""
    form = KeepForm(request.POST)
    if not form.is_valid():
        return Refusal(_("That did not arrive whole. Reload the page and try again."))
    data = form.cleaned_data
    author = Author(visit.person, data["device_at"])
    try:
        kept = revise(visit, changed, data["version"], form.known(), data["entry_id"], author, typed)
    except NotKept as refusal:
        return Refusal(refusal.message)
    except Overtakes as warning:
        names = ", ".join(_(answer.stage.title) for answer in warning.answers)
        message = _("This overtakes what is signed: {names}. Look, and keep it again if that is meant.")
        return Refusal(message.format(names=names), warning.answers)
    messages.success(
        request, _("Kept. The record holds it as the next version.") if kept else _("Nothing was changed.")
    )
    return redirect(back)


def _typed(data: QueryDict) -> dict[str, Any]:
    """What was typed, for the record."""
    left_out = {"csrfmiddlewaretoken", "entry_id", "device_at", "version", "knows"}
    return {key: data[key] for key in data if key not in left_out and data[key]}


@require_GET
@job_view(Verb.SEE)
def base(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The section with its levels at a place, a cut, the findings; with `paving-0-thickness` as it would be."""
    return _base(request, visit, request.GET)


@require_POST
@job_view(Verb.DESIGN)
def keep_base(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Keeps the specification as it stands on the screen."""
    job = snapshot(visit.job).assessment.job
    form = SpecificationForm(request.POST, job=job)
    refusal: HttpResponse | Refusal = Refusal(_("Something is not right yet: see beside the field."))
    if form.is_valid():
        back = reverse("base", args=[visit.job.id])
        refusal = _keep(request, visit, replace(job, specification=form.specification), back, _typed(request.POST))
    if isinstance(refusal, HttpResponse):
        return refusal
    return _base(request, visit, request.POST, refusal.message)


def _base(request: HttpRequest, visit: Visit, data: QueryDict, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job, unit = shot.assessment.job, visit.job.crew.unit
    form = SpecificationForm(data if "paving-0-thickness" in data else None, job=job)
    tried = shot.assessment
    if form.is_bound and form.is_valid():
        tried = _try(shot, replace(job, specification=form.specification))
    look = _look(tried.job, data)
    specification = tried.job.specification
    context = _screen(visit, shot, "base", tried) | look
    context |= {
        "form": form,
        "refusal": refusal,
        "specification": specification,
        "surfaces": [(s, look["finished"] - s.depth, s.key is SurfaceKey.FORMATION) for s in specification.surfaces],
        "section": section(specification, look["finished"], unit, editable=visit.may(Verb.DESIGN)),
        "plan": site_plan(tried.job, unit, Shown(cut=look["line"], point=look["point"])),
        "cut": cut_drawing(tried.job, look["cut"], unit) if look["cut"] else "",
        "quantities": tried.quantities,
        "before": job.specification,
    }
    template = "base/now.html" if request.htmx and request.method == "GET" else "base/base.html"
    status = 422 if refusal else 200
    return render(request, template, context, status=status)


def _look(job: Job, data: QueryDict) -> dict[str, Any]:
    """The place to look at and the cut through it, as asked for or the middle of the area."""
    form = PlaceForm(data)
    form.is_valid()
    wrong: dict[str, str] = {}
    middle = job.area.representative_point()
    point = _place(job, data.get("at") or data.get("station") or "", (middle.x, middle.y), wrong, "at")
    line: tuple[Point, Point] = across(job, point)
    if data.get("start") and data.get("end"):
        line = (_place(job, data["start"], line[0], wrong, "start"), _place(job, data["end"], line[1], wrong, "end"))
    found: Cut | None = None
    try:
        found = cut(job, *line)
    except ValueError as error:
        wrong["start"] = _(str(error))
    finished = float(job.design.level_at([point[0]], [point[1]])[0])
    return {"point": point, "line": line, "cut_line": found, "cut": found, "finished": finished, "wrong": wrong,
            "at": data.get("at") or data.get("station") or place_text(point, job.unit),
            "start": data.get("start", ""), "end": data.get("end", "")}  # fmt: skip


def _place(job: Job, text: str, default: Point, wrong: dict[str, str], name: str) -> Point:
    if not text.strip():
        return default
    stations = {station.name: station.at for station in assess(job).stations}
    if text.strip().upper() in stations:
        return stations[text.strip().upper()]
    try:
        return place(text, job.outline, job.unit)
    except MeasureError as error:
        wrong[name] = _(str(error))
        return default


@require_GET
@job_view(Verb.SEE)
def falls(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The falls as designed, or planned anew between the fixed heights."""
    return _falls(request, visit, request.GET)


@require_POST
@job_view(Verb.DESIGN)
def keep_falls(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Keeps the falls planned from what the form says, worked out again here."""
    job = snapshot(visit.job).assessment.job
    form = FallsForm(request.POST, job=job)
    plan = _plan(job, form) if form.is_valid() else None
    refusal: HttpResponse | Refusal = Refusal(_("There are no such falls to keep."))
    if isinstance(plan, PlannedFalls):
        back = reverse("falls", args=[visit.job.id])
        refusal = _keep(
            request, visit, replace(job, facets=settled(plan.facets, job.facets)), back, _typed(request.POST)
        )
    if isinstance(refusal, HttpResponse):
        return refusal
    return _falls(request, visit, request.POST, refusal.message)


def _plan(job: Job, form: FallsForm) -> PlannedFalls | NoFalls:
    depth, access = job.specification.excavation_depth, bool(job.brief.level_access)
    straight = not form.cleaned_data["aside"]
    return plan_falls(form.pieces, job.heights, form.falls, job.features, job.ground, depth, access, straight)


def _falls(request: HttpRequest, visit: Visit, data: QueryDict, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job = shot.assessment.job
    form = FallsForm(data if "layout" in data else None, job=job)
    plan = _plan(job, form) if form.is_bound and form.is_valid() else None
    tried = shot.assessment
    if isinstance(plan, PlannedFalls):
        tried = _try(shot, replace(job, facets=settled(plan.facets, job.facets)))
    context = _screen(visit, shot, "falls", tried) | {
        "form": form,
        "plan": plan,
        "planned": isinstance(plan, PlannedFalls),
        "refusal": refusal,
        "drawing": site_plan(tried.job, visit.job.crew.unit, Shown(levels=True, names=True)),
        "excavation_now": job.ground.excavation(job.facets, job.specification.excavation_depth),
        "of_levels": [f for f in tried.soundness if f.rule in ("S02", "S03", "S04", "S21")],
    }
    template = "base/falls_now.html" if request.htmx and request.method == "GET" else "base/falls.html"
    return render(request, template, context, status=422 if refusal else 200)


@require_GET
@job_view(Verb.SEE)
def adviser(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Every school on this job, ranked; two of them side by side where `one` and `other` name them."""
    return _adviser(request, visit)


@require_POST
@job_view(Verb.DESIGN)
def take_school(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Takes a school's usual base for the job."""
    key = request.POST.get("school", "")
    if key not in schools():
        raise Http404
    job = snapshot(visit.job).assessment.job
    back = reverse("base", args=[visit.job.id])
    refusal = _keep(request, visit, replace(job, specification=with_school(job, school(key))), back)
    return refusal if isinstance(refusal, HttpResponse) else _adviser(request, visit, refusal.message)


def _adviser(request: HttpRequest, visit: Visit, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job, unit = shot.assessment.job, visit.job.crew.unit
    pair = [key for key in (request.GET.get("one"), request.GET.get("other")) if key in schools()]
    beside = [advice(job, school(key)) for key in pair if key]
    deepest = max((a.specification.excavation_depth for a in beside), default=0.0)
    middle = job.area.representative_point()
    finished = float(job.design.level_at([middle.x], [middle.y])[0])
    advised = advise(job)
    lost = {
        a.school.key: overtaken(shot.assessment, _try(shot, replace(job, specification=with_school(job, a.school))))
        for a in advised
    }
    context = _screen(visit, shot, "schools") | {
        "advised": [
            (a, KeepForm(initial={"version": job.version, "knows": _keys(lost[a.school.key])}), lost[a.school.key])
            for a in advised
        ],
        "beside": [(a, section(a.specification, finished, unit, depth_shown=deepest, narrow=True)) for a in beside],
        "pair": pair,
        "refusal": refusal,
    }  # fmt: skip
    template = "base/beside.html" if request.htmx and request.method == "GET" else "base/schools.html"
    return render(request, template, context, status=422 if refusal else 200)


@require_GET
@job_view(Verb.SEE)
def strength(request: HttpRequest, visit: Visit) -> HttpResponse:
    """What the ground carries, by cone or by its soil, and how thick a base that asks for."""
    return _strength(request, visit)


@require_POST
@job_view(Verb.DESIGN)
def keep_cone(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Adds a cone log, in place of one of the same name."""
    job = snapshot(visit.job).assessment.job
    form = ConeForm(request.POST, request.FILES)
    if form.is_valid():
        logs = [log for log in job.cone_logs if log.name != form.cone_log.name]
        changed = replace(job, cone_logs=(*logs, form.cone_log))
        kept = _keep(request, visit, changed, reverse("strength", args=[visit.job.id]), _typed(form.data))
        if isinstance(kept, HttpResponse):
            return kept
        form.add_error(None, kept.message)
    return _strength(request, visit, form)


@require_POST
@job_view(Verb.DESIGN)
def drop_cone(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Leaves a cone log out of the design; the version that had it stays in the record."""
    job = snapshot(visit.job).assessment.job
    logs = tuple(log for log in job.cone_logs if log.name != request.POST.get("name"))
    kept = _keep(request, visit, replace(job, cone_logs=logs), reverse("strength", args=[visit.job.id]))
    return kept if isinstance(kept, HttpResponse) else _strength(request, visit, refusal=kept.message)


def _strength(request: HttpRequest, visit: Visit, form: ConeForm | None = None, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job, unit = shot.assessment.job, visit.job.crew.unit
    traffic = TrafficForm(request.GET if "reliability" in request.GET else None, initial={"axles": job.brief.axles})
    if not traffic.is_bound or not traffic.is_valid():
        asked = {name: traffic.get_initial_for_field(field, name) for name, field in traffic.fields.items()}
    else:
        asked = traffic.cleaned_data
    context = _screen(visit, shot, "strength") | {
        "strength": ground_strength(shot.assessment.case, asked),
        "logs": [(log, cone_layers(log), cone_drawing(log, unit), log_text(log)) for log in job.cone_logs],
        "form": form or ConeForm(initial={"version": job.version}),
        "traffic": traffic,
        "refusal": refusal,
    }
    return render(request, "base/strength.html", context, status=422 if form and form.errors else 200)


@require_http_methods(["GET", "POST"])
@job_view(Verb.SEE)
def brief(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The brief as it is, to be corrected by whoever may."""
    shot = snapshot(visit.job)
    job = shot.assessment.job
    if request.method == "GET":
        return _sheet(request, SiteSheet(job.unit, job), _screen(visit, shot, "brief"))
    if not visit.may(Verb.DESIGN):
        raise PermissionDenied
    sheet = SiteSheet(job.unit, job, request.POST, request.FILES.get("area_file"), _added(request))
    context = _screen(visit, shot, "brief")
    if _only_looking(request):
        return _sheet(request, sheet, context)
    if sheet.site:
        changed = sheet.site
        if changed.outline != job.outline:
            changed = replace(changed, facets=first_facets(changed))
        kept = _keep(request, visit, changed, reverse("base", args=[visit.job.id]), _typed(request.POST))
        if isinstance(kept, HttpResponse):
            return kept
        keep = KeepForm(initial={"version": job.version, "knows": _keys(kept.overtakes)})
        context |= {"refusal": kept.message, "keep": keep}
    return _sheet(request, sheet, context, 422)


@require_http_methods(["GET", "POST"])
def new_job(request: HttpRequest) -> HttpResponse:
    """A job from nothing: the same sheet, empty."""
    crews = list(_crews_to_start_in(request))
    if not crews:
        raise PermissionDenied
    chosen = request.POST.get("crew", request.GET.get("crew", ""))
    crew = next((c for c in crews if str(c.id) == chosen), crews[0])
    context: dict[str, Any] = {"crews": crews, "crew": crew, "room": "new", "keep": KeepForm(initial={"version": 0})}
    if request.method == "GET":
        return _sheet(request, SiteSheet(crew.unit), context)
    sheet = SiteSheet(crew.unit, None, request.POST, request.FILES.get("area_file"), _added(request))
    if _only_looking(request):
        return _sheet(request, sheet, context)
    sent = EntryForm(request.POST)
    if sheet.site and sent.is_valid():
        author = Author(request.user, sent.cleaned_data["device_at"])
        try:
            job = start_job(crew, first_design(sheet.site), author, sent.cleaned_data["entry_id"])
            messages.success(
                request, _("Started, with a first proposal. Look at Schools and Falls, then sign the brief.")
            )
            return redirect("base", job_id=job.id)
        except NotKept as not_kept:
            context["refusal"] = not_kept.message
    elif sent.errors:
        context["refusal"] = _("That did not arrive whole. Reload the page and try again.")
    return _sheet(request, sheet, context, 422)


def _crews_to_start_in(request: HttpRequest) -> Any:
    roles = [role for role, verbs in MAY.items() if Verb.DESIGN in verbs]
    return Crew.objects.filter(memberships__person=request.user, memberships__role__in=roles).order_by("name")


def _added(request: HttpRequest) -> str:
    return request.POST.get("add", "")


def _only_looking(request: HttpRequest) -> bool:
    return bool({"look", "add"} & set(request.POST)) or (bool(request.FILES) and "keep" not in request.POST)


def _sheet(request: HttpRequest, sheet: SiteSheet, context: dict[str, Any], status: int = 200) -> HttpResponse:
    drawing = outline_plan(sheet.outline, sheet.features, sheet.unit) if sheet.outline else ""
    context |= {"sheet": sheet, "drawing": drawing, "unit": sheet.unit}
    template = "brief/area.html" if request.htmx and "look" in request.POST else "brief/brief.html"
    return render(request, template, context, status=status)
