"""The way from room to room."""

from django import template
from django.template import Context
from django.urls import reverse
from django.utils.html import format_html, format_html_join
from django.utils.http import urlencode
from django.utils.safestring import SafeString, mark_safe

from nivelum.jobs.rooms import ROOMS, Room

register = template.Library()


@register.simple_tag(takes_context=True)
def rooms(context: Context) -> SafeString:
    """A link to every room of the page's job, the one it is in marked."""
    return format_html_join("\n", "{}", ((_link(context, room),) for room in ROOMS))


def _link(page: Context, room: Room) -> SafeString:
    query = {key: value for key, value in room.carries(page).items() if value}
    return format_html(
        '<a class="room" href="{}{}"{}>{}</a>',
        reverse(room.opens, args=[page["job"].id]),
        f"?{urlencode(query)}" if query else "",
        mark_safe(' aria-current="page"') if page.get("room") == room.key else "",
        room.title,
    )
