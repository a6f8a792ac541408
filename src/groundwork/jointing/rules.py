"""The J rules: what holds joints, and what to mind of them."""

from collections.abc import Iterator, Mapping, Sequence

from groundwork.jointing.fills import JointFill
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.weather import WANTED

OFF = 0.5
"""A bay that took more or less than the others by this share has a hollow or a spill (common practice)."""
SHORT = 0.7
"""Less than this share of what was reckoned, and joints are not full (common practice)."""


def air_findings(
    fill: JointFill, surface: float | None, dew: float | None, chance: float | None
) -> Iterator[Finding]:  # fmt: skip
    """J01 and J02: how warm the surface was and the dew point, °C, None where nobody looked; the chance that it stays
    dry, None where nobody knows."""
    if fill.over_dew is not None and (surface is None or dew is None):
        yield Finding(
            "J01", Severity.STOP, Words("nobody looked how dry it is"),
            Words("air, dampness and surface, before it is filled"),
            "A bonded filling sets where it lies, on the face too; over a wet joint it bridges.",
            "Read a thermometer and the dampness, under Filling.", Source.PRACTICE, number=1,
        )  # fmt: skip
    elif (
        fill.over_dew is not None and surface is not None and dew is not None and surface < dew + fill.over_dew - 1e-9
    ):
        yield Finding(
            "J01", Severity.STOP,
            Words("the surface is at {surface}, the dew point {dew}", celsius={"surface": surface, "dew": dew}),
            Words("a surface at {least}", celsius={"least": dew + fill.over_dew}),
            "Nearer to the dew point the faces take on water that nobody sees.",
            "Wait until it is warmer or drier, read again.", Source.PRACTICE, number=1,
        )  # fmt: skip
    if fill.dry and chance is not None and chance < WANTED - 1e-9:
        yield Finding(
            "J02", Severity.WARNING,
            Words("dry for {hours} hours: {percent} %", counts={"hours": fill.dry, "percent": round(chance * 100)}),
            Words("{percent} %", counts={"percent": round(WANTED * 100)}),
            "Rain before it has set washes it out of the joints and over the faces.", "Wait for a drier day.",
            Source.PRACTICE, number=1,
        )  # fmt: skip


def depth_findings(
    fill: JointFill, deep: Sequence[str], over: Sequence[str], missing: Sequence[str], places: int
) -> Iterator[Finding]:  # fmt: skip
    """J03 to J05: patches where it lies too `deep`, those where it stands `over` what it may, those `missing` what is
    taped at so many places of each."""
    limit = Words("{least} to {most} below the edge", {"least": fill.least, "most": fill.most})
    if fill.cells:
        limit = Words("{least} to {most} over the cells", {"least": -fill.most, "most": -fill.least})
    if deep:
        yield Finding(
            "J03", Severity.STOP, Words("too deep: patch {text}", names={"text": ", ".join(deep)}), limit,
            "A joint that is not full is a unit that can turn.", "Fill it up, settle it, tape it again.",
            Source.PRACTICE, number=len(deep),
        )  # fmt: skip
    if over:
        yield Finding(
            "J04", Severity.WARNING, Words("too high: patch {text}", names={"text": ", ".join(over)}), limit,
            "What stands over the edge is walked into the house and washed away.", "Sweep it out.",
            Source.PRACTICE, number=len(over),
        )  # fmt: skip
    if missing:
        yield Finding(
            "J05", Severity.STOP, Words("depth not taped: patch {text}", names={"text": ", ".join(missing)}),
            Words("at {n} places of each", counts={"n": places}, one="once in each"),
            "Nobody sees from above how full a joint is.",
            "Hold a straightedge over a joint and tape down to it, under Filling.", Source.PRACTICE,
            number=len(missing),
        )  # fmt: skip


def used_findings(used: float, reckoned: float, odd: Mapping[str, float], *, ended: bool) -> Iterator[Finding]:
    """J06 and J07: kg used against what was reckoned, once filling has ended; patches that took more or less than the
    others by a share."""
    if ended and used and used < SHORT * reckoned:
        yield Finding(
            "J06", Severity.WARNING,
            Words("{percent} % of what was reckoned went in", counts={"percent": round(used / reckoned * 100)}),
            Words("{percent} % at least", counts={"percent": round(SHORT * 100)}),
            "Sand that is missing is missing in the joints.", "Look into some, settle and top up.",
            Source.PRACTICE, number=1,
        )  # fmt: skip
    for patch, share in odd.items():
        more = share > 0
        words = "patch {text} took {percent} % more than the others" if more else (
            "patch {text} took {percent} % less than the others"
        )  # fmt: skip
        yield Finding(
            "J07", Severity.WARNING, Words(words, counts={"percent": round(abs(share) * 100)}, names={"text": patch}),
            Words("within {percent} % of the others", counts={"percent": round(OFF * 100)}),
            "It ran into a hollow under the units, or was spilt." if more else "Its joints may be empty lower down.",
            "Lift a unit there and look." if more else "Settle it and sweep in again.", Source.PRACTICE, number=1,
        )  # fmt: skip
