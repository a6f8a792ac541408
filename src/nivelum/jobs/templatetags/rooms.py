"""The way from room to room."""

from functools import lru_cache
from uuid import UUID

from django import template
from django.template import Context
from django.urls import reverse
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.html import format_html_join
from django.utils.http import urlencode
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import get_language, gettext

from nivelum.jobs.rooms import ROOMS, Room

register = template.Library()


@register.simple_tag(takes_context=True)
def rooms(context: Context) -> SafeString:
    """A link to every room of the page's job, the one it is in marked."""
    carried = tuple(_carried(context, room) for room in ROOMS)
    return _all(context["job"].id, str(context.get("room", "")), carried, get_language())


@register.simple_tag(takes_context=True)
def page_title(context: Context, short: bool = False) -> str:
    """What a page of a job is called, the nearest first: the station it is at, its leaf or room, its job; in `short`
    without the job."""
    room = next((room for room in ROOMS if room.key == context.get("room")), None)
    leaf = context.get("leaf") or (room.opens if room else "")
    title = next((leaf_.title for leaf_ in room.leaves if leaf_.name == leaf), room.title) if room else ""
    answer, stage = context.get("answer"), context.get("step") if context.get("room") == "sign-offs" else None
    named = answer.station.name if answer else gettext(stage.stage.name) if stage else ""
    room_title = room.title if room else ""
    parts = [named, title if title != room_title else "", room_title]
    parts += [] if short else [context["job"].name, "Nivelum"]
    return " · ".join(str(part) for part in parts if part)


@register.simple_tag
def printed() -> str:
    """When a sheet was printed."""
    now = date_format(timezone.localtime(), gettext("j F Y, H:i"))
    return gettext("Printed {when}").format(when=now)


def _carried(page: Context, room: Room) -> str:
    """What goes along to a room from the page, as a query."""
    query = {key: value for key, value in room.carries(page).items() if value}
    return f"?{urlencode(query)}" if query else ""


@lru_cache(maxsize=1024)
def _all(job_id: UUID, here: str, carried: tuple[str, ...], _language: str | None) -> SafeString:
    """Every room's link, once in each language for what is carried along."""
    marked = mark_safe(' aria-current="page"')
    rows = (
        (reverse(room.opens, args=[job_id]), query, marked if room.key == here else "", room.title)
        for room, query in zip(ROOMS, carried, strict=True)
    )
    return format_html_join("\n", '<li><a href="{}{}"{}>{}</a></li>', rows)
