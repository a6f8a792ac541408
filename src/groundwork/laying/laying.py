"""A job's paving: its layout, its rows as taped and how they come home, cuts, packs, how far it is."""

from collections.abc import Iterator, Sequence

import shapely
from shapely.geometry.base import BaseGeometry

from groundwork.base import Family, Role
from groundwork.job import Job
from groundwork.laying.cuts import PieceToCut, cut_list
from groundwork.laying.gauge import (
    EVERY,
    WHERE,
    ClosesWith,
    Home,
    Joints,
    RowTaped,
    closing,
    foreseen,
    home,
    home_words,
    rows_taped,
)
from groundwork.laying.progress import B, area_by_row, rate, to_lay
from groundwork.laying.rules import (
    NO_FIT,
    NOT_LAID_OUT,
    layout_findings,
    pack_findings,
    row_findings,
    spare_findings,
    taping_findings,
)
from groundwork.laying.takeoff import Packs, TakenOff, packs_of, taken_off
from groundwork.layouts import LAYING_RATE, MovementJoints, movement_joints, paved_as
from groundwork.laywork import (
    CourseTaped,
    LayoutChosen,
    ModuleTaped,
    PackEmptied,
    PackOpened,
    PieceCut,
    PiecesShared,
    RowsLaid,
    RowsSquared,
    SparesLeft,
)
from groundwork.logbook import Logbook
from groundwork.measures import Finding, Words
from groundwork.pattern import Paving, two_alike
from groundwork.setout import angle, off_line, square_triangle
from groundwork.soundness import Case
from groundwork.verdict import Foreseen, Suspicion, suspect
from groundwork.workings import JobPart, Workings, carried

TEN = 10
FAR_OUT = 0.006
"""How far off a row usually is, standard, metres: a tape farther out looks misread (common practice)."""
SQUARED_OVER, LONGEST_LEG = 15.0, 6.0
"""Metres rows are held square over, and a leg of the triangle for it (common practice)."""
NEVER_READ = 1e-9


