"""The solver on a bench of the workshop: it tells how far it is in a file, and stops where another is put beside
it."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any, NamedTuple

from django.conf import settings

from groundwork.week import WeekQuestion, solved, why_late
from nivelum.workshop.bench import SLOW
from nivelum.workshop.shelf import Shelf

PROPOSED = Shelf(SLOW)
SECONDS = 7.0
MOST_WHY = 2
"""Jobs that are late are asked why, the latest first."""


class ToSolve(NamedTuple):
    """A question, the files by which it tells and is told, and what is called what in it."""

    question: WeekQuestion
    told: str
    stop: str
    called: dict[str, Any]


def files(crew: str) -> tuple[Path, Path]:
    """Where the solver of a crew tells how far it is, and where it is told to stop."""
    folder = Path(settings.VAR)
    return folder / f"week-{crew}.share", folder / f"week-{crew}.stop"


def propose(asked: ToSolve) -> bytes:
    """The proposal with its reasons as JSON; run on a bench."""
    told, stop = Path(asked.told), Path(asked.stop)

    def tell(share: float, gap: float) -> bool:
        told.write_text(f"{share:.2f} {gap:.3f}", "ascii")
        return stop.exists()

    plan = solved(asked.question, SECONDS, tell) if asked.question.tasks else None
    why = {}
    if plan:
        latest = sorted((job for job, late in plan.late.items() if late), key=lambda job: -plan.late[job])
        for job in latest[:MOST_WHY]:
            if stop.exists():
                break
            if held := why_late(asked.question, job, plan.late):
                why[job] = asdict(held)
    told.unlink(missing_ok=True)
    stop.unlink(missing_ok=True)
    placed = [asdict(each) for each in plan.placed] if plan else []
    return json.dumps(
        {"placed": placed, "late": dict(plan.late) if plan else {}, "gap": plan.gap if plan else 0.0,
         "stopped": bool(plan and plan.stopped), "why": why, "told": asked.called}
    ).encode()  # fmt: skip


def percent(crew: str) -> tuple[int, int]:
    """How far it is, and by what share it may still be bettered, both in percent."""
    try:
        share, gap = files(crew)[0].read_text("ascii").split()
        return round(100 * float(share)), round(100 * float(gap))
    except (OSError, ValueError):
        return 0, 100
