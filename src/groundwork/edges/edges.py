"""A job's edges: every run as planned, each joint as set, what to do where it is off, and what is found."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from groundwork.curing import ALL_IN, Mix, mix
from groundwork.edges.choice import EdgeOption, edge_options
from groundwork.edges.held import backfill_findings, held_by, held_findings
from groundwork.edges.joints import BESIDE, SET, TAPS, TOPS, WITHIN, JointAnswer, Reset
from groundwork.edges.runs import LINE, EdgeRun
from groundwork.edges.strung import Strung
from groundwork.edges.sums import bed_and_haunch, pickets, spikes
from groundwork.edges.usual import usual_edge
from groundwork.edges.waits import HaunchWait, haunch_wait
from groundwork.edgework import (
    Backfilled,
    BoardLeft,
    EdgeBedded,
    EdgeKind,
    EdgeLined,
    EdgePlanned,
    EdgeShot,
    EdgeStrung,
    SideHeld,
    SpikesDriven,
    TopWork,
)
from groundwork.job import Job
from groundwork.levels import Levels, Reference
from groundwork.logbook import Logbook, warmth
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.soundness import Case
from groundwork.survey import Top, misread_top
from groundwork.verdict import COVERAGE, Call, Foreseen, Suspicion
from groundwork.workings import JobPart, Workings, carried

PARTS = 6
"""Semi-dry concrete under an edge: 1 part of cement to so many all-in, by volume (common practice)."""


@dataclass(frozen=True)
class Takes:
    """What a run takes: concrete for bed and haunch, spikes and strips, pickets; none of what it has not."""

    concrete: float = 0.0
    mix: Mix | None = None
    spikes: int = 0
    strips: int = 0
    pickets: int = 0


class Edges(JobPart):
    """Every run of edge that is planned, by the side it stands along."""

    PART = "edges"

    def __init__(self, workings: Workings, site: Job, case: Case, logbook: Logbook, levels: Levels) -> None:
        super().__init__(workings)
        self._site, self._case, self._logbook, self._levels = site, case, logbook, levels

    @carried
    def options(self, side: int) -> tuple[EdgeOption, ...]:
        """What can stand along a side, what fits best first."""
        return edge_options(self._site, self._case, side)

    @property
    @carried
    def runs(self) -> dict[int, EdgeRun]:
        """By side: the newest plan of each."""
        plans = {e.side: e for e in self._logbook.of_kind(EdgePlanned).values() if e.side < len(self._site.outline)}
        return {side: EdgeRun(plans[side], self._site) for side in sorted(plans)}

    @carried
    def joints(self, side: int) -> dict[int, JointAnswer]:
        """The joints of a run that are set by level, and any other that was shot or lined. Raises `KeyError`."""
        run = self.runs[side]
        tops = {e.joint: e for e in self._logbook.of_kind(TopWork).values() if e.edge == run.plan.id}
        offs = {e.joint: e.off.metres for e in self._logbook.of_kind(EdgeLined).values() if e.edge == run.plan.id}
        last = len(run.joints) - 1
        every = sorted({*run.looked_at, *(n for n in (*tops, *offs) if n <= last)})
        by_level = {n: self._by_level(run, n, tops.get(n), offs.get(n)) for n in every}
        return {n: self._by_string(each, by_level[0], by_level[last]) for n, each in by_level.items()}

    def _by_level(self, run: EdgeRun, joint: int, top: TopWork | None, off: float | None) -> JointAnswer:
        bare = JointAnswer(run, joint, top, off=off)
        if not isinstance(top, EdgeShot):
            return bare
        read = self._top(run, joint).read(self._levels.against(top), top.reading.metres)
        return replace(bare, deviation=read[0], uncertainty=read[1]) if read else bare

    def _by_string(self, answer: JointAnswer, first: JointAnswer, last: JointAnswer) -> JointAnswer:
        top = answer.shot
        strung = _string(first, last, top.over.metres) if isinstance(top, EdgeStrung) else None
        read = strung.read(answer.joint, top.down.metres) if strung and isinstance(top, EdgeStrung) else None
        return replace(answer, deviation=read[0], uncertainty=read[1]) if read else answer

    def string(self, side: int, over: float) -> Strung | None:
        """A string pulled so far over the tops at both ends of a run as they are set, metres; None before they are.
        Raises `KeyError`."""
        joints = self.joints(side)
        return _string(joints[0], joints[max(self.runs[side].looked_at)], over)

    def _top(self, run: EdgeRun, joint: int) -> Top:
        return Top(run.place(joint), run.level(joint), self._site.design.level)

    def target(self, side: int, joint: int, reference: Reference | None) -> float | None:
        """What should be read on top of a run at a joint, metres; None where nothing can be. Raises `KeyError`."""
        return self._top(self.runs[side], joint).target(reference)

    def foreseen(self, side: int, joint: int, reference: Reference | None) -> Foreseen | None:
        return self._top(self.runs[side], joint).foreseen(reference)

    def misread(self, top: EdgeShot) -> Suspicion | None:
        """Whether a reading about to be recorded looks misread."""
        run, reference = self._of(top.edge), self._levels.references.get(top.set_up)
        if run is None or top.joint >= len(run.joints):
            return None
        shots = self._logbook.of_kind(EdgeShot).values()
        before = next((e for e in reversed(shots) if (e.edge, e.joint) != (top.edge, top.joint)), None)
        typed = (before.reading.raw, before.reading.metres) if before else None
        target = self.target(run.side, top.joint, reference)
        return misread_top(top.reading.raw, top.reading.metres, target, self._site.unit, typed)

    def too_unsure(self, side: int, joint: int, reference: Reference | None) -> Words | None:
        """Why what reads against this is not taken for an edge; None where it is. Raises `KeyError`."""
        foreseen = self.foreseen(side, joint, reference)
        return SET.too_unsure(foreseen.guard / COVERAGE) if foreseen else None

    def _of(self, edge: str) -> EdgeRun | None:
        return next((run for run in self.runs.values() if run.plan.id == edge), None)

    @carried
    def haunch(self, side: int) -> HaunchWait | None:
        """What a run has to wait for; None where nobody said when it was bedded. Raises `KeyError`."""
        run = self.runs[side]
        made = [e for e in self._logbook.of_kind(EdgeBedded).values() if e.edge == run.plan.id]
        return haunch_wait(run, made[-1], warmth(self._logbook, made[-1].celsius)) if made else None

    @property
    @carried
    def held(self) -> dict[int, str]:
        """What holds each side; nothing where it ends in soil."""
        said = {e.side: e for e in self._logbook.of_kind(SideHeld).values()}
        return held_by(self._site, self.runs, said)

    @property
    @carried
    def spiked(self) -> dict[int, tuple[int, int]]:
        """By side how many spikes were driven into its edging, and how many are wanted."""
        driven = {e.edge: e.number for e in self._logbook.of_kind(SpikesDriven).values()}
        return {
            side: (driven.get(run.plan.id, 0), self.takes(side).spikes)
            for side, run in self.runs.items() if run.plan.what is EdgeKind.SPIKED
        }  # fmt: skip

    @property
    @carried
    def behind(self) -> dict[int, float]:
        """How far below the paving the soil behind a side lies, metres, where it was taped."""
        return {e.side: e.below.metres for e in self._logbook.of_kind(Backfilled).values()}

    @property
    @carried
    def held_findings(self) -> tuple[Finding, ...]:
        """What is left open once cutting ends: sides nothing holds, spikes, what lies behind."""
        return (*held_findings(self.held, self.spiked), *backfill_findings(self.behind))

    def unset(self) -> Iterator[Finding]:
        """E08 and E09: no edge where edges are set before the base; joints that were not shot."""
        if not self.runs and not all(self.held.values()):
            yield Finding(
                "E08", Severity.STOP, Words("no edge is planned"), Words("what stands along each side"),
                "The base is compacted against its edges, and the paving laid to them.", "Plan them, under Edges.",
                Source.PRACTICE, number=1,
            )  # fmt: skip
        for side, run in self.runs.items():
            if run.plan.what in (EdgeKind.WALL, EdgeKind.SPIKED):
                continue
            left = [n for n, each in self.joints(side).items() if each.deviation is None]
            if left:
                yield Finding(
                    "E09", Severity.STOP,
                    Words("{what} on side {side}: {n} joints not shot", counts={"n": len(left)},
                          names={"side": str(side + 1), "what": str(run.plan.what)},
                          one="{what} on side {side}: one joint not shot"),
                    Words("every joint it is set by"), "Pavers are laid to it, and water goes over it or not.",
                    "Shoot them, under Edges.", Source.PRACTICE, number=len(left),
                )  # fmt: skip

    @property
    @carried
    def boards_out(self) -> tuple[tuple[int, int], ...]:
        """Boards of forms that are left out: the side and the board's number."""
        now = {e.edge: e for e in self._logbook.of_kind(BoardLeft).values()}
        return tuple(
            (side, now[run.plan.id].board)
            for side, run in self.runs.items()
            if run.plan.id in now and now[run.plan.id].out
        )

    def board_findings(self) -> Iterator[Finding]:
        """E05: what is left out for the barrow is closed before the pour, or the last lift."""
        for side, board in self.boards_out:
            yield Finding(
                "E05", Severity.STOP,
                Words("board {n} of the forms along side {side} is out", counts={"n": board},
                      names={"side": str(side + 1)}),
                Words("every board in"), "Concrete and stone go out where a board is missing.",
                "Close it, under Edges, before the pour or the last lift.", Source.PRACTICE, number=1,
            )  # fmt: skip

    def waiting(self, what: str) -> Iterator[Finding]:
        """What holds units that are `laid` against an edge, or a plate beside one (`plated`), today."""
        for side in self.runs:
            if (wait := self.haunch(side)) is not None:
                yield from wait.findings(what, self._site.today)

    def next_joint(self, side: int) -> int | None:
        """The first joint that was not shot, else the first that is not right."""
        not_right = [n for n, each in self.joints(side).items() if each.call is not Call.GOOD]
        return next((n for n in not_right if self.joints(side)[n].deviation is None), next(iter(not_right), None))

    @carried
    def resets(self, side: int) -> tuple[Reset, ...]:
        """Units to lift: those that meet at a joint that is low, or too high to tap; of neighbours in one."""
        units = len(self.runs[side].pieces)
        found: list[Reset] = []
        for joint, each in self.joints(side).items():
            lifts = each.call is Call.LOW or (each.call is Call.HIGH and (each.deviation or 0.0) > TAPS)
            if not lifts:
                continue
            first, last = max(joint, 1), min(joint + 1, units)
            if found and found[-1].last >= first - 1:
                found[-1] = Reset(found[-1].first, max(last, found[-1].last))
            else:
                found.append(Reset(first, last))
        return tuple(found)

    @carried
    def uneven(self, side: int) -> tuple[tuple[int, float], ...]:
        """Joints that lie off the straight line between two others no further apart than a straightedge, and by how
        much, metres: the tops against the design's own."""
        run = self.runs[side]
        answers = self.joints(side).items()
        known = [(n, run.joints[n], each.deviation) for n, each in answers if each.deviation is not None]
        worst: dict[int, float] = {}
        for i, (_first, low, one) in enumerate(known):
            for k in range(i + 2, len(known)):
                _last, high, other = known[k]
                if high - low > WITHIN + 1e-9:
                    break
                for joint, at, here in known[i + 1 : k]:
                    off = here - (one + (other - one) * (at - low) / (high - low))
                    if abs(off) > abs(worst.get(joint, 0.0)):
                        worst[joint] = off
        return tuple((joint, off) for joint, off in sorted(worst.items()) if abs(off) > BESIDE + 1e-9)

    @property
    @carried
    def foreseen_runs(self) -> dict[int, EdgeRun]:
        """What will stand along every side: as planned, else what fits best there, as it is sold."""
        found = {}
        for side in range(len(self._site.outline)):
            options = self.options(side)
            if side in self.runs:
                found[side] = self.runs[side]
            elif options:
                found[side] = EdgeRun(usual_edge(options[0].kind, side, metric=self._site.unit.is_metric), self._site)
        return found

    @carried
    def takes(self, side: int) -> Takes:
        """What the run along a side takes, planned or not. Raises `KeyError`."""
        run, vehicles = self.foreseen_runs[side], self._site.brief.traffic.wheels
        plan = run.plan
        if plan.what.is_bedded:
            volume = bed_and_haunch(plan.width.metres, plan.height.metres, vehicles=vehicles) * run.long
            return Takes(volume, mix(volume, PARTS, kind="semi-dry", aggregate=ALL_IN))
        if plan.what is EdgeKind.CONCRETE:
            volume = plan.width.metres * plan.height.metres * run.long
            return Takes(volume, mix(volume, PARTS, kind="semi-dry", aggregate=ALL_IN))
        if plan.what is EdgeKind.SPIKED:
            return Takes(spikes=spikes(run.long, vehicles=vehicles), strips=len(run.pieces))
        if plan.what is EdgeKind.FORM:
            return Takes(pickets=pickets(run.long, plan.length.metres))
        return Takes()

    @property
    @carried
    def findings(self) -> tuple[Finding, ...]:
        return (*(found for side in self.runs for found in self._found(side)), *self.board_findings())

    def findings_on(self, side: int) -> tuple[Finding, ...]:
        """What is found on a run. Raises `KeyError`."""
        return tuple(self._found(side))

    def _found(self, side: int) -> Iterator[Finding]:
        run = self.runs[side]
        names = {"side": str(side + 1), "what": str(run.plan.what)}
        answers = self.joints(side)
        out = [str(n) for n, each in answers.items() if each.call in (Call.HIGH, Call.LOW)]
        if out:
            yield Finding(
                "E01", Severity.STOP,
                Words("{what} on side {side}: tops off their level at joint {joints}",
                      names=names | {"joints": ", ".join(out)}),
                Words("within {low} to {high}", limits={"low": -TOPS.low, "high": TOPS.high}),
                "The paving runs to its edge: a kerb that is high dams water, a low one leaves a lip.",
                "Tap down or reset, and shoot the joint again.", Source.MEMORY, number=len(out),
            )  # fmt: skip
        if uneven := self.uneven(side):
            joint, off = max(uneven, key=lambda each: abs(each[1]))
            yield Finding(
                "E02", Severity.WARNING,
                Words("{what} on side {side}: {off} off its neighbours at joint {joint}", {"off": abs(off)},
                      names=names | {"joint": str(joint)}),
                Words("{most} along {long}", {"most": BESIDE}, distances={"long": WITHIN}),
                "The eye runs along an edge: a step of 3 mm is seen from the gate.",
                "Tap or reset until a straightedge lies along it.", Source.MEMORY, number=len(uneven),
            )  # fmt: skip
        if bent := [str(n) for n, each in answers.items() if each.is_out_of_line]:
            yield Finding(
                "E03", Severity.WARNING,
                Words("{what} on side {side}: out of line at joint {joints}",
                      names=names | {"joints": ", ".join(bent)}),
                Words("{most} off its line", {"most": LINE}),
                "What runs out of line shows in every course that is cut to it.",
                "Move it while the bed is fresh; else lift it.", Source.PRACTICE, number=len(bent),
            )  # fmt: skip
        arc = run.job.ring.arc(side)
        if arc and run.is_too_tight:
            yield Finding(
                "E04", Severity.WARNING,
                Words("{what} on side {side}: too long for its curve", names=names),
                Words("{most} long at most on this radius", distances={"most": run.longest_unit(arc.radius)}),
                "Straight units on a tight curve make a polygon, with joints gaping outside.",
                "Take units of this radius, or shorter ones.", Source.MEMORY, number=1,
            )  # fmt: skip

    def evidence(self) -> Mapping[str, object]:
        """The edges as a stage is signed on them, as JSON values."""
        return {
            "edges": [
                {"side": side, "what": str(run.plan.what), "long_m": round(run.long, 3),
                 **self._setting(side), "joints": [
                    {"joint": n, "off_mm": None if each.deviation is None else round(each.deviation * 1000, 1),
                     "line_mm": None if each.off is None else round(each.off * 1000, 1),
                     "call": each.call and str(each.call)}
                    for n, each in self.joints(side).items()
                ]}
                for side, run in self.runs.items()
            ]
        }  # fmt: skip

    def held_evidence(self) -> Mapping[str, object]:
        """What holds the paving all round, as JSON values."""
        return {
            "held": [
                {"side": side, "by": by, "spikes": self.spiked.get(side, (None,))[0],
                 "behind_mm": round(self.behind[side] * 1000, 1) if side in self.behind else None}
                for side, by in self.held.items()
            ]
        }  # fmt: skip

    def _setting(self, side: int) -> dict[str, object]:
        wait = self.haunch(side)
        if wait is None:
            return {}
        return {"bedded": {
            "at": wait.made.at.isoformat(timespec="minutes"), "celsius": wait.made.celsius,
            "laid_against_from": wait.laid and wait.laid.isoformat(timespec="minutes"),
            "plate_beside_from": wait.plated and wait.plated.isoformat(timespec="minutes"),
        }}  # fmt: skip


def _string(first: JointAnswer, last: JointAnswer, over: float) -> Strung | None:
    if first.deviation is None or last.deviation is None or first.joint == last.joint:
        return None
    u = math.hypot(first.uncertainty, last.uncertainty) / math.sqrt(2)
    return Strung(first.run, over, first.deviation, last.deviation, u)
