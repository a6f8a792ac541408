"""Things, shares and sums as pages show them."""

from decimal import Decimal

from django import template

from groundwork.measures import Unit
from nivelum.money import things

register = template.Library()


@register.filter
def thing(key: str, unit: Unit) -> str:
    return things.thing(key, unit)


@register.filter
def share(of: Decimal) -> str:
    """A share in percent, as exact as it is."""
    return f"{(of * 100).normalize():f} %"
