"""Form fields as the sheets show them, made in Python: a page has dozens, with hundreds of options."""

import uuid
from collections.abc import Iterable
from datetime import datetime
from functools import lru_cache
from typing import Any, NamedTuple

from django import template
from django.forms import BoundField
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext

register = template.Library()


@register.filter
def options(field: BoundField) -> SafeString:
    """The options of a choice, the chosen one marked; in Python, since a page has hundreds."""
    chosen = str(field.value() if field.value() is not None else "")
    choices: Iterable[tuple[Any, Any]] = getattr(field.field, "choices")  # noqa: B009 (not every field has them)
    rows = ((key, mark_safe(" selected") if str(key) == chosen else "", label) for key, label in choices)
    return format_html_join("", '<option value="{}"{}>{}</option>', rows)


@register.filter
def wrong(field: BoundField, swapped: str = "") -> SafeString:
    """What is wrong with a field, to stand beside it; `oob` where it is swapped in by itself."""
    said = field.errors[0] if field.errors else ""
    mark = mark_safe(' hx-swap-oob="true"' if swapped else "")
    return format_html('<p id="{}" class="wrong empty:hidden" role="alert"{}>{}</p>', _wrong(field), mark, said)


def _wrong(field: BoundField) -> str:
    """What the place is called where it stands what is wrong with a field."""
    return f"wrong-{field.id_for_label.removeprefix('id_') or field.html_name}"


def _label(label: str) -> str:
    """A label as a template hands it over: Django doubles the percent signs of what it has no translation for."""
    return label.replace("%%", "%")


class _Parts(NamedTuple):
    """What every field is written with, worked out once: a page has dozens."""

    id: str
    where: str
    mark: SafeString
    wrong: SafeString


def _parts(field: BoundField) -> _Parts:
    errors, name = field.errors, field.id_for_label
    where = f"wrong-{name.removeprefix('id_') or field.html_name}"
    said = format_html(
        '<p id="{}" class="wrong empty:hidden" role="alert">{}</p>', where, errors[0] if errors else ""
    )
    return _Parts(name, where, mark_safe(' aria-invalid="true"') if errors else mark_safe(""), said)


INPUT = (
    '<label class="small grid content-start gap-0.5">{}<input {}id="{}" name="{}" class="field low" value="{}"'
    ' {}aria-describedby="{}"{}>{}</label>'
)
NO_KIND, BY_HAND = mark_safe(""), mark_safe('autocomplete="off" ')
A_DAY, A_MINUTE = mark_safe('type="date" '), mark_safe('type="datetime-local" ')


def _input(field: BoundField, label: str, kind: SafeString, shown: Any, more: SafeString = NO_KIND) -> SafeString:
    of = _parts(field)
    return format_html(INPUT, _label(label), kind, of.id, field.html_name, shown, more, of.where, of.mark, of.wrong)


@register.simple_tag
def typed(field: BoundField, label: str) -> SafeString:
    """A field one types into, under its label, with what is wrong beside it."""
    shown = field.value()
    return _input(field, label, NO_KIND, "" if shown is None else shown, BY_HAND)


@register.simple_tag
def minuted(field: BoundField, label: str) -> SafeString:
    """A minute of a day, under its label; in Python, since a widget’s own template costs as much as a query."""
    shown = field.value()
    return _input(field, label, A_MINUTE, f"{shown:%Y-%m-%dT%H:%M}" if isinstance(shown, datetime) else shown or "")


@register.simple_tag
def dayed(field: BoundField, label: str) -> SafeString:
    """A day, under its label."""
    return _input(field, label, A_DAY, field.value() or "")


@register.simple_tag
def chosen(field: BoundField, label: str) -> SafeString:
    """A field one chooses from, under its label."""
    of = _parts(field)
    return format_html(
        '<label class="small grid gap-0.5">{}<select id="{}" name="{}" class="field low">{}</select>{}</label>',
        _label(label),
        of.id,
        field.html_name,
        options(field),
        of.wrong,
    )


@register.simple_tag
def listed(field: BoundField, label: str, list_id: str) -> SafeString:
    """A field one types into, with a list of what there is to choose from."""
    return format_html(
        '<label class="small grid content-start gap-0.5">{}<input name="{}" list="{}" class="field low" value="{}"'
        ' autocomplete="off"{}>{}</label>',
        _label(label),
        field.html_name,
        list_id,
        field.value() or "",
        mark_safe(' aria-invalid="true"' if field.errors else ""),
        wrong(field),
    )


@register.simple_tag
def numbered_links(names: Iterable[str], query: str, chosen: str) -> SafeString:
    """Links to patches by their numbers, the chosen one marked; in Python, since there are a dozen on every page."""
    named = gettext("patch {n}")
    rows = (
        (query, name, mark_safe(' aria-current="true"') if name == chosen else "", named.format(n=name), name)
        for name in names
    )
    link = '<a class="room px-3" href="?{}&amp;patch={}"{} aria-label="{}">{}</a>'
    return format_html_join("", link, rows)


@register.filter
def options_of(names: tuple[str, ...]) -> SafeString:
    """The options of a list."""
    return _options_of(names)


@lru_cache(maxsize=64)
def _options_of(names: tuple[str, ...]) -> SafeString:
    return format_html_join("", '<option value="{}"></option>', ((name,) for name in names))


@register.simple_tag
def new_id() -> str:
    """An identifier for an entry that a button makes."""
    return str(uuid.uuid4())
