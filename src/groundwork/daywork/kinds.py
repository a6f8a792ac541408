"""How warm it was and how much it rained, the day that was promised, a task that is not begun before a day."""

from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Annotated

from annotated_types import Interval, doc

from groundwork.kinds import Circumstances, Entry, Key, Line, Wrong, no_day, no_minute
from groundwork.measures import Words


class Thermometer(StrEnum):
    """Where a thermometer hangs or stands."""

    AIR = "air"
    CONCRETE = "concrete"


class DayWork(Entry):
    """Something of the days a job takes."""


@dataclass(frozen=True)
class ThermometerRead(DayWork, kind="thermometer"):
    """What a thermometer read, °C: in the air, or in the concrete."""

    at: datetime
    celsius: Annotated[float, "celsius", Interval(ge=-40, le=60)]
    of: Thermometer = Thermometer.AIR

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_minute("at", self.at)


@dataclass(frozen=True)
class DayWas(DayWork, kind="day_was"):
    """The least and the most °C of a day and the rain that fell, mm; the newest of a day counts. `said` is who says
    so, where no thermometer on site does."""

    on: date
    least: Annotated[float, "least_celsius", Interval(ge=-40, le=60)]
    most: Annotated[float, "most_celsius", Interval(ge=-40, le=60)]
    rain: Annotated[float, "rain_mm", Interval(ge=0, le=500)] = 0.0
    said: Line = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.most < self.least:
            return Wrong("most", Words("the most is no less than the least"))
        return no_day("on", self.on)


@dataclass(frozen=True)
class TaskMoved(DayWork, kind="task_moved"):
    """A task is not begun before a day, or may be whenever it comes to it: the newest of a task counts."""

    task: Annotated[Key, doc("A stage, or a part of it as laying.2.")]
    not_before: date | None = None
    because: Line = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        stage = self.task.partition(".")[0]
        if there.is_now and there.asks(stage) is None:
            return Wrong("task", Words("no task of this job"))
        return no_day("not_before", self.not_before) if self.not_before else None


@dataclass(frozen=True)
class Promised(DayWork, kind="promised"):
    """The day by which it was promised to be done; none where that was taken back. The newest counts."""

    day: date | None = None
    to: Line = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_day("day", self.day) if self.day else None
