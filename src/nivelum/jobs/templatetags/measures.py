"""Lengths and verdicts in templates: the crew's unit, fractions stacked, phrases translated."""

import re
from collections.abc import Iterable, Mapping
from typing import Any
from urllib.parse import urlencode

from django import template
from django.utils.formats import date_format
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import measures as measure
from groundwork.assess import Assessment
from groundwork.base import Surface, SurfaceKey
from groundwork.base import catalogue as materials
from groundwork.brief import Traffic
from groundwork.measures import Unit, Words
from groundwork.schools import Slot
from groundwork.stages import Gate, StageAnswer
from groundwork.survey import FallAnswer, FallCall
from groundwork.verdict import Standing
from nivelum.drawing.glyphs import CSS, every_definition, lone_glyph

register = template.Library()

STANDING_WORDS = {
    Standing.UNSHOT: _("not shot"),
    Standing.UNKNOWN: _("not known any more"),
    Standing.GOOD: _("good"),
    Standing.MADE_GOOD: _("made good with stone"),
    Standing.TOO_CLOSE: _("too close to call"),
    Standing.DIG: _("dig"),
    Standing.OVER_DUG: _("over-dug"),
    Standing.FILLED: _("filled, not shot since"),
    Standing.UNEXPLAINED: _("what filled it?"),
    Standing.UNSOUND_FILL: _("fill not sound"),
    Standing.HIGH: _("high"),
    Standing.LOW: _("low"),
}
TRAFFIC_WORDS = {
    Traffic.FOOT: _("on foot"),
    Traffic.LIGHT: _("garden machines, carts"),
    Traffic.DRIVE: _("cars, light vans"),
    Traffic.HEAVY: _("anything heavier: an engineer designs it"),
}
SURFACE_WORDS = {
    SurfaceKey.FORMATION: _("Formation"),
    SurfaceKey.SUB_BASE: _("Sub-base"),
    SurfaceKey.BASE: _("Base"),
    SurfaceKey.BOUND_BASE: _("Bound base"),
    SurfaceKey.BEDDING: _("Bedding"),
    SurfaceKey.SCREED: _("Screeded bedding"),
    SurfaceKey.FINISHED: _("Finished paving"),
}
GATE_WORDS = {
    Gate.NOT_YET: _("not yet"),
    Gate.READY_TO_CHECK: _("ready to check"),
    Gate.HELD: _("held"),
    Gate.READY: _("ready to sign"),
    Gate.SIGNED: _("signed"),
    Gate.SIGNED_ACCEPTED: _("signed with acceptances"),
    Gate.OVERTAKEN: _("changed since"),
}


def stacked(text: str) -> SafeString:
    """`text` escaped, with `7/8` set as a stacked fraction that is still read out as 7/8, and reads so as plain text:
    2 7/8 without its markup is no 278."""
    if "/" not in text:
        return escape(text)
    return mark_safe(
        re.sub(
            r" ?(\d+)/(\d+)(?=″)",
            r'<span class="fraction" role="img" aria-label=" \1/\2"><i hidden> </i>'
            r"<span>\1</span><i hidden>/</i><span>\2</span></span>",
            escape(text),
        )
    )


@register.filter
def reading(metres: float, unit: Unit) -> SafeString:
    return stacked(measure.format_reading(metres, unit))


@register.filter
def level(metres: float, unit: Unit) -> SafeString:
    return stacked(measure.format_level(metres, unit))


@register.filter
def amount(metres: float, unit: Unit) -> SafeString:
    return stacked(measure.format_amount(metres, unit))


@register.filter
def limit(metres: float, unit: Unit) -> SafeString:
    """A limit as the crew's trade writes it."""
    return stacked(measure.format_limit(metres, unit))


@register.filter
def distance(metres: float, unit: Unit) -> str:
    return measure.format_distance(metres, unit)


@register.filter
def place(metres: float, unit: Unit) -> str:
    return measure.format_place(metres, unit)


@register.filter
def fine(metres: float, unit: Unit) -> str:
    """A share of a joint, without its sign."""
    return measure.format_fine(metres, unit)


@register.filter
def at(values: Mapping[str, Any], key: str) -> Any:
    """What stands under a key; None where nothing does."""
    return values.get(key)


@register.filter
def urlencoded(pairs: Iterable[tuple[str, str]]) -> str:
    """What goes into an address after its question mark."""
    return urlencode(list(pairs))


@register.filter
def signed(metres: float, unit: Unit) -> SafeString:
    """An amount with the side it is on; none where it is shown as nothing."""
    shown = measure.format_amount(metres, unit)
    nothing = shown == measure.format_amount(0.0, unit)
    return stacked(shown if nothing else f"{'−' if metres < 0 else '+'}{shown}")


@register.filter
def says(words: Words, unit: Unit) -> SafeString:
    """A phrase of the core in the reader's language and the crew's unit."""
    return stacked(words.text(unit, gettext, lambda day: date_format(day, gettext("j F Y"))))


