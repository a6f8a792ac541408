"""Lengths as people type them and as they want them back.

What is typed keeps its raw text beside the metres; what is shown is rounded to what a rod can be read to.
"""

import math
import re
import unicodedata
from dataclasses import dataclass
from enum import Enum, StrEnum
from fractions import Fraction

from groundwork.measures.constants import (
    CUBIC_YARD,
    FOOT,
    GALLON,
    INCH,
    MILE,
    POUND,
    POUND_A_CUBIC_FOOT,
    POUND_FORCE,
    POUND_PER_SQUARE_INCH,
    TON,
)
from groundwork.measures.said import Said

LONGEST_ROD = 6.0
LONGEST_TEXT = 40
FINEST_INCH_FRACTION = 64
SHOWN_INCH_FRACTION = 16


class Unit(StrEnum):
    """How a crew's rod is marked; a bare number is in this unit."""

    METRES = "m"
    MILLIMETRES = "mm"
    FEET_TENTHS = "ft"
    FEET_INCHES = "ft-in"

    @property
    def is_metric(self) -> bool:
        return self in (Unit.METRES, Unit.MILLIMETRES)

    @property
    def for_plans(self) -> "Unit":
        """What a bare number is in where it is a distance on the plan or a level: metres, or feet."""
        return Unit.METRES if self.is_metric else Unit.FEET_TENTHS

    @property
    def for_layers(self) -> "Unit":
        """What a bare number is in where it is a thickness: millimetres, or as the rod is marked."""
        return Unit.MILLIMETRES if self.is_metric else self


class MeasureError(Said):
    """What was typed is no measurement; the message says where and what would be right."""


@dataclass(frozen=True)
class Measured:
    """A length in metres with the text it was typed as."""

    raw: str
    metres: float


class Typed(Enum):
    """How a length of an entry is read where it was typed: off a rod, up or down, on the plan, as a thickness, a
    straightedge's own, or along a tape."""

    ROD = "rod"
    SIGNED = "signed"
    PLAN = "plan"
    LAYER = "layer"
    BAR = "bar"
    TAPE = "tape"


_METRIC = re.compile(r"(?P<sign>[+-]?)(?P<number>\d+[.,]\d*|[.,]\d+|\d+)\s*(?P<unit>mm|cm|m)?")
_GROUPED = re.compile(r"(?P<thousands>[1-9]),(?P<rest>\d{3})\s*m(?:m|illi)")
"""A comma that parts thousands, or else thousandths of a millimetre, which nobody measures."""
_METRIC_WORDS = re.compile(r"(?<![a-z])(milli|centi)?(?:metres?|meters?)(?![a-z])")
_FEET_WORDS = re.compile(r"′|’|‘|ʹ|(?<![a-z])(?:feet|foot|ft)(?![a-z])\.?")
_INCH_WORDS = re.compile(r"''|″|”|“|(?<![a-z])(?:inches|inch|in)(?![a-z])\.?")
_PREFIXES = {"milli": "mm", "centi": "cm", None: "m"}
_FEET = re.compile(r"""(?P<sign>[+-]?)(?P<feet>\d*\.\d+|\d+\.?)\s*'[\s-]*(?P<rest>.*)""")
_INCHES = re.compile(
    r"""(?P<sign>[+-]?)(?:(?P<whole>\d*\.\d+|\d+\.?)(?![\d/]))?[\s-]*(?:(?P<top>\d+)\s*/\s*(?P<bottom>\d+))?\s*(?P<mark>"?)"""
)
_BARE_FEET_INCHES = re.compile(r"(?P<feet>[+-]?\d+)[\s-]+(?P<inches>\d+(?:[\s-]+\d+/\d+)?)")

_EXAMPLES = {
    Unit.METRES: "1.406 or 1406",
    Unit.MILLIMETRES: "1406 or 1.406",
    Unit.FEET_TENTHS: "4.61",
    Unit.FEET_INCHES: "4' 7 3/8\"",
}


