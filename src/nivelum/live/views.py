"""The stream every open page listens to: something was recorded, look again."""

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Any, cast
from uuid import UUID

from asgiref.sync import sync_to_async
from django import forms
from django.db import connection
from django.http import HttpResponseBadRequest, HttpResponseBase, StreamingHttpResponse
from django.views.decorators.http import require_GET

from nivelum.crews.models import Person
from nivelum.crews.requests import Request
from nivelum.jobs.models import Entry
from nivelum.live.hub import COMPANY, hub
from nivelum.live.presence import be_here

HEARTBEAT_SECONDS = 15
LONGEST_SECONDS = 300
"""A stream ends after this and the browser connects again: who may listen is asked anew."""


LOOK = "event: look\ndata: {}\n\n"


class StreamForm(forms.Form):
    job = forms.UUIDField(required=False)
    known = forms.IntegerField(min_value=0)


@require_GET
async def stream(request: Request) -> HttpResponseBase:
    """Server-sent events: `entry` with the job and its newest number for every entry in one's own crews, and `here`
    where somebody came, both with the company of the one `job`; `look` where something may have been missed: `known`
    is how many entries the page already shows, of one `job` or of all."""
    person = cast(Person, await request.auser())
    crews = {crew_id async for crew_id in person.crews.values_list("id", flat=True)}
    form = StreamForm(request.GET)
    if not form.is_valid():
        return HttpResponseBadRequest()
    events = _events(crews, form.cleaned_data["job"], form.cleaned_data["known"], person.pk)
    response = StreamingHttpResponse(events, content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


async def _events(crews: set[UUID], job: UUID | None, known: int, person: int) -> AsyncIterator[str]:
    ends = asyncio.get_running_loop().time() + LONGEST_SECONDS
    async with hub().stream(job) as queue:
        await sync_to_async(be_here)(crews, job, person)
        stale = await sync_to_async(_newest)(crews, job) != known
        # Who came or went while nobody listened is asked for at the start of every stream.
        here = f"event: here\ndata: {json.dumps({'job': str(job)})}\n\n" if job else ""
        yield "retry: 1000\n" + (LOOK if stale else "\n") + here
        while (left := ends - asyncio.get_running_loop().time()) > 0:
            try:
                async with asyncio.timeout(min(left, HEARTBEAT_SECONDS)):
                    news = await queue.get()
            except TimeoutError:
                await sync_to_async(be_here)(crews, job, person)
                yield ": still here\n\n"
                continue
            if news is None:
                yield LOOK
            elif "left" in news:
                if news["left"] == person and UUID(news["crew"]) in crews:
                    return  # the browser connects again, and is asked anew whose news it may hear
            elif UUID(news["crew"]) in crews:
                told: dict[str, Any] = {name: news[name] for name in ("job", "number") if name in news}
                if news["job"] == str(job) and news.get(COMPANY):
                    told[COMPANY] = news[COMPANY]
                yield f"event: {'here' if 'here' in news else 'entry'}\ndata: {json.dumps(told)}\n\n"


def _newest(crews: set[UUID], job: UUID | None) -> int:
    """How many entries there are, in one job or in all of the crews'.

    Gives the stream's database connection back: a stream stays open for minutes and must not hold one.
    """
    entries = Entry.objects.filter(job__crew__in=crews)
    try:
        return (entries.filter(job=job) if job else entries).count()
    finally:
        connection.close()