class Laying(JobPart):
    """The paving of a job; nothing of it is asked and nothing said until a layout is chosen."""

    PART = "laying"

    def __init__(self, workings: Workings, site: Job, case: Case, logbook: Logbook) -> None:
        super().__init__(workings)
        self._site, self._case, self._logbook = site, case, logbook

    @property
    def is_there(self) -> bool:
        """Whether this crew lays units here."""
        paving = self._site.specification.layer(Role.PAVING)
        return paving is not None and paving.family is Family.UNIT and not self._site.brief.by_others

    @property
    @carried
    def chosen(self) -> LayoutChosen | None:
        """The newest layout."""
        return next(reversed(self._logbook.of_kind(LayoutChosen).values()), None)

    @property
    @carried
    def shared(self) -> frozenset[str]:
        """Pieces too small that are cut anew with the unit beside them."""
        return frozenset(name for e in self._logbook.of_kind(PiecesShared).values() if self._is_of(e.layout)
                         for name in e.pieces)  # fmt: skip

    def _is_of(self, layout: str) -> bool:
        return self.chosen is not None and layout == self.chosen.id

    @property
    @carried
    def paving(self) -> Paving | None:
        """The area paved as it was chosen."""
        if self.chosen is None or self.chosen.side >= len(self._site.outline):
            return None
        try:
            paving = paved_as(self._site, self.chosen, self.shared)
            return paving if paving.number else None
        except ValueError:  # the area has changed since: a border has no room any more
            return None

    @property
    @carried
    def movement(self) -> MovementJoints | None:
        """Where movement joints go; None where units do not lie in mortar."""
        bedding = self._site.specification.layer(Role.BEDDING)
        if self.paving is None or bedding is None or bedding.family is not Family.MORTAR:
            return None
        x0, y0, x1, y1 = self.paving.seen.bounds
        return movement_joints(x1 - x0, y1 - y0)

    @property
    def hours_left(self) -> float:
        """Person-hours that are left, at the rate it went here, or at a common one."""
        return self.left_area / (self.rate or LAYING_RATE)

    @property
    @carried
    def can_share(self) -> tuple[str, ...]:
        """Pieces too small that have a whole unit in line beside them."""
        if self.paving is None:
            return ()
        named, joint = dict(self.paving.pieces), self.paving.design.widest_joint
        return tuple(piece.name for piece in self.paving.slivers if two_alike(named, piece.name, joint))

    @property
    def joints(self) -> Joints:
        """The joint as chosen, and between what it may lie: the filling's own range, or the school's."""
        width = self.chosen.joint.metres if self.chosen else self._site.specification.details.joint.width
        least, most = self._bounds
        return Joints(width, min(least, width), max(most, width))

    @property
    @carried
    def module(self) -> float:
        """How far rows lie apart: as taped over ten units, or as designed, metres."""
        paving = self.paving
        if paving is None:
            return 0.0
        taped = [e for e in self._logbook.of_kind(ModuleTaped).values() if self._is_of(e.layout)]
        return taped[-1].tape.metres / TEN if taped else paving.design.pitch

    @property
    def is_measured(self) -> bool:
        return self.paving is not None and abs(self.module - self.paving.design.pitch) > NEVER_READ

    @property
    @carried
    def targets(self) -> dict[int, float]:
        """What should be taped from the string to the far face of every row from the string's on, metres; nothing
        where units form no rows."""
        paving = self.paving
        if paving is None or not paving.design.has_rows:
            return {}
        joint = paving.design.unit.joint
        return {
            row: (row - paving.first_row + 1) * self.module - joint for row in paving.rows if row >= paving.first_row
        }

    @property
    @carried
    def to_tape(self) -> tuple[int, ...]:
        """Rows to tape: one about every two metres, and the last."""
        rows = list(self.targets)
        step = max(1, round(EVERY / self.module)) if self.module else 1
        found = rows[step - 1 :: step]
        if found and rows[-1] - found[-1] < step / 2:  # the last row stands for one close before it
            found.pop()
        return (*found, *rows[-1:])

    @property
    @carried
    def taped(self) -> dict[int, RowTaped]:
        """Every row that was taped."""
        entries = [e for e in self._logbook.of_kind(CourseTaped).values() if self._is_of(e.layout)]
        return rows_taped(entries, self.targets)

    def foreseen(self, row: int) -> Foreseen:
        """What a tape on a row will come to. Raises `KeyError`."""
        return foreseen(self.targets[row])

    @property
    @carried
    def next_place(self) -> tuple[int, str] | None:
        """The row and place to tape next."""
        for row in self.to_tape:
            known = self.taped[row].off if row in self.taped else {}
            for where in WHERE:
                if where not in known:
                    return row, where
        return None

    @property
    @carried
    def left_to_tape(self) -> tuple[int, ...]:
        """Rows to tape that were not taped everywhere."""
        return tuple(
            row for row in self.to_tape if row not in self.taped or set(self.taped[row].off) != set(WHERE)
        )  # fmt: skip

    def misread(self, taped: CourseTaped) -> Suspicion | None:
        """Whether a length about to be recorded looks misread."""
        if not self._is_of(taped.layout) or taped.row not in self.targets:
            return None
        beside = self.taped.get(taped.row)
        before = [row for row in self.taped if row < taped.row]
        expected = self.targets[taped.row]
        if beside and (others := [off for where, off in beside.off.items() if where != taped.spot]):
            expected += sum(others) / len(others)
        elif before:
            expected += self.taped[before[-1]].drift
        return suspect(taped.tape.raw, taped.tape.metres, expected, FAR_OUT, self._site.unit, None, [])

    def home(self, row: int) -> Home:
        """How a row that was taped comes home. Raises `KeyError`."""
        good = [r for r, each in self.taped.items() if r < row and each.is_in_line]
        ahead = max(self.targets) - row
        return home(self.taped[row], ahead, self.joints, good[-1] if good else 0, self.module)

    def action(self, row: int) -> tuple[Words, ...]:
        """What to do about a row that was taped. Raises `KeyError`."""
        return home_words(self.home(row), self.taped[row])

    @property
    @carried
    def last_taped(self) -> int | None:
        return max(self.taped, default=None)

    @property
    @carried
    def closings(self) -> dict[str, ClosesWith]:
        """What is left at the far edge at the left, in the middle and at the right, from the last row taped, or from
        the string where none was."""
        paving = self.paving
        if paving is None or not self.targets:
            return {}
        last = self.last_taped
        row = last or min(self.targets)
        at = dict(zip(WHERE, paving.rows[row].places(), strict=True))
        found = {}
        for where, along in at.items():
            edge = paving.to_the_edge(along)
            face = self.targets[last] + self.taped[last].off.get(where, self.taped[last].drift) if last else -(
                paving.design.unit.joint
            )  # fmt: skip
            joints = self.joints
            broad = self.module - joints.width
            left = None if edge is None else closing(edge - face, broad, joints.width, joints)
            if left:
                found[where] = left
        return found

    @property
    @carried
    def cuts(self) -> tuple[PieceToCut, ...]:
        return cut_list(self.paving) if self.paving else ()

    @property
    @carried
    def done(self) -> frozenset[str]:
        """Pieces that are cut and laid."""
        return frozenset(e.piece for e in self._logbook.of_kind(PieceCut).values() if self._is_of(e.layout))

    @property
    @carried
    def taken_off(self) -> tuple[TakenOff, ...]:
        """Units by size."""
        paving = self._site.specification.layer(Role.PAVING)
        if self.paving is None or paving is None:
            return ()
        return taken_off(self.paving.units, paving.thickness, paving.made_of.density)

    @property
    @carried
    def packs(self) -> Packs:
        return packs_of(self._logbook.of_kind(PackOpened), self._logbook.of_kind(PackEmptied))

    @property
    @carried
    def spares(self) -> SparesLeft | None:
        """What is kept for repairs, as it was counted last."""
        return next(reversed(self._logbook.of_kind(SparesLeft).values()), None)

    @property
    @carried
    def spare_findings(self) -> tuple[Finding, ...]:
        """What to mind of it at handover."""
        needed = sum(each.laid for each in self.taken_off)
        return tuple(spare_findings(self.spares.units if self.spares else None, needed)) if needed else ()

    @property
    @carried
    def laid_rows(self) -> int:
        """The last row that is laid, with all before it; 0 where none is."""
        laid = [e for e in self._logbook.of_kind(RowsLaid).values() if self._is_of(e.layout)]
        return laid[-1].row if laid else 0

    @property
    @carried
    def laid_area(self) -> float:
        """What is laid, m², with the joints."""
        return sum(area for row, area in self._by_row.items() if row <= self.laid_rows)

    @property
    def left_area(self) -> float:
        """What is to be laid, m²."""
        return max(self._site.area.area - self.laid_area, 0.0)

    @property
    @carried
    def _by_row(self) -> dict[int, float]:
        """What each row comes to, m² with its joints."""
        return area_by_row(self.paving) if self.paving else {}

    @property
    @carried
    def laid_part(self) -> BaseGeometry | None:
        """What is laid, on the plan; None where nothing is."""
        if self.paving is None or not self.laid_rows:
            return None
        x0, y0, x1, _y1 = self.paving.seen.bounds
        top = self.paving.design.string + self.targets.get(self.laid_rows, self.paving.far_face(self.laid_rows))
        part = shapely.intersection(self.paving.seen, shapely.box(x0, y0, x1, max(top, y0 + NEVER_READ)))
        return self.paving.on_site(part)

    def to_lay(self, bays: Sequence[B]) -> tuple[B, ...]:
        """Bays of a bed that are not laid on yet, but for a tenth of each."""
        return to_lay(bays, self.laid_part)

    @property
    @carried
    def rate(self) -> float | None:
        """What this crew lays here, m² a person-hour, from the hours that were counted; None where none were."""
        laid = (e for e in self._logbook.of_kind(RowsLaid).values() if self._is_of(e.layout))
        return rate(laid, self._by_row) if self.paving else None

    @property
    @carried
    def squared(self) -> tuple[RowsSquared, float] | None:
        """The triangle taped last, and how far rows as broad as the area are out of square by it, metres: forward at
        the right positive."""
        found = [e for e in self._logbook.of_kind(RowsSquared).values() if self._is_of(e.layout)]
        if not found or self.paving is None:
            return None
        last = found[-1]
        corner = angle(last.along.metres, last.across.metres, last.diagonal.metres)
        x0, _y0, x1, _y1 = self.paving.seen.bounds
        return last, off_line(corner, min(x1 - x0, SQUARED_OVER))

    def triangle(self, step: float) -> tuple[float, float, float] | None:
        """The largest 3-4-5 to tape on the first rows, along, square to it and across, in whole steps, metres."""
        if self.paving is None:
            return None
        x0, y0, x1, y1 = self.paving.seen.bounds
        return square_triangle(min(x1 - x0, LONGEST_LEG), min(y1 - y0, LONGEST_LEG), step)

    @property
    @carried
    def findings(self) -> tuple[Finding, ...]:
        """What holds the paving, and what to mind of it."""
        return tuple(self._found())

    def _found(self) -> Iterator[Finding]:
        paving, last = self.paving, self.last_taped
        if not self.is_there:
            return
        if self.chosen is None:
            yield NOT_LAID_OUT
        elif paving is None:
            yield NO_FIT
        if paving is not None:
            yield from layout_findings(
                paving, self.joints, self._bounds, wheels=self._site.brief.traffic.wheels
            )  # fmt: skip
            yield from row_findings(
                self.taped[last] if last else None, self.home(last) if last else None,
                self.squared[1] if self.squared else None,
            )  # fmt: skip
            yield from taping_findings(self.left_to_tape, squared=self.squared is not None or not self.targets)
        yield from pack_findings(self.packs, sum(each.laid for each in self.taken_off))

    @property
    def _bounds(self) -> tuple[float, float]:
        return self._site.specification.details.joint.maker_range or self._case.school.joint_bounds
