"""The joints of a job: how much they take, when and how they are filled, how deep they lie."""

import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from groundwork.base import Family, Role
from groundwork.bedding import Bedding
from groundwork.brief import Traffic
from groundwork.curing import BESIDE, matured_at
from groundwork.job import Job
from groundwork.jointing.amounts import FillAmount, fill_amount, joint_share
from groundwork.jointing.fills import FillStep, JointFill, filling
from groundwork.jointing.rules import OFF, air_findings, depth_findings, used_findings
from groundwork.jointwork import AirRead, FillStepDone, FillUsed, JointDepth
from groundwork.laying import Laying
from groundwork.layouts import pattern_options, usual_unit
from groundwork.logbook import Logbook, warmth
from groundwork.measures import Finding
from groundwork.plan import Patch, patches
from groundwork.soundness import Case
from groundwork.weather import dew_point, stays_dry
from groundwork.workings import JobPart, Workings, carried

FEWEST_PLACES = 3
"""Joints are taped at so many places at least (common practice)."""


@dataclass(frozen=True)
class PatchJoints:
    """The joints of a patch: kg reckoned and used, how deep they lie at each place that was taped, metres below the
    edge; the steps done on it, by when."""

    patch: Patch
    reckoned: float
    used: float
    depths: tuple[float, ...]
    done: dict[str, datetime]


@dataclass(frozen=True)
class Air:
    """How dry it was: the dew point, °C, by how much the surface was over it, kelvin, and the chance that it stays
    dry as long as the filling needs, None where no forecast said."""

    read: AirRead
    dew: float
    over: float
    dry: float | None


