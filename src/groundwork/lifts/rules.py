"""What holds a lift: the L rules on what was done to it."""

from collections.abc import Iterator

from groundwork.base import Family
from groundwork.layerwork import Feel, ToppedUp
from groundwork.lifts.history import NEAR_OPTIMUM, STILL, THIN_SKIN, LiftRecord
from groundwork.measures import Finding, Severity, Source, Words, inside
from groundwork.tools import FEWEST, greatest_thickness, proved_by_settlement


def lift_findings(lift: LiftRecord) -> Iterator[Finding]:
    """The L rules on what was done to a lift; nothing before anything was."""
    if not lift.is_begun:
        return
    yield from _too_thick(lift)
    yield from _passes(lift)
    yield from _moisture(lift)
    yield from _densities(lift)
    yield from _stiffness(lift)
    yield from _settlement(lift)
    yield from _skins(lift)
    if lift.since_loosened and lift.untamped and lift.passes_done:
        yield Finding(
            "L11", Severity.WARNING, Words("sides not tamped by hand: {n}", counts={"n": len(lift.untamped)}),
            Words("every side"), "A plate leaves the last hand's breadth loose, and the edge restraint stands on it.",
            "Tamp along the edges and say so.", Source.PRACTICE,
        )  # fmt: skip


def _too_thick(lift: LiftRecord) -> Iterator[Finding]:
    able = min(map(greatest_thickness, lift.machines_used), default=None)
    if lift.course and able is not None and not inside(lift.thickness, None, able, lift.job.unit):
        yield Finding(
            "L01", Severity.STOP, Words("{thick} compacted at once", {"thick": lift.thickness}),
            Words("at most {able} with this machine", limits={"able": able}),
            "The machine's blow dies out on the way down: the bottom stays loose and settles under load.",
            "Take the top off and lay it again in thinner lifts, or bring a heavier machine.", Source.MEMORY,
        )  # fmt: skip


def _passes(lift: LiftRecord) -> Iterator[Finding]:
    if lift.work and not lift.machines_used and not lift.spread and lift.course is None:
        return
    short = [c for c in lift.coverage if not c.is_done and c.share is not None]
    few = [c for c in short if c.share is not None and (c.share < 1 - 1e-9 or c.passes < FEWEST)]
    one_way = [c for c in short if c not in few]
    why = "Stone that was gone over too seldom goes on settling under the first wheels."
    limit = Words("as the table asks for the machine, three at least, in both directions")
    for patches_, found in (
        (few, "too few passes on {n} of {all} patches"),
        (one_way, "passed in one direction only on {n} of {all} patches"),
    ):
        if patches_:
            words = Words(found, counts={"n": len(patches_), "all": len(lift.coverage)})
            yield Finding("L02", Severity.STOP, words, limit, why,
                          "Go over them again, across the last direction.", Source.MEMORY)  # fmt: skip


def _moisture(lift: LiftRecord) -> Iterator[Finding]:
    found, optimum = lift.moisture, lift.optimum
    if found is None or optimum is None:
        return
    off = "" if found.feel in (None, Feel.HOLDS) else f"squeezed: {found.feel}"
    if found.share is not None and abs(found.share - optimum) > NEAR_OPTIMUM + 1e-9:
        off = f"{found.share:.1%}"
    if off:
        yield Finding(
            "L03", Severity.WARNING, Words("moisture {off}", names={"off": off}),
            Words("{optimum}, two points more or less", names={"optimum": f"{optimum:.1%}"}),
            "Dry stone does not knit however often it is gone over; soaked stone floats on its own water.",
            "Wet it and mix it in, or let it drain, then compact.", Source.PRACTICE,
        )  # fmt: skip


