"""The layout: which pattern, from where; what it comes to, what to do about pieces too small."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import urlencode
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST
from django_htmx.http import HttpResponseClientRedirect

from groundwork.job import Job
from groundwork.layouts import Choice, Remedy, pattern_options, paved_as, remedies, start_side, usual_unit
from groundwork.laywork import LayoutChosen
from groundwork.measures import Measured, Unit, format_amount
from groundwork.pattern import Paving, is_random
from groundwork.shape import exactly
from groundwork.soundness import Reason
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.paving import chosen_drawing, layout_drawing, pattern_swatch
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.laying.forms import LayoutForm, LayoutTry, SharesForm
from nivelum.laying.kinds import pattern_words
from nivelum.laying.screens import laying_screen
from nivelum.laying.search import best
from nivelum.recording.door import RecordedAt, answered, recorded
from nivelum.recording.fields import bare
from nivelum.workshop.bench import Busy, TooMuch

DRAFT = "draft"
LONGEST_NUMBER = 6
SHOWN = 40
"""So many pieces too small are listed; the plan shows all."""


@require_GET
@job_view(Verb.SEE)
def layout(request: Request, visit: Visit) -> HttpResponse:
    """The layout as it was chosen, or as it is tried: nothing of a try is recorded."""
    context = _context(request, visit, snapshot(visit.job))
    return render(request, "laying/layout.html", context, status=422 if context["design"].errors else 200)


@require_GET
@job_view(Verb.SEE)
def layout_now(request: Request, visit: Visit) -> HttpResponse:
    """What is tried, as it comes out; or what others have changed."""
    return render(request, "laying/now.html", _context(request, visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def layout_best(request: Request, visit: Visit) -> HttpResponse:
    """The best three of what is typed, looked for on a bench while the page asks again."""
    shot = snapshot(visit.job)
    context = _context(request, visit, shot)
    found: dict[str, Any] = {"wrong": ""}
    if context["tried"] is None:
        found["wrong"] = _("Mend what is wrong in the layout first.")
    elif tried := context["tried"]:
        try:
            looked = best(shot.assessment.site, str(visit.job.id), tried)
            found |= {"looked": looked, "choices": [(c, _with(context, c)) for c in looked.choices]}
        except Busy:
            found["wrong"] = _("Too much is being looked for just now: ask again in a minute.")
        except TooMuch:
            found["wrong"] = _("That took too long: try a larger unit, or a part of the area.")
        except ValueError as error:
            found["wrong"] = str(error)
    template = "laying/best.html" if request.htmx else "laying/layout.html"
    return render(request, template, context | found)


@require_POST
@job_view(Verb.MEASURE)
def choose_layout(request: Request, visit: Visit) -> HttpResponse:
    """A layout to lay by, in the place of the one before."""
    form = LayoutForm(request.POST, job=snapshot(visit.job).assessment.site)
    done = recorded(visit, form, "length")
    place = RecordedAt("laying/layout.html", "laying/now.html", reverse("layout", args=[visit.job.id]))
    if done and request.htmx:  # the page may still show what was tried
        return HttpResponseClientRedirect(place.way)
    return answered(request, done, place, lambda: _context(request, visit, snapshot(visit.job), form))


@require_POST
@job_view(Verb.MEASURE)
def share_pieces(request: Request, visit: Visit) -> HttpResponse:
    """Pieces too small cut anew with the units beside them."""
    form = SharesForm(request.POST)
    done = recorded(visit, form, "pieces")
    place = RecordedAt("laying/layout.html", "laying/now.html", reverse("layout", args=[visit.job.id]))
    if done and request.htmx:
        return HttpResponseClientRedirect(place.way)
    return answered(
        request, done, place, lambda: _context(request, visit, snapshot(visit.job)) | {"shares_form": form}
    )


def _context(request: Request, visit: Visit, shot: Snapshot, wrong: LayoutForm | None = None) -> dict[str, Any]:
    """What is tried where something is, else what was chosen, else what the product proposes."""
    job, there = shot.assessment.site, shot.assessment.laying
    given = request.GET if "pattern" in request.GET else None
    design: LayoutTry = wrong or LayoutTry(given, job=job, initial=_as_chosen(job, there.chosen))
    tried, paving = there.chosen, there.paving
    if not there.is_there:
        tried, paving, given = None, None, None
    elif given is not None or wrong is not None or there.chosen is None:
        tried, paving = _tried(shot, design if design.is_bound else LayoutTry(_proposed(job), job=job), design)
    if given is None and wrong is None and there.chosen is None:
        design = LayoutTry(initial=_proposed(job), job=job)
    piece = request.GET.get("piece", "")
    unit = visit.job.crew.unit
    found = remedies(paving, piece) if paving and piece in {p.name for p in paving.slivers} else ()
    query = _query(design)
    is_kept = tried is there.chosen
    return laying_screen(visit, shot, "layout") | {
        "design": design, "tried": tried, "trial": paving, "is_kept": is_kept, "query": query, "piece": piece,
        "drawing": _drawn(shot, paving, unit, piece, is_kept=is_kept),
        "options": lambda: _options(job, design), "random": is_random(tried.pattern) if tried else False,
        "units": sum(paving.units.values()) if paving else 0, "small": paving.slivers[:SHOWN] if paving else (),
        "can_share": there.can_share if is_kept else (),
        "remedies": [(_remedy_words(r, unit), r, _remedied(query, r, unit)) for r in found],
        "findings": there.findings if is_kept else (), "keep_form": LayoutForm(job=job), "shares_form": SharesForm(),
        "checked": [design[name] for name in design.fields if name in DESIGN_FIELDS],
        "sizes": [(long, wide, number) for (long, wide), number in paving.units.items()] if paving else (),
    }  # fmt: skip


def _tried(shot: Snapshot, typed: LayoutTry, shown: LayoutTry) -> tuple[LayoutChosen | None, Paving | None]:
    """The layout that is typed and the area paved so; what is wrong with it stands beside its field."""
    if not typed.is_valid():
        return None, None
    tried = typed.chosen(DRAFT)
    if found := tried.wrong(shot.assessment.standing):
        if shown.is_bound:
            said = found.words.text(shot.assessment.site.unit, _)
            shown.add_error(
                found.field if found.field in shown.fields else "length", f"{said[:1].upper()}{said[1:]}."
            )
        return None, None
    return tried, paved_as(shot.assessment.site, tried)


def _typed(chosen: LayoutChosen, unit: Unit) -> dict[str, Any]:
    return {
        "pattern": chosen.pattern, "length": bare(chosen.length.metres, unit),
        "width": bare(chosen.width.metres, unit),
        "joint": bare(chosen.joint.metres, unit), "side": chosen.side, "turned": chosen.turned,
        "over": exactly(chosen.over, unit), "ahead": exactly(chosen.ahead, unit), "border": chosen.border,
        "corner": chosen.corner, "seed": chosen.seed,
    }  # fmt: skip


def _as_chosen(job: Job, chosen: LayoutChosen | None) -> dict[str, Any]:
    return _typed(chosen, job.unit) if chosen else {}


def _proposed(job: Job) -> dict[str, Any]:
    """The layout one begins with: what fits best, from the longest straight side."""
    unit = usual_unit(job)
    first = next(iter(pattern_options(job, unit)), None)
    sizes = [Measured("", metres) for metres in (unit.length, unit.width, unit.joint)]
    key = first.pattern.key if first else "running-half"
    return _typed(LayoutChosen(DRAFT, key, sizes[0], sizes[1], sizes[2], start_side(job)), job.unit)


def _options(job: Job, design: LayoutTry) -> list[tuple[str, str, SafeString, tuple[Reason, ...]]]:
    """Every pattern that can be laid of such units, what fits best first, with its drawing and its reasons."""
    unit = usual_unit(job)
    if design.is_bound and design.is_valid():
        unit = design.chosen(DRAFT).unit
    typed = str(design["turned"].value() or 0)
    turned = int(typed) if typed.isdecimal() and len(typed) < LONGEST_NUMBER else 0
    found = []
    for option in pattern_options(job, unit):
        key = option.pattern.key
        found.append((key, pattern_words(key), pattern_swatch(option.pattern, turned), option.reasons))
    return found


def _query(design: LayoutTry) -> dict[str, str]:
    """A layout as it goes into an address, or into a form that keeps it."""
    values = {name: design[name].value() for name in design.fields if name in DESIGN_FIELDS}
    return {name: "" if value is None else str(value) for name, value in values.items()}


DESIGN_FIELDS = frozenset(
    ("pattern", "length", "width", "joint", "side", "turned", "over", "ahead", "border", "corner", "seed")
)


def _with(context: dict[str, Any], choice: Choice) -> str:
    unit = context["unit"]
    more = {"over": exactly(choice.over, unit), "ahead": exactly(choice.ahead, unit), "turned": str(choice.turned)}
    return urlencode(context["query"] | more)


def _remedied(query: dict[str, str], remedy: Remedy, unit: Unit) -> str:
    design = remedy.paving.design
    more = {"over": exactly(design.over, unit), "ahead": exactly(design.ahead, unit)}
    more["border"] = design.border.course.value
    return "" if remedy.how == "share" else urlencode(query | more)


def _drawn(shot: Snapshot, paving: Paving | None, unit: Unit, piece: str, *, is_kept: bool) -> SafeString:
    if is_kept:
        return chosen_drawing(shot.assessment, unit, piece)
    return layout_drawing(shot.assessment.site, paving, unit, piece) if paving else SafeString()


def _remedy_words(remedy: Remedy, unit: Unit) -> str:
    if remedy.how == "share":
        return _("Cut the unit beside it too: two of {each}").format(each=format_amount(remedy.each, unit))
    if remedy.how.startswith("shift"):
        said = {"shift over": _("Begin {step} further along the string"), "shift ahead": _("Begin {step} further in")}
        return said[remedy.how].format(step=format_amount(remedy.each, unit))
    return {
        "border across": _("Turn the border: ends out"), "border along": _("Turn the border: sides out"),
        "border double": _("Make the border two courses"),
    }[remedy.how]  # fmt: skip
