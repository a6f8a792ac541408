"""Random records of every kind, in steps: struck, corrected, knocked, closed and misread, signed and taken back,
designed anew. A seed is a history; `python -m tests.histories FIRST LAST` holds the seeds of a range against reading
afresh, and says which differ."""

import random
import re
import sys
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from groundwork import entries as e
from groundwork.assess import Assessment, advance, assess
from groundwork.bedwork.kinds import BayWork, RailShot, RailWork
from groundwork.edgework import BoardLeft, EdgePlanned, EdgeShot, EdgeStrung
from groundwork.edgework.kinds import SideWork
from groundwork.files import loads
from groundwork.job import Acceptance, Design, Job, SignOff, Withdrawal, followed_by
from groundwork.jointwork import kinds as j
from groundwork.kinds import Entry, renamed
from groundwork.layerwork import Work
from groundwork.laying import paving_evidence
from groundwork.laywork import CourseTaped, LayoutChosen, PieceCut, RowsLaid
from groundwork.lifts import ground_data, lift_data, pour_data
from groundwork.measures import Measured, Severity
from groundwork.schools import Slot
from groundwork.tools import Instrument, Method
from tests.conftest import DRAINED_PAD, PAD
from tests.groundwork.test_entries import ALL

DEMO = Path(__file__).parents[1] / "src" / "nivelum" / "demo" / "jobs"
SITES = (
    PAD,
    DRAINED_PAD,
    PAD.replace('"units": "mm"', '"units": "ft-in"').replace('"dense"', '"kerbed"'),
    *((DEMO / f"{name}.json").read_text(encoding="utf-8") for name in ("bin-court", "loading-lane", "floor-walk")),
)
LEVEL = 11.5
"""The line of sight that every set-up is near, metres over the sites' own zero."""
OFTEN: dict[type, int] = {e.Reading: 30, e.SetUp: 5, e.Foresight: 5, e.Strike: 3, e.Correction: 3, e.Disturbance: 2}
SURE = [0.0, 0.001, -0.002, 0.006, -0.006, 0.015, -0.014, 0.04, -0.05]