class Jointing(JobPart):
    """The joints of a job; nothing is asked where this crew fills none."""

    PART = "jointing"

    def __init__(
        self, workings: Workings, site: Job, case: Case, logbook: Logbook, laying: Laying, bedding: Bedding
    ) -> None:  # fmt: skip
        super().__init__(workings)
        self._site, self._case, self._logbook = site, case, logbook
        self._laying, self._bedding = laying, bedding

    @property
    def is_there(self) -> bool:
        paving = self._site.specification.layer(Role.PAVING)
        return paving is not None and not self._site.brief.by_others

    @property
    def fill(self) -> JointFill:
        """What the joints are filled with."""
        return filling(self._site.specification.details.joint.fill)

    @property
    @carried
    def amount(self) -> FillAmount:
        """What they take, a square metre: by the layout, with every cut and every joint of it; else by the pattern
        that fits best."""
        base, paving = self._site.specification, self._laying.paving
        bed, units = base.layer(Role.BEDDING), base.layer(Role.PAVING)
        if paving is not None:
            share = max(1 - paving.covered / float(paving.area.area), 0.0)
        else:
            unit = usual_unit(self._site)
            options = pattern_options(self._site, unit)
            share = joint_share(options[0].pattern, unit) if options else 0.0
        on_sand = bed is not None and bed.family is Family.SAND
        return fill_amount(self.fill, share, units.thickness if units else 0.0, on_sand=on_sand)

    @property
    def reckoned(self) -> float:
        """What all joints take, kg."""
        return self.amount.per_square_metre * float(self._site.area.area)

    @property
    @carried
    def patches(self) -> dict[str, PatchJoints]:
        """The joints patch by patch."""
        used, depths = defaultdict[str, float](float), defaultdict[str, dict[int, float]](dict)
        for filled in self.went_in:
            used[filled.patch] += filled.mass
        for taped in self._logbook.of_kind(JointDepth).values():
            depths[taped.patch][taped.spot] = taped.below.metres
        found = {}
        for patch in patches(self._site.area):
            done = {e.step: e.at for e in self._steps if e.patch in ("", patch.name)}
            found[patch.name] = PatchJoints(
                patch, self.amount.per_square_metre * patch.area, used[patch.name],
                tuple(depths[patch.name].values()), done,
            )  # fmt: skip
        return found

    @property
    @carried
    def _steps(self) -> tuple[FillStepDone, ...]:
        known = {step.key for step in self.fill.steps}
        return tuple(e for e in self._logbook.of_kind(FillStepDone).values() if e.step in known)

    @property
    @carried
    def went_in(self) -> tuple[FillUsed, ...]:
        """What went in, oldest first."""
        return tuple(self._logbook.of_kind(FillUsed).values())

    @property
    @carried
    def used(self) -> float:
        """What went in, kg."""
        return sum(e.mass for e in self.went_in)

    @property
    @carried
    def odd(self) -> dict[str, float]:
        """Patches that took more or less a square metre than the others on the whole, by what share of that."""
        taken = {name: each.used / each.patch.area for name, each in self.patches.items() if each.used}
        found = {}
        for name, mine in taken.items():
            others = [other for key, other in taken.items() if key != name]
            if others and abs(share := mine / (sum(others) / len(others)) - 1) > OFF + 1e-9:
                found[name] = share
        return found

    @property
    @carried
    def air(self) -> Air | None:
        """How dry it was when somebody looked last."""
        read = next(reversed(self._logbook.of_kind(AirRead).values()), None)
        if read is None:
            return None
        dew = dew_point(read.celsius, read.humidity)
        dry = None if read.chance is None else stays_dry(read.chance, self.fill.dry)
        return Air(read, dew, read.surface - dew, dry)

    @property
    @carried
    def not_before(self) -> datetime | None:
        """When joints may be filled at the soonest; None where nothing has to set first, or nobody said when it was
        mixed."""
        if not self.fill.after or not self._bedding.batches:
            return None
        last = max((batch.mixed for batch in self._bedding.batches), key=lambda each: each.at)
        return matured_at(last.at, BESIDE, warmth(self._logbook, last.celsius))

    @property
    def is_ended(self) -> bool:
        """Whether every step was done everywhere."""
        return all(set(each.done) == {step.key for step in self.fill.steps} for each in self.patches.values())

    @property
    @carried
    def next_step(self) -> FillStep | None:
        """The first step that is not done everywhere."""
        return next(
            (s for s in self.fill.steps if any(s.key not in each.done for each in self.patches.values())), None
        )  # fmt: skip

    @property
    @carried
    def filled_at(self) -> datetime | None:
        """When the last step was done, once all are."""
        return max(e.at for e in self._steps) if self._steps and self.is_ended else None

    @property
    @carried
    def opens(self) -> tuple[datetime, datetime | None] | None:
        """When it may be walked on and driven on, None where nobody drives; None before it is filled."""
        at, school = self.filled_at, self._case.school
        if at is None:
            return None
        drives = self._site.brief.traffic is not Traffic.FOOT and school.drive_days is not None
        walk = at + timedelta(days=school.walk_days)
        return walk, at + timedelta(days=school.drive_days or 0) if drives else None

    def says(self, below: float) -> str:
        """What so far below the edge, metres, comes to: `fill up`, `sweep out`, `close` or `good`."""
        fill = self.fill
        if below > fill.stop + 1e-9:
            return "fill up"
        if below < fill.least - 1e-9:
            return "sweep out" if not fill.cells else "rake off"
        return "close" if below > fill.most + 1e-9 else "good"

    def state(self, patch: str) -> str:
        """The worst of what was taped in a patch: `untaped` where nothing was. Raises `KeyError`."""
        said = {self.says(below) for below in self.patches[patch].depths}
        worst = ("fill up", "sweep out", "rake off", "close", "good")
        return next((each for each in worst if each in said), "untaped").replace(" ", "-")

    @property
    def next_depth(self) -> tuple[str, int] | None:
        """The patch to tape a joint in next, and which place of it; None where enough were taped."""
        for name, each in self.patches.items():
            if len(each.depths) < self.places:
                return name, len(each.depths) + 1
        return None

    @property
    def places(self) -> int:
        """At how many places of each patch joints are taped."""
        return max(1, math.ceil(FEWEST_PLACES / len(self.patches)))

    @property
    def is_begun(self) -> bool:
        kinds = (FillUsed, FillStepDone, JointDepth)
        return any(self._logbook.of_kind(kind) for kind in kinds)

    @property
    @carried
    def findings(self) -> tuple[Finding, ...]:
        """What holds the joints, and what to mind of them."""
        return tuple(self._found()) if self.is_there else ()

    def _found(self) -> Iterator[Finding]:
        air, fill, here = self.air, self.fill, self.patches
        yield from air_findings(
            fill, air.read.surface if air else None, air.dew if air else None, air.dry if air else None
        )  # fmt: skip
        deep = [name for name, each in here.items() if any(self.says(d) == "fill up" for d in each.depths)]
        over = [name for name, each in here.items() if any(d < fill.least - 1e-9 for d in each.depths)]
        missing = [name for name, each in here.items() if len(each.depths) < self.places]
        yield from depth_findings(fill, deep, over, missing, self.places)
        yield from used_findings(self.used, self.reckoned, self.odd, ended=self.is_ended)

    def evidence(self) -> dict[str, Any]:
        """How the joints were filled, as JSON values."""
        if not self.is_there:
            return {}
        air, opens = self.air, self.opens
        return {
            "fill": self.fill.key, "joints_share": round(self.amount.share, 4),
            "kg_m2": round(self.amount.per_square_metre, 3), "reckoned_kg": round(self.reckoned, 1),
            "used_kg": round(self.used, 1),
            "patches": [
                {"patch": name, "used_kg": round(each.used, 1), "below_mm": [round(d * 1000, 1) for d in each.depths],
                 "steps": {key: at.isoformat(timespec="minutes") for key, at in each.done.items()}}
                for name, each in self.patches.items()
            ],
            "air": air and {"at": air.read.at.isoformat(timespec="minutes"), "dew_point_c": round(air.dew, 1),
                            "over_dew_k": round(air.over, 1),
                            "stays_dry": None if air.dry is None else round(air.dry, 2)},
            "walk_from": opens and opens[0].isoformat(timespec="minutes"),
            "drive_from": opens[1].isoformat(timespec="minutes") if opens and opens[1] else None,
        }  # fmt: skip
