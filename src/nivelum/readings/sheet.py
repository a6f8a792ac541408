"""What travels with a job so that a reading gets its verdict without a signal: for everything that stands, and for a
level about to stand, what a reading comes to at every station of every surface. Data only: whoever holds it adds,
subtracts and compares.

It travels in pieces, each under a tag that stands for what is in it: a device says which it has, and is sent the
others. An entry changes few."""

import base64
import hashlib
import json
from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Any

from groundwork.assess import Assessment
from groundwork.base import Surface, SurfaceKey
from groundwork.levels import LONGEST_DIP, Reference
from groundwork.measures import LONGEST_ROD, Unit, format_level
from groundwork.tools import Instrument, Method
from groundwork.verdict import FAR, Outcomes
from nivelum.crews.models import Tool
from nivelum.drawing.kept import kept
from nivelum.jobs.templatetags.measures import surface_word
from nivelum.readings.forms import known_points
from nivelum.readings.hand import Hand, newest
from nivelum.readings.pad import outcomes_data

LINEAR = (Method.LASER, Method.OPTICAL, Method.STRING, Method.TAPE)
"""Methods whose readings the device can read and judge; a height meter's are left to the server."""
NEAR_ENOUGH = 10
"""Decimals of a metre that travel: a tenth of what the rules take as no difference."""


@dataclass(frozen=True)
class SheetPiece:
    """A part of a sheet as it travels, JSON, and the pieces it names."""

    tag: str
    text: str
    names: "tuple[SheetPiece, ...]" = ()


def piece(value: object, names: "Iterable[SheetPiece]" = ()) -> SheetPiece:
    text = json.dumps(value, separators=(",", ":"), ensure_ascii=False)
    digest = hashlib.sha256(text.encode()).digest()[:9]
    return SheetPiece(base64.urlsafe_b64encode(digest).decode(), text, tuple(names))


class SheetPieces:
    """The pieces a sheet names, each once."""

    def __init__(self) -> None:
        self.pieces: dict[str, SheetPiece] = {}

    def put(self, made: SheetPiece) -> str:
        """The tag of a piece, which is on the shelf from now on, with all it names."""
        if made.tag not in self.pieces:
            self.pieces[made.tag] = made
            for named in made.names:
                self.put(named)
        return made.tag


@dataclass(frozen=True)
class FieldSheet:
    """The head of a sheet, which names pieces by their tags, and these."""

    head: dict[str, Any]
    pieces: dict[str, SheetPiece]

    def text(self, has: Collection[str] = ()) -> str:
        """JSON for a device that has the pieces of these tags."""
        wanted = ",".join(f'"{tag}":{each.text}' for tag, each in self.pieces.items() if tag not in has)
        return f'{json.dumps(self.head, separators=(",", ":"), ensure_ascii=False)[:-1]},"pieces":{{{wanted}}}}}'


class OutcomeLists:
    """Lists of outcomes, each kept once and named by its place; how far they keep clear of their edges is not in
    them, so that many stations share one."""

    def __init__(self) -> None:
        self.lists: list[Outcomes] = []
        self._places: dict[Any, int] = {}
        self._same: dict[int, tuple[Outcomes, int]] = {}

    def place(self, outcomes: Outcomes) -> int:
        known = self._same.get(id(outcomes))
        if known is None or known[0] is not outcomes:
            known = self._same[id(outcomes)] = outcomes, self._place(outcomes)
        return known[1]

    def _place(self, outcomes: Outcomes) -> int:
        key = tuple((o.edge, o.standing, o.phrase, o.base, tuple(sorted(o.counts.items()))) for o in outcomes)
        if key not in self._places:
            self._places[key] = len(self._places)
            self.lists.append(outcomes)
        return self._places[key]


def field_sheet(assessment: Assessment, number: int, held: Hand, unit: Unit) -> FieldSheet:
    """The sheet of a job as it stands at entry `number`, for whoever has `held` in hand."""
    shelf = SheetPieces()
    surfaces = assessment.surveys.levelled
    stands = [
        _stand(assessment, tool, reference, surfaces, shelf)
        for tool in held.kit
        if Method(tool.method) in LINEAR
        and (anchor := newest(assessment, tool))
        and (reference := assessment.levels.references[anchor.id])
    ]
    head = {
        "number": number,
        "version": assessment.job.version,
        "unit": str(unit),
        "stations": shelf.put(_stations(assessment)),
        "surfaces": [_surface(assessment, surface, shelf) for surface in surfaces],
        "held": held.anchor.id if held.anchor else None,
        "stands": stands,
        "about": [
            _about_to_stand(assessment, tool, surfaces, shelf, unit)
            for tool in held.kit
            if Method(tool.method).has_a_line_of_sight
        ],
        "most": FAR,
    }
    return FieldSheet(head, shelf.pieces)


@kept
def _stations(assessment: Assessment) -> SheetPiece:
    return piece([station.name for station in assessment.job.stations])


def _surface(assessment: Assessment, surface: Surface, shelf: SheetPieces) -> dict[str, Any]:
    return {
        "key": surface.key,
        "word": str(surface_word(surface)),
        "remembers": surface.kind is SurfaceKey.FORMATION,
        "shot": shelf.put(_shot(assessment, surface.key)),
        "design": shelf.put(_designed(assessment, surface.key)),
    }


@kept
def _shot(assessment: Assessment, surface: str) -> SheetPiece:
    answers = assessment.surveys.of(surface).answers
    return piece([name for name, answer in answers.items() if answer.judgement.shots])


@kept
def _designed(assessment: Assessment, surface: str) -> SheetPiece:
    return piece([_short(answer.design) for answer in assessment.surveys.of(surface).answers.values()])


