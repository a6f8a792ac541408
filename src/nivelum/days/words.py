"""Days and tasks as people say them."""

from datetime import date, datetime, timedelta
from typing import Any

from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork.programme import Holding, PlanTask
from nivelum.money.shown import stage_title

WORK = {
    "go": _("go"), "go with": _("go, with"), "wait": _("wait"),
}  # fmt: skip
BESIDE = {
    "sheet": _("a sheet over what is open"), "sheet at hand": _("a sheet at hand"),
    "cover": _("a cover for the night"),
    "insulate": _("insulation for the night"), "shade": _("shade and a sheet"),
    "windbreak": _("a windbreak, mist and a sheet"), "small batches": _("smaller batches, in the shade"),
}  # fmt: skip
HELD = {
    Holding.WEATHER: _("{task}: the weather"), Holding.SETTING: _("{task}: until what is under it has set"),
    Holding.MOVED: _("{task}: its day"), Holding.PACE: _("{task}: a slower pace"),
}  # fmt: skip


def day_words(day: date) -> str:
    """A day as people say it."""
    return date_format(day, gettext("D j M"))


def when_words(at: datetime) -> str:
    """An hour of a day; the hour alone where it is today's, to the quarter that it is not before."""
    over = timedelta(minutes=-at.minute % 15, seconds=-at.second)
    at = at + over if over > timedelta() else at
    hour = date_format(at, gettext("H:i"))
    return hour if at.date() == timezone.localdate() else f"{day_words(at)}, {hour}"


def half_day_words(at: datetime | None) -> str:
    """A half of a day: a programme knows no better; of what is beyond all that is looked at nothing."""
    if at is None:
        return "—"
    half = (
        gettext("in the morning")
        if at.hour < 12 or (at.hour == 12 and not at.minute)
        else gettext("in the afternoon")
    )
    return f"{day_words(at)}, {half}"


def part_words(key: str) -> str:
    """A task by its key: its stage, and which part of it."""
    stage, _dot, part = key.partition(".")
    return gettext("{stage}, part {n}").format(stage=stage_title(stage), n=part) if part else stage_title(stage)


def task_words(task: PlanTask, unit: Any) -> str:
    """A task: its stage, and what of it."""
    title = stage_title(task.stage)
    return f"{title}, {task.says.text(unit, gettext)}" if task.says else title


def hours_words(by: timedelta) -> str:
    """How long that is: hours, or days."""
    hours = abs(by) / timedelta(hours=1)
    if hours < 20:
        n = max(round(hours), 1)
        return (gettext("{n} hour") if n == 1 else gettext("{n} hours")).format(n=n)
    n = round(hours / 24)
    return (gettext("{n} day") if n == 1 else gettext("{n} days")).format(n=n)


def age_words(age: timedelta) -> str:
    """How old something is."""
    if age < timedelta(minutes=50):
        return gettext("new")
    return gettext("{age} old").format(age=hours_words(age))