def parse_length(text: str, bare: Unit) -> Measured:
    """The length typed as `text`, a bare number being in `bare`.

    Takes metric (`1.406 m`, `1406mm`), feet and tenths (`4.61'`) and feet, inches and fractions
    (`4' 7 3/8"`, `7-3/8`, `4 7 3/8`), whatever the crew's own unit. Raises `MeasureError`.
    """
    plain = _plain(text, bare)
    if metric := _METRIC.fullmatch(plain):
        unit = metric["unit"] or bare
        number = float(metric["number"].replace(",", "."))
        scale = {"m": 1.0, "cm": 0.01, "mm": 0.001, Unit.FEET_TENTHS: FOOT, Unit.FEET_INCHES: INCH}[unit]
        return _measured(text, -number * scale if metric["sign"] == "-" else number * scale)
    if feet := _FEET.fullmatch(plain):
        return _measured(text, _signed(feet["sign"], _feet_and_inches(text, feet["feet"], feet["rest"])))
    if pair := _BARE_FEET_INCHES.fullmatch(plain):
        feet_text = pair["feet"]
        sign = "-" if feet_text.startswith("-") else ""
        return _measured(text, _signed(sign, _feet_and_inches(text, feet_text.lstrip("+-"), pair["inches"])))
    if (inches := _INCHES.fullmatch(plain)) and (inches["whole"] or inches["top"]):
        return _measured(text, _signed(inches["sign"], _inches(text, inches) * INCH))
    raise MeasureError(
        "“{text}” is not a measurement: type it like {like}", text=_shortened(text), like=_EXAMPLES[bare]
    )


def parse_rod(text: str, bare: Unit) -> Measured:
    """A rod reading typed as `text`.

    On a metric rod a bare number says by itself which of metres and millimetres it is: 10 and over can only
    be millimetres, under 10 with a decimal point only metres. Raises `MeasureError`, also for what no rod
    can read.
    """
    plain = _plain(text, bare)
    if bare.is_metric and (metric := _METRIC.fullmatch(plain)) and not metric["unit"]:
        number = float(metric["number"].replace(",", "."))
        if number >= 10:
            bare = Unit.MILLIMETRES
        elif not metric["number"].isdigit():
            bare = Unit.METRES
    reading = parse_length(text, bare)
    if reading.metres < 0:
        raise MeasureError("“{text}” is below the foot of the rod: readings start at 0", text=_shortened(text))
    if reading.metres > LONGEST_ROD:
        longest = format_reading(LONGEST_ROD, bare)
        raise MeasureError(
            "“{text}” is more than any rod reads: they end at {longest}", text=_shortened(text), longest=longest
        )
    return reading


def parse_signed(text: str, bare: Unit) -> Measured:
    """A height above or below, a dip or a gap, typed as `text`: a bare number is read as off a rod, below nothing
    with its sign. Raises `MeasureError`."""
    plain = _plain(text, bare)
    number = re.fullmatch(r"[+-]?(\d+(?:[.,]\d*)?|[.,]\d+)", plain)
    if bare.is_metric and number:
        value = float(number[1].replace(",", "."))
        bare = Unit.MILLIMETRES if value >= 10 else Unit.METRES if not number[1].isdigit() else bare
    reading = parse_length(text, bare)
    if abs(reading.metres) > LONGEST_ROD:
        raise MeasureError("“{text}” is further than anything here is read to", text=_shortened(text))
    return reading


LONGEST_TAPE = 100.0


def parse_tape(text: str, bare: Unit) -> Measured:
    """A length along a tape, typed as rod readings are: on a metric one 100 and over can only be millimetres, 10 and
    over too for a crew that reads millimetres, and less with a decimal point only metres. Raises `MeasureError`, also
    for what no tape reaches."""
    plain = _plain(text, bare)
    if bare.is_metric and (metric := _METRIC.fullmatch(plain)) and not metric["unit"]:
        number = float(metric["number"].replace(",", "."))
        if number >= (10 if bare is Unit.MILLIMETRES else LONGEST_TAPE):
            bare = Unit.MILLIMETRES
        elif not metric["number"].isdigit():
            bare = Unit.METRES
    taped = parse_length(text, bare)
    if not 0 <= taped.metres <= LONGEST_TAPE:
        longest = format_reading(LONGEST_TAPE, bare)
        raise MeasureError(
            "“{text}” is no length along a tape: 0 to {longest}", text=_shortened(text), longest=longest
        )
    return taped


