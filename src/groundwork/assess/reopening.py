"""What of a later entry reopens a stage that is signed: its answer changed, not merely its evidence."""

from collections.abc import Mapping
from typing import Any

from groundwork.measures import Severity


def answer_in(stage: str, evidence: Mapping[str, Any]) -> object:
    """The part of what a stage is signed on whose change overtakes the sign-off: of the brief its design, whatever it
    is called and wherever one shoots; of the set-out whether each peg stands in place; of a surface each station's
    verdict and design level; and of every stage what stops it."""
    if stage == "brief":
        design = {key: value for key, value in evidence["design"].items() if key not in _NOT_THE_DESIGN}
        # In how many lifts a layer is laid is for the crew to say, and changes no surface that is signed.
        design["specification"] = {k: v for k, v in design["specification"].items() if k != "lifts"}
        return design
    if stage == "set-out":
        pegs = [(p["peg"], p["in_place"]) for p in evidence["pegs"]]
        return evidence["outline_m"], evidence.get("bulges"), pegs, bool(evidence["services"])
    stations = {s["station"]: (str(s["verdict"]), s["design_m"]) for s in evidence.get("stations", ())}
    if stage == "excavation":
        return stations
    return stations, sorted({f["rule"] for f in evidence["findings"] if _reopens(f)}), [
        (lift["lift"], lift["tight"]) for lift in evidence.get("lifts", ())
    ]  # fmt: skip


def _reopens(finding: Mapping[str, Any]) -> bool:
    """Whether it is a stop that a later entry brings: not a question or a check, which are compared by themselves,
    and not one that a day's passing brings."""
    return finding["severity"] == Severity.STOP and finding["rule"] not in (
        "G06",
        "G07",
        *PASSING,
        *OF_THE_DAY,
    )


PASSING = frozenset({"D01", "B04", "G10", "E06", "E07", "K07", "K08"})
"""Rules that a day's passing brings or takes: once the stage is signed they are of that day."""
OF_THE_DAY = frozenset({"K01", "K02"})
"""Rules of what is gone once the stage is signed: rails are drawn, and the bed is under the paving."""
_NOT_THE_DESIGN = frozenset({"format", "name", "units", "station_spacing_m", "marks"})