@register.filter
def sized(text: str, unit: Unit) -> str:
    """A sentence of the core in the reader's language, its millimetres as the crew's system has them."""
    return measure.in_system(gettext(text) if text else "", unit)


@register.filter
def standing_word(standing: Standing) -> str:
    return str(STANDING_WORDS[standing])


@register.filter
def standing_css(standing: Standing) -> str:
    return CSS[standing]


@register.filter
def surface_word(surface: Surface) -> str:
    """A surface by name, a lift with its number."""
    name = str(SURFACE_WORDS[surface.kind])
    if surface.is_covered:
        return gettext("{surface}, lift {n}").format(surface=name, n=surface.lift)
    return name if surface.lifts == 1 else gettext("{surface}, top").format(surface=name)


@register.filter
def named(key: str) -> str:
    """A surface by what its key says alone, where the design it belongs to may have changed since."""
    kind, _dot, lift = key.partition(".")
    if kind not in set(SurfaceKey):
        return key
    name = str(SURFACE_WORDS[SurfaceKey(kind)])
    return gettext("{surface}, lift {n}").format(surface=name, n=lift) if lift else name


@register.filter
def gate_word(gate: Gate) -> str:
    return str(GATE_WORDS[gate])


SLOT_WORDS = {Slot.LEAD: _("the lead"), Slot.ENGINEER: _("the engineer"), Slot.SECOND: _("a second look")}


@register.filter
def slots_word(slots: Iterable[Slot]) -> str:
    return gettext(" and ").join(str(SLOT_WORDS[slot]) for slot in slots)


GATE_CSS = {
    Gate.SIGNED: "laid",
    Gate.SIGNED_ACCEPTED: "laid accepted",
    Gate.OVERTAKEN: "cracked",
    Gate.HELD: "begun",
    Gate.READY: "begun",
}


@register.filter
def gate_css(gate: Gate) -> str:
    """How a paver of the line of stages lies."""
    return GATE_CSS.get(gate, "")


@register.filter
def glyph(standing: Standing) -> SafeString:
    return lone_glyph(standing, standing_word(standing))


@register.filter
def fall_of(ratio: float) -> str:
    return measure.format_fall(ratio)


register.simple_tag(every_definition, name="drawing_definitions")

FALL_SAYS = {
    FallCall.GOOD: _("falls as it should"),
    FallCall.FLAT: _("too flat: trim it"),
    FallCall.WRONG_WAY: _("falls the wrong way: trim it"),
    FallCall.TOO_CLOSE: _("too close: use a longer bar"),
}


@register.filter
def fall_says(answer: FallAnswer) -> str:
    return str(FALL_SAYS[answer.call])


@register.filter
def fall_css(answer: FallAnswer) -> str:
    return {FallCall.GOOD: "good", FallCall.TOO_CLOSE: "close"}.get(answer.call, "dig")


@register.filter
def level_of(assessment: Assessment, point: str) -> float:
    """The level of a mark or turning point that stands."""
    return assessment.levels.runs.level_of(point) or 0.0


@register.filter
def square(square_metres: float, unit: Unit) -> str:
    return measure.format_area(square_metres, unit)


@register.filter
def cubic(cubic_metres: float, unit: Unit) -> str:
    return measure.format_volume(cubic_metres, unit)


@register.filter
def waters(cubic_metres: float, unit: Unit) -> str:
    return measure.format_water(cubic_metres, unit)


@register.filter
def rain(metres_a_second: float, unit: Unit) -> str:
    return measure.format_rain(metres_a_second, unit)


@register.filter
def tonnes(kilograms: float, unit: Unit) -> str:
    return measure.format_mass(kilograms, unit)


@register.filter
def weight(kilograms: float, unit: Unit) -> str:
    return measure.format_weight(kilograms, unit)


@register.filter
def dense(kilograms: float, unit: Unit) -> str:
    return measure.format_density(kilograms, unit)


@register.filter
def stiffness(megapascals: float, unit: Unit) -> str:
    return measure.format_stiffness(megapascals, unit)


@register.filter
def axle(unit: Unit) -> str:
    return measure.format_axle(unit)


@register.filter
def loose(cubic_metres: float, unit: Unit) -> str:
    return measure.format_barrow(cubic_metres, unit)


@register.filter(name="material")
def material_word(key: str, unit: Unit) -> str:
    """What a material is called."""
    return measure.in_system(gettext(materials()[key].title), unit) if key in materials() else key


@register.filter
def percent(share: float) -> str:
    return f"{share:.1%}"


@register.filter
def traffic_words(traffic: Traffic) -> str:
    return str(TRAFFIC_WORDS[traffic])


@register.filter
def stage_names(answers: Iterable[StageAnswer]) -> str:
    return ", ".join(gettext(answer.stage.title) for answer in answers)