SHORTEST_BAR, LONGEST_BAR = 0.3, 6.0


def parse_bar(text: str, bare: Unit) -> Measured:
    """A straightedge's length: a bare number under 10 is in metres, or in feet. Raises `MeasureError`."""
    number = re.fullmatch(r"\s*\d(?:[.,]\d+)?\s*", text)
    bar = parse_length(text, bare.for_plans) if number else parse_rod(text, bare)
    if not SHORTEST_BAR <= bar.metres <= LONGEST_BAR:
        raise MeasureError("“{text}”: a straightedge is between 0.3 and 6 m long", text=_shortened(text))
    return bar


_ONE_IN = re.compile(r"1\s*(?::|in)\s*(?P<run>\d+(?:\.\d+)?)")
_PERCENT = re.compile(r"(?P<rise>\d+(?:\.\d+)?)\s*%")
_INCH_A_FOOT = re.compile(
    r"""(?P<inches>[\d./\s-]+?)\s*(?:"|in(?:ch(?:es)?)?\b)?\s*(?:/|per|an?|to the)\s*(?:ft|foot|')"""
)
_MILLIMETRES_A_METRE = re.compile(r"(?P<rise>\d+(?:\.\d+)?)\s*mm\s*(?:/|per|a)\s*m(?:et(?:re|er)s?)?")
STEEPEST = 1.0


def parse_fall(text: str) -> float:
    """The fall typed as `1:60`, `1 in 60`, `1.67 %`, `1/4" per foot` or `16.7 mm/m`, as a ratio of plan length;
    `level` or `0` is none. Raises `MeasureError`."""
    if len(text) > LONGEST_TEXT:
        raise MeasureError("Too long to be a fall: at most {most} characters, like 1:60", most=LONGEST_TEXT)
    plain = " ".join(_folded(text).replace("″", '"').replace("”", '"').replace("′", "'").replace("’", "'").split())
    if plain in ("level", "0"):
        return 0.0
    if one_in := _ONE_IN.fullmatch(plain):
        run = float(one_in["run"])
        ratio = 1 / run if run else math.inf
    elif percent := _PERCENT.fullmatch(plain):
        ratio = float(percent["rise"]) / 100
    elif rise := _MILLIMETRES_A_METRE.fullmatch(plain):
        ratio = float(rise["rise"]) / 1000
    elif inches := _INCH_A_FOOT.fullmatch(plain):
        ratio = parse_length(f'{inches["inches"].strip()}"', Unit.FEET_INCHES).metres / FOOT
    else:
        raise MeasureError(
            '“{text}” is not a fall: type it like 1:60, 1.67 %, 1/4" per foot or 16.7 mm/m', text=_shortened(text)
        )
    if not 0 <= ratio <= STEEPEST:
        raise MeasureError("“{text}” is steeper than any paving", text=_shortened(text))
    return ratio


def parse_layer(text: str, unit: Unit) -> Measured:
    """A thickness as typed: a bare number is in millimetres or as the rod is marked, a metric one under 1 in
    metres. Raises `MeasureError`."""
    plain = text.strip().replace(",", ".")
    below_one = re.fullmatch(r"0?\.\d+", plain) and unit.is_metric
    return parse_length(text, Unit.METRES if below_one else unit.for_layers)


def _plain(text: str, bare: Unit) -> str:
    """`text` with one spelling for feet, inches and fractions."""
    if not text.strip():
        raise MeasureError("Nothing typed: type what the rod reads, like {like}", like=_EXAMPLES[bare])
    if len(text) > LONGEST_TEXT:
        raise MeasureError(
            "Too long to be a measurement: at most {most} characters, like {like}",
            most=LONGEST_TEXT,
            like=_EXAMPLES[bare],
        )
    if grouped := _GROUPED.match(text.strip()):
        both = f"{grouped['thousands']}{grouped['rest']} mm or {grouped['thousands']}.{grouped['rest']} m"
        raise MeasureError(
            "“{text}” can be read two ways: type {both} if that is what is meant", text=_shortened(text), both=both
        )
    plain = _METRIC_WORDS.sub(lambda word: _PREFIXES[word[1]], _folded(text))
    return _FEET_WORDS.sub("'", _INCH_WORDS.sub('"', plain))