class History:
    """One job's random record, entry by entry."""

    def __init__(self, seed: int) -> None:
        self.random = random.Random(seed)
        self.job = replace(loads(self.random.choice(SITES)), entries=())
        self.made: dict[str, list[str]] = defaultdict(list)
        self._level = self.job.marks[0].level + 1.3

    def entry(self, now: Job) -> Entry:
        """The next entry: one time in six a decision or a design, else of any kind."""
        number = f"n{len(now.entries) + len(now.sign_offs) + len(now.acceptances) + len(now.withdrawals)}"
        number += f"v{now.version}"
        chance = self.random.random()
        if chance < 0.10 and (decision := self._decided(number, now)):
            return decision
        if chance < 0.13:
            return Design(
                number, replace(now.site, station_spacing=now.station_spacing * self.random.choice([1, 1.3]))
            )
        while True:
            shape = self.random.choices(ALL, [OFTEN.get(type(each), 1) for each in ALL])[0]
            if isinstance(shape, e.Reading):
                return self._varied(replace(shape, id=number, set_up=self._known("anchor", "s1")), now)
            names = {each.id: self._known(each.KIND, each.id) for each in ALL} | {shape.id: number}
            if isinstance(shape, e.Strike | e.Correction):
                any_of = self.made[self.random.choice(["reading", "reading", *self.made])] if self.made else []
                names[getattr(shape, "strikes", "") or getattr(shape, "corrects", "")] = self._one(any_of, "none")
            found = self._varied(renamed(shape, names), now)
            if isinstance(found, e.Correction) and not self._mends(found.corrects, now):
                continue
            return found

    def wrote(self, entry: Entry) -> None:
        self.made[entry.KIND].append(entry.id)
        if isinstance(entry, e.SetUp | e.MeterBase | e.StringLine | e.TapeDatum):
            self.made["anchor"].append(entry.id)

    def _one(self, of: list[str], otherwise: str) -> str:
        return self.random.choice([*of[-3:], *of]) if of else otherwise

    def _known(self, kind: str, otherwise: str) -> str:
        return self._one(self.made.get(kind, []), otherwise)

    @staticmethod
    def _mends(key: str, now: Job) -> bool:
        return any(each.id == key and each.MENDS for each in now.entries)

    def _read(self, metres: float) -> Measured:
        metres = round(metres + self.random.choice(SURE), 4)
        return Measured(f"{metres * 1000:g}", metres)

    def _varied(self, entry: Entry, now: Job) -> Entry:  # noqa: PLR0912, PLR0915 (a branch a kind)
        """An entry with names and lengths of this job."""
        draw, job = self.random, now
        stations = [station.name for station in job.stations]
        surfaces = [str(surface.key) for surface in job.specification.levelled]
        points = [*(mark.name for mark in job.marks), "T1", "T2"]
        level = {mark.name: mark.level for mark in job.marks} | {"T1": self._level - 1.6, "T2": self._level - 1.1}
        more: dict[str, Any] = {}
        match entry:
            case e.SetUp() | e.MeterBase():
                mark = draw.choice(points)
                typed = "backsight" if isinstance(entry, e.SetUp) else "shows"
                more = {"mark": mark, typed: self._read(self._level - level[mark])}
                if isinstance(entry, e.SetUp):
                    more["at"] = draw.choice([None, (3.0, -2.0)])
            case e.Foresight():
                point = draw.choice(points)
                more = {"point": point, "reading": self._read(self._level - level[point])}
                more["set_up"] = self._known("set_up", "s1")
            case e.Reading():
                surface = draw.choice(surfaces)
                station = draw.choice(job.stations)
                depth = job.specification.surface(surface).depth
                more = {
                    "station": station.name, "surface": surface, "same_ground": draw.random() < 0.3,
                    "reading": self._read(self._level - job.design.level(station.at) + depth),
                    "sure": draw.random() < 0.3,
                }  # fmt: skip
            case e.FallCheck():
                one, other = draw.sample(stations, 2)
                more = {"start": one, "end": other, "surface": draw.choice(surfaces)}
            case e.Fill():
                more = {"station": draw.choice(stations)}
            case e.Disturbance():
                more = {"point": draw.choice(points), "since": draw.choice(["", self._known("set_up", "")])}
            case e.PegDistance():
                one, other = draw.sample(range(1, len(job.outline) + 1), 2)
                more = {"start": f"P{one}", "end": f"P{other}"}
            case EdgePlanned():
                more = {"side": draw.randrange(len(job.outline))}
            case EdgeShot():
                more = {
                    "joint": draw.randint(0, 4),
                    "set_up": self._known("anchor", "s1"),
                    "reading": self._read(1.5),
                }
            case EdgeStrung():
                more = {"joint": draw.randint(1, 4)}
            case BoardLeft():
                more = {"board": draw.randint(1, 3), "out": draw.random() < 0.5}
            case LayoutChosen():
                more = {"side": draw.randrange(len(job.outline)), "pattern": draw.choice(["stack", "running-half"]),
                        "turned": draw.choice([0, 90]), "over": draw.randint(0, 5) / 10}  # fmt: skip
            case CourseTaped():
                more = {"row": draw.randint(1, 6), "spot": draw.choice(["left", "middle", "right"]),
                        "tape": self._read(draw.randint(1, 6) * 0.305)}  # fmt: skip
            case RowsLaid():
                more = {"row": draw.randint(0, 6)}
            case PieceCut():
                more = {"piece": f"{draw.randint(1, 4)}.1"}
            case j.LaidShot():
                more = {"station": draw.choice(stations), "set_up": self._known("anchor", "s1"),
                        "reading": self._read(1.5)}  # fmt: skip
            case j.AtAPlace():
                more = {"at": (round(draw.uniform(0.1, 3.9), 2), round(draw.uniform(0.1, 2.9), 2))}
            case j.FillUsed() | j.FillStepDone():
                more = {"patch": draw.choice(["", "1"])}
            case j.JointDepth():
                more = {"patch": "1", "spot": draw.randint(1, 3)}
            case SideWork():
                more = {"side": draw.randrange(len(job.outline))}
            case BayWork():
                more = {"bay": f"B{draw.randint(1, 3)}"}
            case RailWork():
                more = {"rail": f"R{draw.randint(1, 4)}"}
                if isinstance(entry, RailShot):
                    more |= {"end": draw.choice(["start", "end"]), "set_up": self._known("anchor", "s1")}
                    more["reading"] = self._read(1.5)
            case Work() if hasattr(entry, "lift"):
                lifts = ["formation", "finished", *(s for s in surfaces if s.startswith(("base", "sub-base")))]
                more = {"lift": draw.choice(lifts)}
                if hasattr(entry, "station"):
                    more["station"] = draw.choice(stations)
                if hasattr(entry, "patch"):
                    more["patch"] = str(draw.randint(1, 2))
        return replace(entry, **more)  # type: ignore[type-var]

    def _decided(self, number: str, now: Job) -> Entry | None:
        draw, stages = self.random, assess(now).stages
        key = draw.choice(list(stages.steps))
        how = draw.random()
        if how < 0.6:
            by = draw.choice(["Ines", "Odo"])
            slots = stages.steps[key].slots
            return SignOff(number, key, by, stages.evidence_of(key), by, draw.choice([*slots, Slot.LEAD]), slots)
        if how < 0.8:
            stops = [f for f in stages.of(key).findings if f.severity is Severity.STOP]
            return (
                Acceptance(number, key, draw.choice(stops).identity, "Odo", "engineer", "so be it") if stops else None
            )
        decided = [each.id for each in (*now.sign_offs, *now.acceptances)]
        return Withdrawal(number, draw.choice(decided), "Ines", "not so") if decided else None


