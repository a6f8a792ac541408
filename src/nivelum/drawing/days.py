"""A programme as courses of days: each week a course, each day a stone of it; the sky over the day's work, what sets
under it, a stake where it is likely done."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.utils.formats import date_format
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.programme import PlannedTask, Programme, WorkingTime
from groundwork.weather import Forecast
from nivelum.drawing.pen import Element, add, finished, path, sheet

STONE, TALL, GAP = 60.0, 104.0, 3.0
HEAD, SKY, WORK, SETS = 16.0, 20.0, 46.0, 78.0
"""Where in a stone its day stands, its rain begins, its work, and what sets."""
MOST_WEEKS = 16
SHOWN_CHANCE = 0.15
LETTER, LINE = 6.2, 8.8
"""How wide a letter is, and how tall a line of what stands at a stake."""


@dataclass(frozen=True)
class WrittenStage:
    """A stage as it is written in a stone."""

    title: str
    number: int


def programme_drawing(
    found: Programme, courses: Mapping[str, WrittenStage], working: WorkingTime, forecast: Forecast | None,
    promised: date | None,
) -> SafeString:  # fmt: skip
    """A programme from today to its late end."""
    first = found.now.date() - timedelta(days=found.now.weekday())
    ends = [each for each in (found.late, found.likely) if each] or [found.now]
    days = [max(ends).date(), *([promised] if promised else [])]
    weeks = min((max(days) - first).days // 7 + 1, MOST_WEEKS)
    root = sheet(7 * STONE, weeks * TALL, _("The programme: a course a week, a stone a day"), "courses")
    draw = _Stones(root, first, weeks, working, found.now)
    for n in range(weeks * 7):
        draw.stone(first + timedelta(days=n))
    if forecast:
        draw.rain(forecast)
    for number, task in enumerate(found.tasks, 1):
        draw.work(number, task, courses[task.task.stage])
    draw.sets(found)
    ends_at = {"late": (_("late"), found.late), "likely": (_("done"), found.likely),
               "promised": (_("promised"), working.closes(promised) if promised else None)}  # fmt: skip
    draw.stakes({css: (words, at) for css, (words, at) in ends_at.items() if at})
    return finished(root)


class _Stones:
    """The courses under way."""

    def __init__(self, root: Element, first: date, weeks: int, working: WorkingTime, now: datetime) -> None:
        self.root, self.first, self.weeks, self.working, self.now = root, first, weeks, working, now

    def corner(self, day: date) -> tuple[float, float] | None:
        """Where a day's stone begins; None where it is not drawn."""
        n = (day - self.first).days
        return (n % 7 * STONE, n // 7 * TALL) if 0 <= n < self.weeks * 7 else None

    def across(self, at: datetime) -> float:
        """How far across a stone a moment of its working day is."""
        opens = self.working.opens(at.date())
        share = (at - opens) / (self.working.closes(at.date()) - opens)
        return GAP + min(max(share, 0.0), 1.0) * (STONE - 2 * GAP)

    def stone(self, day: date) -> None:
        x, y = self.corner(day) or (0.0, 0.0)
        is_today, works = day == self.now.date(), self.working.works(day)
        css = (
            f"stone{' today' if is_today else ''}{'' if works else ' off'}{' gone' if day < self.now.date() else ''}"
        )
        add(self.root, "rect", class_=css, x=x + 1, y=y + 1, width=STONE - 2, height=TALL - 6, rx=2)
        words = date_format(day, "D j" if day.day > 1 and day != self.first else _("j M"))
        add(self.root, "text", words, class_="day", x=x + GAP + 1, y=y + HEAD - 2)

    def rain(self, forecast: Forecast) -> None:
        """Rain hangs down from the top of its hours, the further the likelier."""
        for hour in forecast.hours:
            corner = self.corner(hour.at.date())
            opens, closes = self.working.opens(hour.at.date()), self.working.closes(hour.at.date())
            if corner is None or hour.chance < SHOWN_CHANCE or not opens <= hour.at < closes or hour.at < self.now - (
                timedelta(hours=1)
            ):  # fmt: skip
                continue
            x, until = self.across(hour.at), self.across(min(hour.at + timedelta(hours=1), closes))
            long = hour.chance * (WORK - SKY - 2)
            add(self.root,
            "rect", class_="falls", x=corner[0] + x, y=corner[1] + SKY, width=max(until - x - 0.6, 0.8),
                height=long)  # fmt: skip

    def work(self, number: int, task: PlannedTask, course: WrittenStage) -> None:
        if task.begins is None:
            return
        for first, last in self._spans(task.begins, task.ends or task.begins + timedelta(days=7)):
            corner = self.corner(first.date())
            if corner is None:
                return
            x, until = self.across(first), self.across(last)
            broad = max(until - x, 1.5)
            add(self.root, "rect", class_=f"work c{course.number % 2}", x=corner[0] + x, y=corner[1] + WORK,
                width=broad, height=SETS - WORK - 6)  # fmt: skip
            numbered = f"{number} {course.title}"
            fits = broad - 3 > LETTER * len(numbered)
            words = numbered if fits else str(number) if broad > LETTER * len(str(number)) + 2 else ""
            if words:
                add(self.root, "text", words, class_=f"of c{course.number % 2}", x=corner[0] + x + 2,
                    y=corner[1] + WORK + 17)  # fmt: skip

    def sets(self, found: Programme) -> None:
        """A chalk line under the days on which something sets."""
        for task in found.tasks:
            if task.lost_to_setting < 1 or not task.sets_after or task.begins is None:
                continue
            before = found.of(task.sets_after)
            self._line(before.ends if before and before.ends else found.now, task.begins)

    def _line(self, since: datetime, until: datetime) -> None:
        day, said = since.date(), False
        while day <= until.date():
            corner = self.corner(day)
            if corner is None:
                return
            x = self.across(since) if day == since.date() else 0.0
            to = self.across(until) if day == until.date() else STONE
            add(self.root, "path", class_="sets", d=path([(corner[0] + x, corner[1] + SETS), (corner[0] + to,
                corner[1] + SETS)]))  # fmt: skip
            if not said and to - x > 4 * LETTER:
                add(self.root, "text", _("sets"), class_="what", x=corner[0] + x + 3, y=corner[1] + SETS - 1)
                said = True
            day += timedelta(days=1)

    def stakes(self, ends: Mapping[str, tuple[str, datetime]]) -> None:
        """Where it ends; words of one day stand one over the other."""
        written = dict[date, int]()
        for css, (words, at) in ends.items():
            line = written[at.date()] = written.get(at.date(), -1) + 1
            self._stake(css, words, at, line)

    def _stake(self, css: str, words: str, at: datetime, line: int) -> None:
        corner = self.corner(at.date())
        if corner is None:
            return
        x, y = corner[0] + self.across(at), corner[1]
        add(self.root, "path", class_=f"stake {css}", d=path([(x, y + HEAD + 3), (x, y + TALL - 6)]))
        is_right = self.across(at) > STONE / 2
        add(self.root, "text", words, class_=f"end {css}", x=x - 2 if is_right else x + 2,
            y=y + TALL - 8 - line * LINE, text_anchor="end" if is_right else "start")  # fmt: skip

    def _spans(self, begins: datetime, ends: datetime) -> Sequence[tuple[datetime, datetime]]:
        """The stretches of working days that a task takes."""
        found, day = list[tuple[datetime, datetime]](), begins.date()
        while day <= ends.date():
            first = max(begins, self.working.opens(day))
            last = min(ends, self.working.closes(day))
            if self.working.works(day) and last > first:
                found.append((first, last))
            day += timedelta(days=1)
        return found
