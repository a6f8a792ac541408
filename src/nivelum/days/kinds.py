"""What the Days room records, and how it is told."""

from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import daywork as d
from groundwork.measures import Unit, format_celsius
from nivelum.days.forms import DayWasForm, PromisedForm, TaskMovedForm, ThermometerForm
from nivelum.days.words import day_words, part_words
from nivelum.recording.kinds import Face, show
from nivelum.recording.moments import told_minute

SETS, PLAN = "setting", "programme"
WHERE = {d.Thermometer.AIR: _("in the air"), d.Thermometer.CONCRETE: _("in the concrete")}


def _read(entry: d.ThermometerRead, unit: Unit) -> str:
    said = gettext("{t} {where}, {at}")
    return said.format(t=format_celsius(entry.celsius, unit), where=WHERE[entry.of], at=told_minute(entry.at))


def _was(entry: d.DayWas, unit: Unit) -> str:
    said = gettext("{day}: {least} to {most}").format(
        day=day_words(entry.on), least=format_celsius(entry.least, unit), most=format_celsius(entry.most, unit)
    )
    return f"{said} ({entry.said})" if entry.said else said


def _moved(entry: d.TaskMoved, _unit: Unit) -> str:
    task = part_words(entry.task)
    if entry.not_before is None:
        return gettext("{task}: whenever it comes to it").format(task=task)
    said = gettext("{task}: not before {day}").format(task=task, day=day_words(entry.not_before))
    return f"{said}: {entry.because}" if entry.because else said


def _promised(entry: d.Promised, _unit: Unit) -> str:
    if entry.day is None:
        return gettext("nothing is promised any more")
    said = gettext("done by {day}").format(day=day_words(entry.day))
    return f"{said}, {entry.to}" if entry.to else said


show(d.ThermometerRead, Face(_("thermometer"), _read, form=ThermometerForm, leaf=SETS, first="degrees"))
show(d.DayWas, Face(_("the day’s warmth"), _was, form=DayWasForm, leaf=SETS, first="least"))
show(d.TaskMoved, Face(_("task moved"), _moved, form=TaskMovedForm, leaf=PLAN, first="not_before"))
show(d.Promised, Face(_("promised"), _promised, is_weighty=True, form=PromisedForm, leaf=PLAN, first="day"))
