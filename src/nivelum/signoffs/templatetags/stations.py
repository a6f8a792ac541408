"""The lines of a surface's stations in what a stage is signed on: each is drawn once for what it says, since an entry
changes one of hundreds."""

from functools import lru_cache
from urllib.parse import quote_plus

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.utils.translation import get_language

from groundwork.measures import Unit
from groundwork.survey import StationAnswer
from groundwork.verdict import Standing
from nivelum.jobs.templatetags.measures import amount, glyph, level, standing_word

register = template.Library()
SIGNS = {"above": "+", "below": "−", "at": ""}


@register.simple_tag
def station_line(answer: StationAnswer, surface: str, ground: str, unit: Unit) -> SafeString:
    """A row of the table: a station, its design, what was read and what it comes to. `ground` is the address of the
    job's Ground."""
    where = f"{ground}?surface={quote_plus(surface)}&station={quote_plus(answer.station.name)}"
    found = answer.judgement
    levels = answer.design, found.level, found.deviation
    return _line(where, answer.station.name, levels, found.side, found.standing, unit, get_language())


@lru_cache(maxsize=20_000)
def _line(
    where: str,
    name: str,
    levels: tuple[float, float | None, float | None],
    side: str,
    standing: Standing,
    unit: Unit,
    _language: str | None,
) -> SafeString:
    design, found, deviation = levels
    read = "" if found is None else level(found, unit)
    off = "" if deviation is None else amount(deviation, unit)
    return format_html(
        '<tr><th scope="row"><a class="figure text-lg underline" href="{}">{}</a></th>'
        '<td class="number max-sm:hidden">{}</td>'
        '<td class="number">{}</td><td class="number figure">{}{}</td>'
        '<td><span class="flex items-center gap-2">{} {}</span></td></tr>',
        where, name, level(design, unit), read, SIGNS[side] if off else "", off, glyph(standing),
        standing_word(standing),
    )  # fmt: skip