def _folded(text: str) -> str:
    """`text` in small letters, fractions in figures, one kind of dash, a decimal point between digits."""
    spread = "".join(
        f" {unicodedata.normalize('NFKC', mark)}" if "VULGAR FRACTION" in unicodedata.name(mark, "") else mark
        for mark in text
    )
    plain = spread.strip().lower().replace("\u2044", "/").replace("−", "-").replace("–", "-")
    return re.sub(r"(?<=\d),(?=\d)", ".", plain)


def _feet_and_inches(text: str, feet: str, rest: str) -> float:
    """Metres of a length of `feet` and the inches written in `rest`, which may be empty."""
    if not rest.strip():
        return float(feet) * FOOT
    inches = _INCHES.fullmatch(rest.strip())
    if not inches or inches["sign"] or not (inches["whole"] or inches["top"]):
        raise MeasureError("“{text}”: what stands after the feet are no inches", text=_shortened(text))
    if "." in feet:
        raise MeasureError("“{text}”: feet with a decimal point take no inches beside them", text=_shortened(text))
    value = _inches(text, inches)
    if value >= 12:
        raise MeasureError("“{text}”: inches run from 0 to under 12", text=_shortened(text))
    return float(feet) * FOOT + value * INCH


def _inches(text: str, parts: "re.Match[str]") -> float:
    whole = float(parts["whole"] or 0)
    if not parts["top"]:
        return whole
    top, bottom = int(parts["top"]), int(parts["bottom"])
    if bottom not in (2, 4, 8, 16, 32, FINEST_INCH_FRACTION):
        raise MeasureError(
            "“{text}”: a tape has halves, quarters, eighths … to 64ths, no {bottom}ths",
            text=_shortened(text),
            bottom=bottom,
        )
    if top >= bottom:
        raise MeasureError(
            "“{text}”: {top}/{bottom} is a whole inch or more", text=_shortened(text), top=top, bottom=bottom
        )
    if parts["whole"] and "." in parts["whole"]:
        raise MeasureError("“{text}”: a decimal point and a fraction do not go together", text=_shortened(text))
    return whole + top / bottom


def _signed(sign: str, metres: float) -> float:
    return -metres if sign == "-" else metres


def _measured(text: str, metres: float) -> Measured:
    if not math.isfinite(metres) or abs(metres) > 10_000:
        raise MeasureError("“{text}” is far outside any site", text=_shortened(text))
    return Measured(text.strip(), metres)


def _shortened(text: str) -> str:
    text = text.strip()
    return text if len(text) <= 24 else text[:23] + "…"


def format_reading(metres: float, unit: Unit) -> str:
    """A rod reading as the rod shows it: 1 mm, 0.01 foot or 1/16 inch."""
    if unit is Unit.MILLIMETRES:
        return f"{_rounded(metres, 0.001):.0f}".replace("-", "−")
    return format_level(metres, unit)


def as_typed(metres: float, unit: Unit) -> str:
    """A reading of a level that reads to a tenth of a millimetre, as a person of the crew would type it."""
    if unit is Unit.MILLIMETRES:
        return f"{metres * 1000:.1f}" if metres >= 0.01 else f"{metres * 1000:.1f} mm"
    if unit is Unit.METRES:
        return f"{metres:.4f}"
    return f"{metres / FOOT:.4f}'" if unit is Unit.FEET_TENTHS else f'{metres / INCH:.3f}"'


def format_level(metres: float, unit: Unit) -> str:
    """A level on the job's datum; metres to the millimetre for metric crews."""
    if unit.is_metric:
        return f"{_rounded(metres, 0.001) / 1000:.3f}".replace("-", "−")
    if unit is Unit.FEET_TENTHS:
        return f"{_rounded(metres, 0.01 * FOOT) / 100:.2f}′".replace("-", "−")
    return _feet_inches(metres)


