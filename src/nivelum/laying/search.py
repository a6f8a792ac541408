"""The best layouts, looked for on a bench of the workshop while the page says how far it is."""

import json
import math
from dataclasses import asdict
from pathlib import Path
from typing import NamedTuple

import shapely
from django.conf import settings

from groundwork.job import Job
from groundwork.layouts import Choice, design_of, searched
from groundwork.laywork import LayoutChosen
from groundwork.pattern import Border, BorderCorner, BorderCourse, PavingDesign, PavingUnit, pattern
from nivelum.workshop.bench import SLOW
from nivelum.workshop.shelf import InTheMaking, Shelf

LOOKED = Shelf(SLOW)


class Asked(NamedTuple):
    """What is looked for, as a process of its own can be given it; it tells how far it is in a file."""

    area: bytes
    pattern: str
    seed: int
    unit: tuple[float, float, float]
    border: tuple[str, str]
    at: tuple[float, float]
    along: float
    turned: float
    told: str


class Looked(NamedTuple):
    """The best layouts, where they are found; else what is in the making, and the percent of it that is done."""

    choices: tuple[Choice, ...]
    making: InTheMaking | None = None
    percent: int = 0


def best(job: Job, job_id: str, chosen: LayoutChosen) -> Looked:
    """The best layouts of the pattern, unit and border that were typed. Raises `Busy`, `TooMuch`."""
    design = design_of(job, chosen)
    unit, border = design.unit, design.border
    area = shapely.to_wkt(job.area, rounding_precision=6)
    of = repr((area, chosen.pattern, chosen.seed, unit, border, design.at, design.turned))
    told = str(Path(settings.VAR) / f"looked-{job_id}.share")
    asked = Asked(
        shapely.to_wkb(job.area), chosen.pattern, chosen.seed, (unit.length, unit.width, unit.joint),
        (border.course.value, border.corner.value), design.at, design.along, design.turned % (math.pi / 2), told,
    )  # fmt: skip
    found = LOOKED.get(f"layout {job_id}", of, lambda: asked, looked)
    if isinstance(found, InTheMaking):
        return Looked((), found, _percent(told))
    return Looked(tuple(Choice(**each) for each in json.loads(found)))


def _percent(told: str) -> int:
    try:
        return round(100 * float(Path(told).read_text("ascii")))
    except (OSError, ValueError):
        return 0


def looked(asked: Asked) -> bytes:
    """The best layouts as JSON; run on a bench."""
    design = PavingDesign(
        pattern(asked.pattern, asked.seed), PavingUnit(*asked.unit),
        Border(BorderCourse(asked.border[0]), BorderCorner(asked.border[1])), asked.at, asked.along, asked.turned,
    )  # fmt: skip
    file = Path(asked.told)
    area = shapely.from_wkb(asked.area)
    if not isinstance(area, shapely.Polygon):
        raise TypeError(area)
    found = searched(area, design, tell=lambda share: _tell(file, share))
    file.unlink(missing_ok=True)
    return json.dumps([asdict(each) for each in found]).encode()


def _tell(file: Path, share: float) -> None:
    file.write_text(f"{share:.2f}", "ascii")
