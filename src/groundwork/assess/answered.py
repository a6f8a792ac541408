"""What an entry was answered to, where it arrives late: whether the design it was made by still says the same."""

from groundwork.assess.assessment import Assessment
from groundwork.entries import FallCheck, Reading
from groundwork.kinds import Entry
from groundwork.layerwork import Work
from groundwork.measures import Words

SAME = 0.0005
"""Levels and thicknesses nearer than this are the same, metres: half of what a rod shows."""


def design_changed(entry: Entry, then: Assessment, now: Assessment) -> Words | None:
    """How the design `now` differs from the one of `then` in what `entry` was made by; None where it does not.

    A reading or a fall is made by the level and the limits of its surface there, work by the stone and thickness of
    its lift. What is measured between marks or seen by eye is made by neither.
    """
    match entry:
        case Reading():
            return _surface_changed(entry.surface, (entry.station,), then, now)
        case FallCheck():
            return _surface_changed(entry.surface, (entry.start, entry.end), then, now)
        case entry if isinstance(entry, Work) and (lift := getattr(entry, "lift", "")):
            return _lift_changed(lift, then, now)
    return None


def _surface_changed(surface: str, stations: tuple[str, ...], then: Assessment, now: Assessment) -> Words | None:
    if surface not in {s.key for s in now.surveys.levelled}:
        return Words("The design has no such surface any more.")
    if surface not in {s.key for s in then.surveys.levelled}:
        return None
    before, after = then.surveys.of(surface), now.surveys.of(surface)
    for name in stations:
        if name not in after.answers:
            return Words("{station} is not on the plan any more.", names={"station": name})
        if name not in before.answers:
            continue
        one, other = before.answers[name], after.answers[name]
        if max(abs(a - b) for a, b in zip(one.station.at, other.station.at, strict=True)) > SAME:
            return Words("{station} has another place on the plan now.", names={"station": name})
        lower = one.design - other.design
        if abs(lower) > SAME:
            phrase = (
                "At {station} the design lies {amount} lower now than when this was read."
                if lower > 0
                else "At {station} the design lies {amount} higher now than when this was read."
            )
            return Words(phrase, {"amount": abs(lower)}, names={"station": name})
    if before.tolerance != after.tolerance:
        return Words(
            "The limits are {high} above and {low} below the design now.",
            limits={"high": after.tolerance.high, "low": after.tolerance.low},
        )
    return None


def _lift_changed(lift: str, then: Assessment, now: Assessment) -> Words | None:
    one, other = then.works.lifts.get(lift), now.works.lifts.get(lift)
    if other is None:
        return Words("The design has no such lift any more.")
    if one is None or one.course is None or other.course is None:
        return None
    if one.course.layer.material != other.course.layer.material:
        return Words("The lift is of another stone in the design now.")
    thick, thicker = one.course.thickness, other.course.thickness
    if abs(thick - thicker) > SAME:
        return Words("The lift is to be {amount} thick now.", {"amount": thicker})
    return None
