"""What travels with a job so that a reading gets its verdict without a signal: for everything that stands, and for a
level about to stand, what a reading comes to at every station of every surface. Data only: whoever holds it adds,
subtracts and compares."""

from typing import Any

from groundwork.assess import Assessment
from groundwork.base import Surface, SurfaceKey
from groundwork.levels import LONGEST_DIP, Reference
from groundwork.measures import LONGEST_ROD, Unit, format_level
from groundwork.tools import Method
from groundwork.verdict import FAR, Foretold, Outcomes
from nivelum.crews.models import Tool
from nivelum.jobs.templatetags.measures import surface_word
from nivelum.readings.forms import known_points
from nivelum.readings.hand import Hand, newest
from nivelum.readings.pad import table_data

LINEAR = (Method.LASER, Method.OPTICAL, Method.STRING, Method.TAPE)
"""Methods whose readings the device can read and judge; a height meter's are left to the server."""
NEAR_ENOUGH = 10
"""Decimals of a metre that travel: a tenth of what the rules take as no difference."""


class OutcomeLists:
    """Lists of outcomes, each kept once and named by its place; how far they keep clear of their edges is not in
    them, so that many stations share one."""

    def __init__(self) -> None:
        self.lists: list[list[dict[str, Any]]] = []
        self._places: dict[Any, int] = {}
        self._same: dict[int, tuple[Outcomes, int]] = {}

    def place(self, table: Foretold) -> int:
        known = self._same.get(id(table.outcomes))
        if known is None or known[0] is not table.outcomes:
            known = self._same[id(table.outcomes)] = table.outcomes, self._place(table)
        return known[1]

    def _place(self, table: Foretold) -> int:
        key = tuple((o.edge, o.standing, o.phrase, o.base, tuple(sorted(o.counts.items()))) for o in table.outcomes)
        if key not in self._places:
            self._places[key] = len(self.lists)
            self.lists.append(table_data(table)["outcomes"])
        return self._places[key]


def field_sheet(assessment: Assessment, number: int, held: Hand, unit: Unit) -> dict[str, Any]:
    """The sheet of a job as it stands at entry `number`, for whoever has `held` in hand."""
    shelf = OutcomeLists()
    surfaces = assessment.surveys.levelled
    stands = [
        _stand(assessment, tool, reference, surfaces, shelf)
        for tool in held.kit
        if Method(tool.method) in LINEAR
        and (anchor := newest(assessment, tool))
        and (reference := assessment.levels.references[anchor.id])
    ]
    return {
        "number": number,
        "version": assessment.job.version,
        "unit": str(unit),
        "stations": [station.name for station in assessment.job.stations],
        "surfaces": [_surface(assessment, surface) for surface in surfaces],
        "held": held.anchor.id if held.anchor else None,
        "stands": stands,
        "about": [
            _about_to_stand(assessment, tool, surfaces, shelf, unit)
            for tool in held.kit
            if Method(tool.method).has_a_line_of_sight
        ],
        "outcomes": shelf.lists,
        "most": FAR,
    }


def _surface(assessment: Assessment, surface: Surface) -> dict[str, Any]:
    survey = assessment.surveys.of(surface.key)
    return {
        "key": surface.key,
        "word": str(surface_word(surface)),
        "remembers": surface.kind is SurfaceKey.FORMATION,
        "shot": [name for name, answer in survey.answers.items() if answer.judgement.shots],
        "design": [_short(answer.design) for answer in survey.answers.values()],
    }


def _stand(
    assessment: Assessment, tool: Tool, reference: Reference, surfaces: tuple[Surface, ...], shelf: OutcomeLists
) -> dict[str, Any]:
    """Something that stands: where each reading against it is nought from design, and what it comes to."""
    tables = _tables(assessment, reference, surfaces, shelf, offsets=True)
    return {
        "id": reference.id,
        "tool": str(tool.id),
        "name": tool.name,
        "method": tool.method,
        "reach": LONGEST_ROD if Method(tool.method).has_a_line_of_sight else LONGEST_DIP,
        "surfaces": tables,
    }


def _about_to_stand(
    assessment: Assessment, tool: Tool, surfaces: tuple[Surface, ...], shelf: OutcomeLists, unit: Unit
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
                    "surfaces": _tables(assessment, reference, surfaces, shelf, offsets=False),
                }
            )
    return {"tool": str(tool.id), "name": tool.name, "method": tool.method, "reach": LONGEST_ROD, "marks": marks}


def _tables(
    assessment: Assessment, reference: Reference, surfaces: tuple[Surface, ...], shelf: OutcomeLists, *, offsets: bool
) -> dict[str, Any]:
    """By surface: what most stations come to, fresh and shot again on the same ground, what the others do by their
    place in the list, how far each keeps clear of the edges; and the offsets, None where nothing can be read, which
    where they are left out follow from the height and the design."""
    return {surface.key: _table(assessment, reference, surface.key, shelf, offsets) for surface in surfaces}


def _table(
    assessment: Assessment, reference: Reference, surface: str, shelf: OutcomeLists, offsets: bool
) -> dict[str, Any]:
    survey = assessment.surveys.of(surface)
    answers = survey.answers
    # A level about to stand is as sure of one place as of another: without offsets, places that have seen the same
    # come to the same.
    like = {name: name if offsets else survey.accounts[name].closed for name in answers}
    asked = {seen: name for name, seen in like.items()}
    both = {seen: _fresh_and_again(assessment, reference, surface, name) for seen, name in asked.items()}
    fresh = {name: both[seen][0] for name, seen in like.items()}
    again = {name: both[seen][1] for name, seen in like.items()}
    places = {
        name: (shelf.place(table), shelf.place(twice))
        for name, table in fresh.items()
        if table and (twice := again[name])
    }
    usual = max(set(places.values()), key=list(places.values()).count, default=None)
    odd: dict[int, list[Any]] = {}
    for at, (name, answer) in enumerate(answers.items()):
        same = assessment.targets.foretold(name, surface, reference, True) if answer.judgement.shots else None
        if name in places and (places[name] != usual or same):
            before = [same.offset, same.factor, same.guard, shelf.place(same)] if same else None
            odd[at] = [*places[name], before]
    found = {
        "usual": usual,
        "odd": odd,
        "guards": _shared([_short(table.guard if table else None) for table in fresh.values()]),
        "again": _shared([_short(table.guard if table else None) for table in again.values()]),
    }
    return found | (
        {"offsets": [_short(table.offset if table else None) for table in fresh.values()]} if offsets else {}
    )


def _fresh_and_again(
    assessment: Assessment, reference: Reference, surface: str, station: str
) -> tuple[Foretold | None, Foretold | None]:
    """What the next reading at a station comes to, and the one after it on the same ground."""
    fresh = assessment.targets.foretold(station, surface, reference)
    return fresh, fresh and assessment.targets.foretold(station, surface, reference, True, (0.0,))


def _short(metres: float | None) -> float | None:
    return None if metres is None else round(metres, NEAR_ENOUGH)


def _shared(values: list[float | None]) -> list[float | None]:
    """One for all, where they are all alike."""
    return values[:1] if len(set(values)) == 1 else values