def _densities(lift: LiftRecord) -> Iterator[Finding]:
    if lift.family is Family.OPEN and lift.densities:
        yield Finding(
            "L10", Severity.STOP, Words("a density ratio given for clean stone"),
            Words("passes, stiffness, no movement"),
            "Clean stone has no laboratory maximum to hold it against: the ratio means nothing there.",
            "Strike it out; test by passes, by a falling weight, or by standing beside the plate.", Source.PRACTICE,
        )  # fmt: skip
        return
    limit = Words("{limit} on the mean, no test more than 3 points under it",
                  names={"limit": f"{lift.least_ratio:.0%}"})  # fmt: skip
    why = "What is not dense now is made dense by the wheels, in ruts."
    if lift.wants_density and lift.untested and lift.passes_done:
        words = Words(
            "density tests not taken: {n} of {all}", counts={"n": len(lift.untested), "all": len(lift.places)}
        )
        yield Finding("L04", Severity.STOP, words, limit, why, "Test at the places drawn.", Source.PRACTICE)
    if silent := lift.silent:
        words = Words(
            "density tests that say nothing: {n} ({why})", counts={"n": len(silent)}, names={"why": silent[0].why_not}
        )
        cure = "Enter the laboratory’s curve, or strike the test out and take it again."
        yield Finding("L04", Severity.WARNING, words, limit, why, cure, Source.PRACTICE)
    if (taken := lift.accepted) and not taken.passes:
        found = "mean density {mean}" if not taken.mean_holds else "one test at {least}"
        words = Words(found, names={"mean": f"{taken.mean:.1%}", "least": f"{taken.least:.1%}"})
        yield Finding("L04", Severity.STOP, words, limit, why,
                      "Wet or dry it if need be, go over it again, test again at the same places.",
                      Source.PRACTICE)  # fmt: skip


def _stiffness(lift: LiftRecord) -> Iterator[Finding]:
    soft = [s for s in lift.stiffnesses if not s.holds]
    if soft and lift.course is not None and soft[0].asked is not None:
        sizes = {"least": min(s.modulus for s in soft), "asked": soft[0].asked}
        yield Finding(
            "L12", Severity.STOP, Words("down to {least} at {n}", counts={"n": len(soft)}, stiffness=sizes),
            Words("{asked} by the falling weight", stiffness=sizes),
            "A soft place under a stiff one shows at the top.",
            "Go over it again; where it does not stiffen, look at what lies under it.", Source.PRACTICE,
        )  # fmt: skip


def _settlement(lift: LiftRecord) -> Iterator[Finding]:
    limit = Words("at most {still} on the mean between the last two passes", limits={"still": STILL})
    why = "A lift that still goes down under the machine will go down under the pavers."
    if lift.risen:
        yield Finding(
            "L05", Severity.STOP, Words("reads as if it rose in the last pass at {n}", counts={"n": len(lift.risen)}),
            limit, why, "The readings before and after may be swapped: correct them, or measure again.",
            Source.PRACTICE, lift.risen,
        )  # fmt: skip
    elif lift.settled and lift.settled[1] > STILL + 1e-9:
        yield Finding(
            "L05", Severity.STOP, Words("settled {by} in the last pass", {"by": lift.settled[1]}), limit, why,
            "Go over it again and measure again.", Source.PRACTICE,
        )  # fmt: skip
    elif lift.settled is None and lift.passes_done and any(map(proved_by_settlement, lift.machines_used)):
        yield Finding(
            "L05", Severity.STOP, Words("settlement not measured"), limit,
            "No table stands behind a machine this light: only settlement shows that the lift is tight.",
            "Read the rod before and after one more pass.", Source.PRACTICE,
        )  # fmt: skip


def _skins(lift: LiftRecord) -> Iterator[Finding]:
    if lift.plan is None:
        return
    least = max(THIN_SKIN, 2 * lift.plan.material.largest)
    skins = [each for each in lift.work if isinstance(each, ToppedUp) and not each.scarified]
    thin = [each for each in skins if not inside(each.thickness.metres, least, None, lift.job.unit)]
    if thin:
        yield Finding(
            "L09", Severity.STOP,
            Words("a skin of {thin} added at {n}", {"thin": min(e.thickness.metres for e in thin)}, {"n": len(thin)}),
            Words("{least} or more, or the top loosened first", limits={"least": least}),
            "A thin skin does not knit with what is under it: it shears off and crumbles.",
            "Loosen the top, mix the skin in and compact again.", Source.PRACTICE, tuple(e.station for e in thin),
        )  # fmt: skip