def format_amount(metres: float, unit: Unit) -> str:
    """A thickness, a depth or a deviation, without its sign."""
    metres = abs(metres)
    if unit.is_metric:
        return f"{_rounded(metres, 0.001):.0f} mm"
    if unit is Unit.FEET_TENTHS:
        return f"{_rounded(metres, 0.01 * FOOT) / 100:.2f}′"
    return _feet_inches(metres, feet_from=3)


def format_fine(metres: float, unit: Unit) -> str:
    """A share of a joint, without its sign: to a tenth of a millimetre, or a hundredth of an inch."""
    size, step, name = (abs(metres) * 1000, 0.1, " mm") if unit.is_metric else (abs(metres) / INCH, 0.01, "″")
    digits = 1 if unit.is_metric else 2
    shown = round(size + 1e-9, digits)
    return f"{shown:.{digits}f}{name}" if shown or not size else f"under {step:g}{name}"


NOTHING = 1e-5
"""Metres that are a rounding and no length."""


def format_told(metres: float, unit: Unit) -> str:
    """An amount in a sentence: one that is less than the crew reads to is told as less, never as nothing."""
    step = 0.001 if unit.is_metric else 0.01 * FOOT if unit is Unit.FEET_TENTHS else INCH / SHOWN_INCH_FRACTION
    if abs(metres) > NOTHING and not _rounded(abs(metres), step):
        return f"under {format_amount(step, unit)}"
    return format_amount(metres, unit)


NOMINAL = 25.4 / 25


def in_kind(limit: float, thickness: float) -> float:
    """A limit in millimetres as it holds for a thickness: one that is a size of inches, of quarters at least, is held
    to the limit's inches, of which the trade has one to every 25 mm."""
    quarters = thickness / (INCH / 4)
    return limit * NOMINAL if abs(quarters - round(quarters)) < 1e-6 else limit


TRADE = {
    2: "1/16", 3: "1/8", 4: "3/16", 5: "3/16", 6: "1/4", 8: "5/16", 10: "3/8", 12: "1/2", 13: "1/2", 14: "9/16",
    15: "5/8", 20: "3/4", 25: "1", 30: "1 1/4", 35: "1 3/8", 40: "1 1/2", 45: "1 3/4", 50: "2", 60: "2 3/8",
    65: "2 1/2", 70: "2 3/4", 75: "3", 80: "3 1/8", 90: "3 1/2", 100: "4", 110: "4 1/4", 115: "4 1/2", 120: "4 3/4",
    125: "5", 150: "6", 175: "7", 200: "8", 225: "9", 250: "10", 300: "12", 350: "14", 400: "16", 450: "18",
    500: "20", 600: "24", 750: "30", 900: "36", 1000: "40", 1200: "48",
}  # fmt: skip
"""What the trade writes in inches for its millimetres (common practice, no published source)."""


def trade(metres: float, unit: Unit) -> float:
    """A limit or a usual thickness as the trade writes it in a crew's system: 25 mm is 1″, 300 mm is 12″; of what has
    no size of its own, the nearest the crew reads to. Metres, its sign kept."""
    if unit.is_metric or not metres:
        return metres
    if unit is Unit.FEET_TENTHS:
        return math.copysign(max(_rounded(abs(metres), 0.01 * FOOT), 1.0), metres) * 0.01 * FOOT
    size = TRADE.get(round(abs(metres) * 1000)) if abs(metres * 1000 - round(metres * 1000)) < 1e-6 else None
    if size is not None:
        inches = float(sum(Fraction(part) for part in size.split()))
    else:
        inches = max(_rounded(abs(metres), INCH / SHOWN_INCH_FRACTION), 1.0) / SHOWN_INCH_FRACTION
    return math.copysign(inches * INCH, metres)


def inside(metres: float, least: float | None, most: float | None, unit: Unit) -> bool:
    """Whether a value keeps a limit: as it is, or as the trade writes it in the crew's system, so that a value typed
    as the limit is shown is inside."""
    low = None if least is None else min(least, trade(least, unit))
    high = None if most is None else max(most, trade(most, unit))
    return (low is None or metres >= low - 1e-9) and (high is None or metres <= high + 1e-9)


