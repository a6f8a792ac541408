"""What travels with a job so that a reading gets its verdict without a signal: for everything that stands, and for a
level about to stand, what a reading comes to at every station of every surface. Data only: whoever holds it adds,
subtracts and compares."""

from collections.abc import Callable
from typing import Any

from groundwork.assess import Assessment
from groundwork.base import Surface
from groundwork.foretold import FAR, Foretold
from groundwork.kit import Method
from groundwork.measure import LONGEST_ROD, Unit, format_level
from groundwork.references import LONGEST_DIP, Reference
from nivelum.crews.models import Tool
from nivelum.jobs.templatetags.measures import surface_word
from nivelum.readings.forms import known_points
from nivelum.readings.hand import Hand, newest
from nivelum.readings.pad import table_data

LINEAR = (Method.LASER, Method.OPTICAL, Method.STRING, Method.TAPE)
"""Methods whose readings the device can read and judge; a height meter's are left to the server."""
NEAR_ENOUGH = 10
"""Decimals of a metre that travel: a tenth of what the rules take as no difference."""


class Shelf:
    """Outcome lists, each kept once and named by its place."""

    def __init__(self) -> None:
        self.lists: list[list[dict[str, Any]]] = []
        self._places: dict[Any, int] = {}

    def place(self, table: Foretold) -> int:
        key = tuple((o.over, o.standing, o.phrase, o.base, tuple(sorted(o.counts.items()))) for o in table.outcomes)
        if key not in self._places:
            self._places[key] = len(self.lists)
            self.lists.append(table_data(table)["outcomes"])
        return self._places[key]


def field_sheet(assessment: Assessment, number: int, held: Hand, unit: Unit) -> dict[str, Any]:
    """The sheet of a job as it stands at entry `number`, for whoever has `held` in hand."""
    shelf = Shelf()
    surfaces = assessment.surfaces
    stands = [
        _stand(assessment, tool, reference, surfaces, shelf)
        for tool in held.kit
        if Method(tool.method) in LINEAR
        and (anchor := newest(assessment, tool))
        and (reference := assessment.references[anchor.id])
    ]
    return {
        "number": number,
        "version": assessment.job.version,
        "unit": str(unit),
        "stations": [station.name for station in assessment.stations],
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
    survey = assessment.survey(surface.key)
    return {
        "key": surface.key,
        "word": str(surface_word(surface)),
        "shot": [name for name, answer in survey.answers.items() if answer.judgement.shots],
        "design": [round(answer.design, NEAR_ENOUGH) for answer in survey.answers.values()],
    }


def _stand(
    assessment: Assessment, tool: Tool, reference: Reference, surfaces: tuple[Surface, ...], shelf: Shelf
) -> dict[str, Any]:
    """Something that stands: where each reading against it is nought from design, and what it comes to."""
    tables = _tables(assessment, reference, surfaces, shelf, lambda table: round(table.offset, NEAR_ENOUGH))
    return {
        "id": reference.id,
        "tool": str(tool.id),
        "name": tool.name,
        "method": tool.method,
        "reach": LONGEST_ROD if Method(tool.method).has_a_line_of_sight else LONGEST_DIP,
        "surfaces": tables,
    }


def _about_to_stand(
    assessment: Assessment, tool: Tool, surfaces: tuple[Surface, ...], shelf: Shelf, unit: Unit
) -> dict[str, Any]:
    """A level that may be set up without a signal: by mark, how high its line of sight is where the rod reads nought
    there. Where it stands is not asked: sights are taken as long as the site."""
    marks = []
    for name, _label in known_points(assessment):
        reference = assessment.about_to_stand(name, tool.instrument)
        level = assessment.runs.level_of(name)
        if reference and level is not None:
            marks.append(
                {
                    "name": name,
                    "level": format_level(level, unit),
                    "height": round(reference.height.level, NEAR_ENOUGH),
                    "surfaces": _tables(assessment, reference, surfaces, shelf, None),
                }
            )
    return {"tool": str(tool.id), "name": tool.name, "method": tool.method, "reach": LONGEST_ROD, "marks": marks}


def _tables(
    assessment: Assessment, reference: Reference, surfaces: tuple[Surface, ...], shelf: Shelf,
    offset: Callable[[Foretold], float] | None,
) -> dict[str, Any]:  # fmt: skip
    """By surface: the outcomes of most stations, those of the others by their place in the list, and the offsets,
    None where nothing can be read; without `offset` they follow from the height and the design."""
    found: dict[str, dict[str, Any]] = {}
    for surface in surfaces:
        answers = assessment.survey(surface.key).answers
        fresh = {name: assessment.foretold(name, surface.key, reference) for name in answers}
        places = {name: shelf.place(table) for name, table in fresh.items() if table}
        usual = max(set(places.values()), key=list(places.values()).count, default=None)
        odd: dict[int, list[Any]] = {}
        for at, (name, answer) in enumerate(answers.items()):
            table, same = fresh[name], None
            if answer.judgement.shots:
                same = assessment.foretold(name, surface.key, reference, same_ground=True)
            factor = table and round(table.factor, NEAR_ENOUGH)
            if table and (places[name] != usual or same or factor != -1.0):
                again = [same.offset, same.factor, shelf.place(same)] if same else None
                odd[at] = [factor, places[name], again]
        found[surface.key] = {"usual": usual, "odd": odd}
        if offset:
            found[surface.key]["offsets"] = [table and offset(table) for table in fresh.values()]
    return found