def questions(of: Assessment) -> Iterator[tuple[str, Any]]:
    """Everything a job can be asked, each with how to ask it."""
    unit = of.job.unit
    yield "line", lambda a: a.stages.line
    yield "in hand", lambda a: (a.surface_in_hand, a.works.in_hand.key, a.stages.in_hand.stage.key)
    yield "lifts", lambda a: [lift_data(lift, unit) for lift in a.works.lifts.values()]
    yield "ground", lambda a: (ground_data(a.works, unit), pour_data(a.works, unit), a.works.tallies)
    yield "machines", lambda a: (a.works.vibration, a.works.machines, a.works.bulkings, a.works.deepest)
    yield "levels", lambda a: (a.levels.references, a.levels.usable, a.levels.runs.heights, a.levels.set_up)
    yield "why lost", lambda a: [a.levels.why_lost(key) for key in a.logbook.anchors]
    yield "set-out", lambda a: (a.setting_out.pegs.pegs, a.setting_out.findings, a.setting_out.margin_findings)
    yield "falls", lambda a: a.surveys.falls
    yield "laid", lambda a: [(each.least, each.mean) for each in a.surfaces.laid]
    for surface in of.surveys.levelled:
        key = surface.key
        yield f"answers {key}", lambda a, key=key: a.surveys.of(key).answers
        yield f"findings {key}", lambda a, key=key: (a.surfaces.findings(key), a.surveys.suspected(key))
        yield f"targets {key}", lambda a, key=key: [a.targets.at(s.name, key) for s in a.job.stations]
        yield f"foretold {key}", lambda a, key=key: foretold(a, key)
    yield "bedding", lambda a: (a.bedding.ends, a.bedding.findings, a.bedding.evidence(), a.bedding.trial)
    yield "bays", lambda a: (a.bedding.bays, a.bedding.batches, a.bedding.flags)
    yield "seating", lambda a: (a.seating.evidence(), a.seating.findings, a.seating.stations, a.seating.to_mend)
    yield "jointing", lambda a: (a.jointing.evidence(), a.jointing.findings)
    yield "orders", lambda a: (a.orders.needs, a.orders.supplies)
    yield "labour", lambda a: (a.labour.amounts, a.labour.worked, a.labour.ran, a.labour.kit, a.labour.on_hire)
    yield "held", lambda a: (a.edges.held, a.edges.held_findings)
    yield "paving", lambda a: (a.laying.targets, a.laying.taped, a.laying.closings, a.laying.findings)
    yield (
        "laying",
        lambda a: (paving_evidence(a.laying), a.laying.cuts, a.laying.taken_off, a.laying.rate),
    )
    yield "edges", lambda a: [(a.edges.joints(s), a.edges.resets(s), a.edges.uneven(s)) for s in a.edges.runs]
    yield "waits", lambda a: ([a.edges.haunch(s) for s in a.edges.runs], a.edges.boards_out, a.edges.options(0))
    for key in of.stages.steps:
        yield f"stage {key}", lambda a, key=key: (a.stages.of(key), a.stages.evidence_hash(key))


def foretold(of: Assessment, surface: str) -> list[Any]:
    """What the next readings come to at two stations, one of them shot where any is, against the newest reference and
    a level about to stand on each mark."""
    shot = [name for name, answer in of.surveys.of(surface).answers.items() if answer.judgement.shots]
    about = [of.levels.about_to_stand(mark.name, Instrument(Method.LASER)) for mark in of.job.marks]
    against = [each for each in (*list(of.levels.references.values())[-1:], *about) if each]
    return [
        of.targets.foretold(station, surface, each, *how)
        for station in (of.job.stations[0].name, *shot[-1:])
        for each in against
        for how in ((False,), (True,), (True, (0.0,)))
    ]


def differs(seed: int, steps: int = 5) -> str:
    """What a history of steps comes to otherwise than the same record read afresh; nothing where it does not."""
    history = History(seed)
    draw = history.random
    now = assess(history.job)
    for _step in range(steps):
        asked = list(questions(now))
        for _name, ask in draw.sample(asked, draw.randint(0, len(asked))):
            ask(now)  # what is known before a step is now this, now that
        values: list[Entry] = []
        for _entry in range(draw.choice([1, 1, 2, 5])):
            entry = history.entry(followed_by(now.job, values))
            history.wrote(entry)
            values.append(entry)
        now = advance(now, values)
        if draw.random() < 0.3 and (found := _compared(now, draw)):
            return f"{seed}: {found}"
    found = _compared(now, draw)
    return f"{seed}: {found}" if found else ""


def _compared(now: Assessment, draw: random.Random) -> str:
    afresh = assess(replace(now.job))
    asked = list(questions(afresh))
    draw.shuffle(asked)
    return next((name for name, ask in asked if _told(ask(now)) != _told(ask(afresh))), "")


def _told(answer: Any) -> str:
    """An answer in full, its numbers to a millionth of a millimetre: sums of vectors differ in their last digit by
    where in memory they lie."""
    return re.sub(r"\d+\.\d{9,}(e-\d+)?", lambda number: f"{float(number[0]):.9f}", repr(answer))


if __name__ == "__main__":
    first, last = map(int, sys.argv[1:])
    wrong = [found for seed in range(first, last) if (found := differs(seed))]
    print(f"{last - first} histories, {len(wrong)} differ")
    print("\n".join(wrong))
    sys.exit(bool(wrong))