def format_limit(metres: float, unit: Unit) -> str:
    """A limit as the trade writes it, with its sign where it is negative."""
    shown = format_amount(trade(metres, unit), unit)
    return f"−{shown}" if metres < 0 else shown


_SIZES = re.compile(r"(?<![\d.])(\d{1,4})(?: (to|or|and) (\d{1,4}))? mm\b(?!/)")
_WAYS = re.compile(r"(?<![\d.:])(\d{1,2}(?:\.\d)?)(?: (to|or|and) (\d{1,2}))? m\b(?!/)")
"""Round distances of a sentence, metres."""


def in_system(text: str, unit: Unit) -> str:
    """A sentence with its millimetres and metres written as the crew's system has them: `6 to 10 mm` as `1/4″ to
    3/8″`, `a 3 m straightedge` as `a 10′ straightedge`."""
    if unit.is_metric or "m" not in text:
        return text

    def size(found: "re.Match[str]") -> str:
        first, between, second = found.groups()
        sizes = [format_limit(int(number) / 1000, unit) for number in (first, second) if number]
        return f" {between} ".join(sizes)

    def way(found: "re.Match[str]") -> str:
        first, between, second = found.groups()
        return f" {between} ".join(_round_feet(float(number)) for number in (first, second) if number)

    return _WAYS.sub(way, _SIZES.sub(size, text))


def _round_feet(metres: float) -> str:
    """A round distance as round in feet: to half a foot, from 5 m to whole feet and from 10 m to five."""
    step = 0.5 if metres < 5 else 1.0 if metres < 10 else 5.0
    return f"{round(metres / FOOT / step) * step:g}′"


def format_distance(metres: float, unit: Unit) -> str:
    """How far to walk: nearest 0.1 m or half foot."""
    if unit.is_metric:
        return f"{metres:.1f} m"
    return f"{round(metres / FOOT * 2) / 2:g}′"


def format_place(metres: float, unit: Unit) -> str:
    """A distance on the plan as it is typed back: to the millimetre, or the hundredth of a foot."""
    if unit.is_metric:
        return f"{_rounded(metres, 0.001) / 1000:.3f}".replace("-", "−")
    return f"{_rounded(metres, 0.01 * FOOT) / 100:.2f}′".replace("-", "−")


def format_area(square_metres: float, unit: Unit) -> str:
    """An area to a tenth of a square metre, or a square foot."""
    return f"{square_metres:.1f} m²" if unit.is_metric else f"{square_metres / FOOT**2:.0f} sq ft"


def format_volume(cubic_metres: float, unit: Unit) -> str:
    """A volume to a tenth of a cubic metre or cubic yard."""
    amount, name = (cubic_metres, "m³") if unit.is_metric else (cubic_metres / CUBIC_YARD, "cu yd")
    return f"{round(amount, 1) + 0.0:.1f} {name}".replace("-", "−")


def format_water(cubic_metres: float, unit: Unit) -> str:
    """Standing water: litres or US gallons, to a tenth below ten."""
    amount, name = (cubic_metres * 1000, "l") if unit.is_metric else (cubic_metres / GALLON, "gal")
    return f"{amount:.1f} {name}" if amount < 9.95 else f"{amount:,.0f} {name}"


def format_rain(metres_a_second: float, unit: Unit) -> str:
    """How hard it rains: millimetres or inches an hour, a drizzle finer than a downpour, and none only as none."""
    an_hour = metres_a_second * 3600
    amount, name, least = (an_hour * 1000, "mm/h", 0.1) if unit.is_metric else (an_hour / INCH, "in/h", 0.01)
    fine, coarse = (".1f", ".0f") if unit.is_metric else (".2f", ".1f")
    return f"{max(amount, least) if amount else 0:{fine if amount < 99 * least else coarse}} {name}"


def format_density(kilograms: float, unit: Unit, named: bool = True) -> str:
    """A density: kg/m³, or pounds a cubic foot to a tenth; `named` with its unit."""
    text, name = (
        (f"{kilograms:.0f}", "kg/m³") if unit.is_metric else (f"{kilograms / POUND_A_CUBIC_FOOT:.1f}", "lb/ft³")
    )
    return f"{text} {name}" if named else text


