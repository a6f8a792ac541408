"""What makes Nivelum go on without a signal: its worker, what it takes along of a job, and what waits on a device."""

import json
from functools import cache
from pathlib import Path
from uuid import UUID

from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import urlencode
from django.utils.translation import gettext as _
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_safe

from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.rooms import ROOMS, Each, Taken
from nivelum.jobs.services import snapshot

WORKER = Path(__file__).with_name("worker.js")
FILES = (
    "nivelum/built.css",
    "nivelum/fonts/archivo-latin.woff2",
    "nivelum/icon.svg",
    "django_htmx/htmx-2.min.js",
    "nivelum/nivelum.js",
    "nivelum/field.js",
    "nivelum/foretell.js",
    "nivelum/plan.js",
    "nivelum/drawings.js",
    "nivelum/water.js",
    "nivelum/setting.js",
)
"""What every page is made of: there before a page is wanted without a signal."""


@cache
def _worker() -> str:
    files = json.dumps([staticfiles_storage.url(name) for name in FILES])
    says = json.dumps(_says())
    return f"self.FILES={files};self.SAYS={says};\n{WORKER.read_text(encoding='utf-8')}"


def _says() -> dict[str, list[str]]:
    """Of each room that shows one of something where it opens, what in its query says which."""
    nowhere = UUID(int=0)
    under = reverse("job", args=[nowhere])
    return {
        reverse(room.opens, args=[nowhere]).removeprefix(under).rstrip("/"): [leaf.each.value]
        for room in ROOMS
        for leaf in room.leaves
        if leaf.name == room.opens and leaf.each
    }


@require_safe
@login_not_required
def worker(_request: Request) -> HttpResponse:
    """The service worker, at the root so that it serves every page."""
    headers = {"Cache-Control": "no-cache"}
    return HttpResponse(_worker(), content_type="text/javascript; charset=utf-8", headers=headers)


@require_safe
@login_not_required
def manifest(_request: Request) -> HttpResponse:
    """What a phone is told when it installs Nivelum."""
    icons = [
        {"src": staticfiles_storage.url(f"nivelum/icon-{size}.png"), "sizes": f"{size}x{size}", "type": "image/png",
         "purpose": purpose}
        for size in (192, 512) for purpose in ("any", "maskable")
    ]  # fmt: skip
    data = {
        "id": "/",
        "name": "Nivelum",
        "short_name": "Nivelum",
        "description": _("What the rod should read, whether it does, and what to do if not."),
        "start_url": "/",
        "scope": "/",
        "display": "standalone",
        "background_color": "#ece9e1",
        "theme_color": "#18222b",
        "icons": icons,
    }
    return JsonResponse(data, content_type="application/manifest+json")


@require_safe
@login_not_required
@never_cache
def signal(_request: Request) -> HttpResponse:
    """That it is Nivelum that answers, and not a portal on the way."""
    return HttpResponse(status=204, headers={"Nivelum-Signal": "yes"})


@require_GET
def waiting(request: Request) -> HttpResponse:
    """What waits on this device; the page itself knows nothing of it, its script does."""
    return render(request, "away/waiting.html")


@require_GET
@job_view(Verb.SEE)
def rooms(_request: Request, visit: Visit) -> JsonResponse:
    """Every address of a job that opens without a signal: `rooms` as soon as the job is opened, `all` where somebody
    takes it along; `also` the address a room has where nothing is chosen, which shows the same."""
    assessment, job = snapshot(visit.job).assessment, visit.job

    def at(name: str, **query: str) -> str:
        return reverse(name, args=[job.id]) + (f"?{urlencode(query)}" if query else "")

    choices = {
        Each.SURFACE: [surface.key for surface in assessment.surveys.levelled],
        Each.LIFT: list(assessment.works.lifts),
        Each.STAGE: list(assessment.stages.steps),
    }
    in_hand = {
        Each.SURFACE: assessment.surface_in_hand,
        Each.LIFT: assessment.works.in_hand_key,
        Each.STAGE: assessment.stages.in_hand_key,
    }
    opened, everything, also = [reverse("yard"), reverse("waiting"), reverse("keys")], [], {}
    for leaf in (leaf for room in ROOMS for leaf in room.leaves):
        one = at(leaf.name, **{leaf.each.value: in_hand[leaf.each]}) if leaf.each else at(leaf.name)
        every = [at(leaf.name, **{leaf.each.value: key}) for key in choices[leaf.each]] if leaf.each else [one]
        everything += every
        opened += {Taken.AT_ONCE: every, Taken.IN_HAND: [one], Taken.ALONG: []}[leaf.taken]
        if leaf.each and leaf.taken is not Taken.ALONG:
            also[one] = at(leaf.name)
    counted = assessment.logbook.entries.values()
    photos = dict.fromkeys(filter(None, (getattr(entry, "photo", "") for entry in counted)))
    everything += [reverse("photo", args=[job.id, photo]) for photo in photos]
    later = [each for each in everything if each not in opened]
    return JsonResponse({"rooms": opened, "also": also, "all": later})
