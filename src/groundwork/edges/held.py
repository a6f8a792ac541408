"""What holds the paving along each side, all the way round, and what lies behind it."""

from collections.abc import Iterator, Mapping, Sequence

import shapely

from groundwork.edges.choice import runs_beside
from groundwork.edges.runs import EdgeRun
from groundwork.edgework import EdgeKind, SideHeld
from groundwork.job import Job
from groundwork.measures import Finding, Severity, Source, Words

BACKFILL = (0.0, 0.040)
"""So far below the paving soil is filled up behind an edge, metres: no higher, or water stands on the paving; no
lower, or nothing holds the edge (common practice, no published source)."""


def held_by(job: Job, runs: Mapping[int, EdgeRun], said: Mapping[int, SideHeld]) -> dict[int, str]:
    """What holds each side: its run of edge, the building along it, or what somebody says is there; nothing where it
    ends in soil, and none where forms stand, which come out again."""
    found = {}
    for side in range(len(job.outline)):
        run, line = runs.get(side), shapely.LineString(job.ring.along(side))
        if run is not None and run.plan.what is not EdgeKind.FORM:
            found[side] = str(run.plan.what)
        elif side in said:
            found[side] = said[side].holds
        else:
            found[side] = str(EdgeKind.WALL) if runs_beside(job, line, "building") else ""
    return found


def _sides(sides: Sequence[int]) -> dict[str, str]:
    return {"sides": ", ".join(str(side + 1) for side in sides)}


def held_findings(held: Mapping[int, str], spikes: Mapping[int, tuple[int, int]]) -> Iterator[Finding]:
    """E10 and E11: sides nothing holds, and runs with fewer spikes driven than wanted, by side."""
    if bare := [side for side, by in held.items() if not by]:
        yield Finding(
            "E10", Severity.STOP, Words("ends in soil: side {sides}", names=_sides(bare)),
            Words("held all the way round"), "Paving with one loose edge opens its joints from there inwards.",
            "Plan an edge there, or say what holds it, under Edges.", Source.PRACTICE, number=len(bare),
        )  # fmt: skip
    for side, (driven, wanted) in spikes.items():
        if driven < wanted:
            yield Finding(
                "E11", Severity.STOP,
                Words("side {sides}: {n} spikes driven", counts={"n": driven}, names=_sides([side]),
                      one="side {sides}: one spike driven"),
                Words("{n} spikes", counts={"n": wanted}, one="one spike"),
                "Edging bows out between spikes that are far apart.", "Drive more, and count them under Edges.",
                Source.PRACTICE, number=1,
            )  # fmt: skip


def backfill_findings(behind: Mapping[int, float]) -> Iterator[Finding]:
    """E12: soil behind an edge too high, or too low, metres below the paving by side."""
    least, most = BACKFILL
    limit = Words("{least} to {most} below the paving", {"least": least, "most": most})
    if high := [side for side, below in behind.items() if below < least - 1e-9]:
        yield Finding(
            "E12", Severity.STOP, Words("soil stands over the paving: side {sides}", names=_sides(high)), limit,
            "Water cannot leave, and mud comes back with it.", "Take it down below the edge.", Source.PRACTICE,
            number=len(high),
        )  # fmt: skip
    if low := [side for side, below in behind.items() if below > most + 1e-9]:
        yield Finding(
            "E12", Severity.WARNING, Words("soil lies too low behind side {sides}", names=_sides(low)), limit,
            "An edge stands by what is behind it.", "Fill up and tamp it.", Source.PRACTICE, number=len(low),
        )  # fmt: skip
