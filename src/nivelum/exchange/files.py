"""Files that come in: somebody else's, so size, encoding and numbers are checked before anything is believed."""

import io
import json
from typing import Any, NoReturn

import ezdxf
from django.utils.translation import gettext as _
from ezdxf import units
from ezdxf.document import Drawing
from ezdxf.lldxf.const import DXFError

LARGEST_FILE = 5_000_000
MOST_ENTITIES = 40_000
LOCAL = "metres, east and north on the job's own plan"
"""What GeoJSON says of its coordinates where they are not longitude and latitude."""


class UnreadableFile(ValueError):
    """A file that holds nothing that can be taken; the message says why and what would be right."""


def ending_of(name: str) -> str:
    return name.rpartition(".")[2].lower()


def refuse_by_size(data: bytes) -> None:
    """Raises `UnreadableFile` for one that is too large or empty."""
    if len(data) > LARGEST_FILE:
        size = f"{len(data) / 1e6:.0f}"
        raise UnreadableFile(_("The file has {size} MB: at most 5.").format(size=size))
    if not data.strip():
        raise UnreadableFile(_("The file is empty."))


def decoded(data: bytes, dxf: bool) -> str:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")) or b"\x00" in data[:4096]:
        raise UnreadableFile(_("Not text in UTF-8: save it again as UTF-8, and a DXF as text, not binary."))
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if dxf:
            return data.decode("cp1252", errors="replace")
        where = {"place": error.start}
        raise UnreadableFile(_("Not in UTF-8, at byte {place}: save it again as UTF-8.").format(**where)) from error


def loaded(text: str) -> Any:
    """JSON values; raises `UnreadableFile` for what is no JSON, endless numbers among it."""
    try:
        return json.loads(text, parse_constant=_no_constant)
    except (json.JSONDecodeError, RecursionError) as error:
        raise UnreadableFile(_("Not JSON: {why}.").format(why=str(error)[:80])) from error


def _no_constant(name: str) -> NoReturn:
    raise UnreadableFile(_("{name} is no number in JSON.").format(name=name))


def drawn(text: str) -> Drawing:
    """A DXF drawing; raises `UnreadableFile`, or one of `UNREADABLE` where it is broken inside."""
    drawing = ezdxf.read(io.StringIO(text.replace("\r\n", "\n")))
    if len(drawing.modelspace()) > MOST_ENTITIES:
        raise UnreadableFile(_("More than {n} things in the drawing.").format(n=MOST_ENTITIES))
    return drawing


UNREADABLE = (DXFError, ValueError, LookupError, TypeError, AttributeError, ArithmeticError, RecursionError, OSError)
"""What a drawing with something wrong in it makes its reader stumble over."""


def metres_a_unit(number: int) -> float | None:
    """Metres in a drawing's unit; None where it names none."""
    if not number:
        return None
    try:
        return float(units.conversion_factor(units.InsertUnits(number), units.InsertUnits.Meters))
    except (TypeError, ValueError, KeyError) as error:
        raise UnreadableFile(_("The drawing is in a unit that is not known here.")) from error
