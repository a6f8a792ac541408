"""What stands in an entry's body, to and from the core's values. What was typed keeps its text and metres."""

from typing import Any

from groundwork import job as core
from groundwork.base import SurfaceKey
from groundwork.measure import Measured
from groundwork.verdict import Instrument
from nivelum.jobs.models import Kind

KINDS = {
    core.SetUp: Kind.SET_UP,
    core.Reading: Kind.READING,
    core.Fill: Kind.FILL,
    core.Strike: Kind.STRIKE,
}


def body(entry: core.Entry) -> dict[str, Any]:
    match entry:
        case core.SetUp():
            return {
                "mark": entry.mark,
                "backsight": _written(entry.backsight),
                "instrument": str(entry.instrument),
                "at_m": list(entry.at) if entry.at else None,
            }
        case core.Reading():
            return {
                "station": entry.station,
                "surface": str(entry.surface),
                "set_up": entry.set_up,
                "reading": _written(entry.reading),
                "same_ground": entry.same_ground,
            }
        case core.Fill():
            return {"station": entry.station, "material": entry.material, "lifts": entry.lifts}
        case core.Strike():
            return {"strikes": entry.strikes, "reason": entry.reason}


def value(kind: str, entry_id: str, body: dict[str, Any]) -> core.Entry:
    """The core's value of an entry of one of `KINDS`."""
    match kind:
        case Kind.SET_UP:
            at = (body["at_m"][0], body["at_m"][1]) if body["at_m"] else None
            instrument = Instrument(body["instrument"])
            return core.SetUp(entry_id, body["mark"], _read(body["backsight"]), instrument, at)
        case Kind.READING:
            return core.Reading(
                entry_id,
                body["station"],
                body["set_up"],
                _read(body["reading"]),
                body["same_ground"],
                SurfaceKey(body["surface"]),
            )
        case Kind.FILL:
            return core.Fill(entry_id, body["station"], body["material"], body["lifts"])
        case _:
            return core.Strike(entry_id, body["strikes"], body["reason"])


def _written(measured: Measured) -> dict[str, Any]:
    return {"typed": measured.raw, "m": measured.metres}


def _read(written: dict[str, Any]) -> Measured:
    return Measured(written["typed"], written["m"])
