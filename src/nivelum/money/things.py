"""What things that a job takes are called, and how amounts of them and what they are sold in are said."""

import re
from typing import Any

from django.utils.translation import gettext_lazy as _

from groundwork.base import catalogue
from groundwork.measures import (
    Unit,
    format_amount,
    format_area,
    format_distance,
    format_volume,
    format_water,
    format_weight,
    in_system,
)
from groundwork.orderwork import Measure

THINGS: dict[str, Any] = {
    "spoil": _("spoil, loose"), "water": _("water"), "fabric": _("fabric"), "cement": _("cement"),
    "all-in ballast": _("all-in ballast"),
    "spike": _("spike"), "picket": _("picket"), "kerb": _("kerb"), "channel": _("channel"),
    "spiked edging": _("spiked edging"), "concrete edge": _("concrete edge"), "angle on a slab": _("angle on a slab"),
    "form": _("form"), "dry sand": _("dry sand"), "kiln-dried sand": _("kiln-dried sand"),
    "bonded sand": _("bonded sand"), "resin mortar": _("resin mortar"), "mortar": _("mortar"), "chip": _("chip"),
    "pebble": _("pebble"),
}  # fmt: skip
WAYS: dict[str, tuple[Any, Any]] = {
    "bag": (_("{n} bag"), _("{n} bags")), "bulk bag": (_("{n} bulk bag"), _("{n} bulk bags")),
    "tonne": (_("{n} tonne"), _("{n} tonnes")), "short ton": (_("{n} short ton"), _("{n} short tons")),
    "load": (_("{n} load"), _("{n} loads")), "cubic metre": (_("{n} cubic metre"), _("{n} cubic metres")),
    "cubic yard": (_("{n} cubic yard"), _("{n} cubic yards")),
    "load taken away": (_("{n} load taken away"), _("{n} loads taken away")),
    "square metre": (_("{n} square metre"), _("{n} square metres")),
    "square foot": (_("{n} square foot"), _("{n} square feet")), "roll": (_("{n} roll"), _("{n} rolls")),
    "metre": (_("{n} metre"), _("{n} metres")), "foot": (_("{n} foot"), _("{n} feet")), "piece": ("{n}", "{n}"),
    "pallet": (_("{n} pallet"), _("{n} pallets")),
    "litre": (_("{n} litre"), _("{n} litres")),
    "cubic metre of water": (_("{n} cubic metre of water"), _("{n} cubic metres of water")),
    "gallon": (_("{n} gallon"), _("{n} gallons")),
}  # fmt: skip
"""What things are sold in: one of it, and more."""
OTHERWISE = ("{n} × {way}", "{n} × {way}")
"""Of what a file brought that nobody sells so here."""
SIZED = re.compile(r"(?P<name>\S+) (?P<long>\d{1,5}) x (?P<wide>\d{1,5})", re.ASCII)
"""Units of a size, in millimetres after their material’s key."""


def thing(key: str, unit: Unit) -> str:
    """What is needed, by its name; units of a size have it after the material’s, in the key in millimetres."""
    if key in THINGS:
        return in_system(str(THINGS[key]), unit)
    known, sized = catalogue(), SIZED.fullmatch(key)
    name = sized["name"] if sized else key
    title = in_system(str(_(known[name].title)), unit) if name in known else name
    if not sized:
        return title
    sides = (format_amount(float(sized[side]) / 1000, unit) for side in ("long", "wide"))
    return f"{title}, {' × '.join(sides)}"


def measured(amount: float, measure: Measure, unit: Unit) -> str:
    """An amount in the crew’s unit."""
    match measure:
        case Measure.MASS:
            return format_weight(amount, unit)
        case Measure.VOLUME | Measure.LOOSE:
            return format_volume(amount, unit)
        case Measure.AREA:
            return format_area(amount, unit)
        case Measure.LENGTH:
            return format_distance(amount, unit)
        case Measure.PIECES:
            return f"{amount:.0f}"
        case Measure.WATER:
            return format_water(amount, unit)


def numbered(number: float, way: str) -> str:
    """So many of what a thing is sold in; of pieces the number alone."""
    one, more = WAYS.get(way, OTHERWISE)
    return str(one if number == 1 else more).format(n=f"{number:g}", way=way)


def way_words(way: str) -> str:
    """What a thing is sold in, as a choice: the word for several without its number."""
    _one, more = WAYS.get(way, OTHERWISE)
    return str(more).replace("{n}", "").format(way=way).strip() or str(_("pieces"))
