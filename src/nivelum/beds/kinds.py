"""What the Bedding room records: the form that makes each kind, the leaf it is made on, and how it is told."""

from typing import Any

from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import bedwork as b
from groundwork.bedding import percent_held
from groundwork.measures import FOOT, Unit, format_amount, format_distance
from nivelum.beds.forms import CLOSED, ENDED, WAYS
from nivelum.lifts.forms.amounts import degrees_words
from nivelum.recording.kinds import Face, show
from nivelum.recording.moments import told_minute

RAILS, BAYS, MORTAR, TRIAL = "rails", "bays", "mortar", "trial"


def end_words(plan: b.RailsPlanned | None, end: str) -> str:
    """What an end of a rail is called as one looks down the fall."""
    if plan is None or plan.way == "along":
        return gettext("upper end") if end == "start" else gettext("lower end")
    return gettext("left end") if end == "start" else gettext("right end")


def _planned(entry: b.RailsPlanned, unit: Unit) -> str:
    said = gettext("rails {way}, a board of {board}")
    return said.format(way=dict(WAYS)[entry.way], board=format_distance(entry.board.metres, unit))


def _shot(entry: b.RailShot, _unit: Unit) -> str:
    end = gettext("first end") if entry.end == "start" else gettext("far end")
    return gettext("{rail}, {end}: {reading}").format(rail=entry.rail, end=end, reading=entry.reading.raw)


def _dipped(entry: b.RailDipped, unit: Unit) -> str:
    said = gettext("{rail} hangs {gap} under its string")
    return said.format(rail=entry.rail, gap=format_amount(entry.gap.metres, unit))


def _seated(entry: b.TrialSeated, unit: Unit) -> str:
    drop = format_amount(entry.before.metres - entry.after.metres, unit)
    return gettext("{where} came down {drop}").format(where=entry.where, drop=drop)


def _screeded(entry: b.BayScreeded, _unit: Unit) -> str:
    return gettext("{bay}, {at}").format(bay=entry.bay, at=told_minute(entry.at))


def _checked(entry: b.BayChecked, unit: Unit) -> str:
    along, across = (format_amount(each.metres, unit) for each in (entry.along, entry.across))
    return gettext("{bay}: {along} along, {across} across").format(bay=entry.bay, along=along, across=across)


def _closed(entry: b.BayClosed, _unit: Unit) -> str:
    return gettext("{bay}: {how}").format(bay=entry.bay, how=CLOSED[entry.how])


def mix_words(parts: float) -> str:
    """A mix as the trade says it."""
    return f"1:{parts:g}"


def _mixed(entry: b.BatchMixed, unit: Unit) -> str:
    volume = f"{entry.volume * 1000:.0f} l" if unit.is_metric else f"{entry.volume / FOOT**3:.1f} ft³"
    said = gettext("{volume} of {mix}, {at}, {degrees}")
    return said.format(volume=volume, mix=mix_words(entry.parts), at=told_minute(entry.at),
                       degrees=degrees_words(entry.celsius, unit))  # fmt: skip


def _ended(entry: b.BatchEnded, _unit: Unit) -> str:
    return str(ENDED[entry.how])


def _lifted(entry: b.FlagLifted, _unit: Unit) -> str:
    return gettext("{where}: {percent} % had hold").format(where=entry.where, percent=percent_held(entry.contact))


def _show(kind: type[b.BedWork], title: Any, words: Any, leaf: str) -> None:
    show(kind, Face(title, words, leaf=leaf))


_show(b.RailsPlanned, _("Rails planned"), _planned, RAILS)
_show(b.RailShot, _("Rail set"), _shot, RAILS)
_show(b.RailDipped, _("Rail under a string"), _dipped, RAILS)
_show(b.BayScreeded, _("Bay screeded"), _screeded, BAYS)
_show(b.BayChecked, _("Bay under the straightedge"), _checked, BAYS)
_show(b.BayClosed, _("Bay covered"), _closed, BAYS)
_show(b.BatchMixed, _("Batch mixed"), _mixed, MORTAR)
_show(b.BatchEnded, _("What became of a batch"), _ended, MORTAR)
_show(b.FlagLifted, _("Flag lifted"), _lifted, MORTAR)
_show(b.TrialSeated, _("Trial patch"), _seated, TRIAL)