def format_stiffness(megapascals: float, unit: Unit) -> str:
    """A modulus: to 1 MPa, or to 10 psi and from 10 000 psi to 100; finer than what is asked of a layer differs."""
    if unit.is_metric:
        return f"{megapascals:.0f} MPa"
    value = megapascals * 1e6 / POUND_PER_SQUARE_INCH
    return f"{round(value, -1 if value < 10_000 else -2):,.0f} psi"


def format_force(kilonewtons: float, unit: Unit) -> str:
    """A blow as makers give it: to half a kilonewton, or to 50 pounds of force."""
    if unit.is_metric:
        return f"{round(kilonewtons * 2) / 2:g} kN"
    return f"{round(kilonewtons * 1000 / POUND_FORCE / 50) * 50:,.0f} lbf"


def format_barrow(cubic_metres: float, unit: Unit) -> str:
    """What a barrow holds: litres, or cubic feet."""
    return f"{cubic_metres * 1000:.0f} l" if unit.is_metric else f"{cubic_metres / FOOT**3:.0f} cu ft"


def format_celsius(degrees: float, unit: Unit) -> str:
    """A temperature, of degrees Celsius."""
    return f"{degrees:g} °C" if unit.is_metric else f"{degrees * 9 / 5 + 32:.0f} °F"


def format_drying(kilograms: float, unit: Unit) -> str:
    """Water that leaves a face in an hour: kg/m², or pounds a square foot."""
    return f"{kilograms:.2f} kg/m²" if unit.is_metric else f"{kilograms / POUND * FOOT**2:.2f} lb/ft²"


def format_wind(metres_a_second: float, unit: Unit) -> str:
    """Wind as people give it: kilometres or miles an hour."""
    return f"{metres_a_second * 3.6:.0f} km/h" if unit.is_metric else f"{metres_a_second * 3600 / MILE:.0f} mph"


def format_axle(unit: Unit) -> str:
    """The standard axle, as the guides of either system name it (AASHTO 1993: 18 kip, 80 kN)."""
    return "80 kN" if unit.is_metric else "18 kip"


def format_weight(kilograms: float, unit: Unit) -> str:
    """What one lifts or wheels: kilograms or pounds."""
    return f"{kilograms:.0f} kg" if unit.is_metric else f"{kilograms / POUND:.0f} lb"


def format_mass(kilograms: float, unit: Unit) -> str:
    """A mass in tonnes, or short tons of 2000 lb."""
    return f"{kilograms / 1000:.1f} t" if unit.is_metric else f"{kilograms / TON:.1f} tons"


def format_fall(ratio: float) -> str:
    """A fall as `1:60`, or `level`."""
    return f"1:{1 / abs(ratio):.0f}" if abs(ratio) > 1e-6 else "level"


def _rounded(metres: float, step: float) -> float:
    """Whole steps, halves away from zero, so that 0.5 mm never flips with its neighbour."""
    return math.copysign(math.floor(abs(metres) / step + 0.5 + 1e-9), metres) + 0.0


def _feet_inches(metres: float, feet_from: int = 1) -> str:
    """`metres` as feet, inches and sixteenths; inches alone below `feet_from` feet."""
    sixteenths = int(_rounded(abs(metres), INCH / SHOWN_INCH_FRACTION))
    sign = "−" if metres < 0 and sixteenths else ""
    feet, sixteenths = divmod(sixteenths, 12 * SHOWN_INCH_FRACTION)
    if feet < feet_from:
        feet, sixteenths = 0, sixteenths + feet * 12 * SHOWN_INCH_FRACTION
    whole, part = divmod(sixteenths, SHOWN_INCH_FRACTION)
    fraction = str(Fraction(part, SHOWN_INCH_FRACTION)) if part else ""
    inches = " ".join(filter(None, [str(whole) if whole or feet or not part else "", fraction])) + "″"
    if not feet:
        return sign + inches
    return f"{sign}{feet}′ {inches}"