def _stand(
    assessment: Assessment, tool: Tool, reference: Reference, surfaces: tuple[Surface, ...], shelf: SheetPieces
) -> dict[str, Any]:
    """Something that stands: where each reading against it is nought from design, and what it comes to."""
    return {
        "id": reference.id,
        "tool": str(tool.id),
        "name": tool.name,
        "method": tool.method,
        "reach": LONGEST_ROD if Method(tool.method).has_a_line_of_sight else LONGEST_DIP,
        "surfaces": {surface.key: shelf.put(_against(assessment, surface.key, reference.id)) for surface in surfaces},
    }


def _about_to_stand(
    assessment: Assessment, tool: Tool, surfaces: tuple[Surface, ...], shelf: SheetPieces, unit: Unit
) -> dict[str, Any]:
    """A level that may be set up without a signal: by mark, how high its line of sight is where the rod reads nought
    there. Where it stands is not asked: sights are taken as long as the site."""
    marks = []
    for name, _label in known_points(assessment):
        reference = assessment.levels.about_to_stand(name, tool.instrument)
        level = assessment.levels.runs.level_of(name)
        if reference and level is not None:
            marks.append(
                {
                    "name": name,
                    "level": format_level(level, unit),
                    "height": _short(reference.height.level),
                    "surfaces": {
                        surface.key: shelf.put(table)
                        for surface in surfaces
                        if (table := _about(assessment, surface.key, name, tool.instrument))
                    },
                }
            )
    return {"tool": str(tool.id), "name": tool.name, "method": tool.method, "reach": LONGEST_ROD, "marks": marks}


Again = tuple[float, float, float, Outcomes]
"""What a further reading on the same ground comes to: offset, factor, guard, outcomes."""


@dataclass(frozen=True)
class Table:
    """What a reading comes to at every station of a surface: what most of them do, fresh and shot again on the same
    ground, what the others do by their place in the list, and how far each keeps clear of the edges; the offsets,
    None where nothing can be read."""

    usual: tuple[Outcomes, Outcomes] | None
    odd: dict[int, tuple[Outcomes, Outcomes, Again | None]]
    guards: list[float | None]
    again: list[float | None]
    offsets: list[float | None]

    def piece(self, *, offsets: bool) -> SheetPiece:
        """As it travels, its outcomes by their place among those it names; where the offsets are left out, they
        follow from the height and the design."""
        shelf = OutcomeLists()
        place = shelf.place
        found: dict[str, Any] = {
            "usual": self.usual and tuple(map(place, self.usual)),
            "odd": {
                at: [place(fresh), place(again), before and [*before[:3], place(before[3])]]
                for at, (fresh, again, before) in self.odd.items()
            },
            "guards": self.guards,
            "again": self.again,
        }
        names = [piece(outcomes_data(outcomes)) for outcomes in shelf.lists]
        found["lists"] = [each.tag for each in names]
        return piece(found | ({"offsets": self.offsets} if offsets else {}), names)


@kept
def _against(assessment: Assessment, surface: str, anchor: str) -> SheetPiece:
    """What readings come to against something that stands."""
    return _table(assessment, assessment.levels.references[anchor], surface).piece(offsets=True)


@kept
def _about(assessment: Assessment, surface: str, mark: str, instrument: Instrument) -> SheetPiece | None:
    """What readings come to against a level about to be set up on a mark."""
    reference = assessment.levels.about_to_stand(mark, instrument)
    return None if reference is None else _table(assessment, reference, surface).piece(offsets=False)


def _table(assessment: Assessment, reference: Reference, surface: str) -> Table:
    foretold, answers = assessment.targets.foretold, assessment.surveys.of(surface).answers
    shots = assessment.targets.next_shots(surface, reference)
    both = {
        like: _fresh_and_again(assessment, reference, surface, name)
        for like, name in {shot.like: name for name, shot in shots.items() if shot}.items()
    }
    alike = OutcomeLists()
    places = {like: (alike.place(fresh), alike.place(again)) for like, (fresh, again) in both.items()}
    counted = Counter(places[shot.like] for shot in shots.values() if shot)
    most = counted.most_common(1)[0][0] if counted else None
    odd: dict[int, tuple[Outcomes, Outcomes, Again | None]] = {}
    for at, (name, shot) in enumerate(shots.items()):
        if shot:
            same = foretold(name, surface, reference, True) if answers[name].judgement.shots else None
            if places[shot.like] != most or same:
                before = (same.offset, same.factor, same.guard, same.outcomes) if same else None
                odd[at] = *both[shot.like], before
    return Table(
        next((both[like] for like, place in places.items() if place == most), None),
        odd,
        _shared([_short(shot.once if shot else None) for shot in shots.values()]),
        _shared([_short(shot.again if shot else None) for shot in shots.values()]),
        [_short(shot.offset if shot else None) for shot in shots.values()],
    )


def _fresh_and_again(
    assessment: Assessment, reference: Reference, surface: str, station: str
) -> tuple[Outcomes, Outcomes]:
    """What the next reading at a station comes to, and the one after it on the same ground; nothing where none can be
    read."""
    found = (assessment.targets.foretold(station, surface, reference, *how) for how in ((False,), (True, (0.0,))))
    fresh, again = (each.outcomes if each else () for each in found)
    return fresh, again


def _short(metres: float | None) -> float | None:
    return None if metres is None else round(metres, NEAR_ENOUGH)


def _shared(values: list[float | None]) -> list[float | None]:
    """One for all, where they are all alike."""
    return values[:1] if len(set(values)) == 1 else values
