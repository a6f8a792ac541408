"""The record told as a site diary: what was done, in a line each, like things together."""

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from html import unescape
from typing import Any

from django.utils import timezone
from django.utils.html import format_html, strip_tags
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork import layerwork as w
from groundwork.entries import KINDS, entry_value
from groundwork.layerwork import Work
from groundwork.measures import Unit, format_amount, format_mass, format_volume
from groundwork.schools import schools, stagebook
from nivelum.jobs.models import Entry, Kind
from nivelum.jobs.services import CLOCK_WRONG
from nivelum.jobs.templatetags.measures import stacked, told

Body = dict[str, Any]
LATE = timedelta(minutes=5)
"""A device's time further than this from the server's is told."""


@dataclass
class Line:
    """Like entries that follow each other, made by one person: what they were, and each in its own words. `weighty`
    ones stand out: they decide something. `clock` is what that clock said
    where it cannot be right; `by_device` is when the first was made by its device's clock, where that is
    not when it arrived: it waited for a signal, or the clock is wrong."""

    at: datetime
    by: str
    what: str
    entries: list[tuple[int, SafeString]] = field(default_factory=list)
    weighty: bool = False
    by_device: datetime | None = None
    clock: str = ""

    @property
    def said(self) -> list[tuple[SafeString, int]]:
        """What was said, in order, and how often the very same was."""
        return list(Counter(words for _number, words in self.entries).items())


def days(entries: Iterable[Entry], unit: Unit) -> dict[date, list[Line]]:
    """The diary, day by day in the site's time."""
    found: dict[date, list[Line]] = {}
    last: tuple[Any, ...] | None = None
    for entry in entries:
        day = timezone.localtime(entry.at).date()
        what, words, weighty = _told(entry, unit)
        late = entry.device_at if entry.device_at and abs(entry.at - entry.device_at) > LATE else None
        clock = str(entry.body.get(CLOCK_WRONG, ""))[:16].replace("T", " ")
        key = (day, entry.by_id, what, late is None and not clock)
        if key != last or weighty:
            line = Line(entry.at, entry.by_name, what, weighty=weighty, by_device=late, clock=clock)
            found.setdefault(day, []).append(line)
        found[day][-1].entries.append((entry.number, words))
        last = key
    return found


def _told(entry: Entry, unit: Unit) -> tuple[str, SafeString, bool]:
    """What an entry belongs under, its own words, and whether it decides something."""
    kind, body = entry.kind, entry.body
    if kind in WEIGHTY:
        return *WEIGHTY[kind](body), True
    value = entry_value(kind, str(entry.id), body) if kind in KINDS else None
    if isinstance(value, Work):
        return _of_work(kind, body), _work_told(value, unit), False
    what, words = PLAIN[kind]
    shown = {key: _shown(each) for key, each in body.items()}
    shown |= {"stage": _stage(body.get("stage", "")), "check": _check(body)}
    asks = _asks(body)
    subject = str(what).format(surface=body.get("surface", ""), stage=shown["stage"])
    return subject, stacked(str(words).format_map(_Blank(shown | {"asks": asks})).strip(" .")), False


def told_plainly(entry: Entry, unit: Unit) -> str:
    """An entry in one line of plain text."""
    what, words, _weighty = _told(entry, unit)
    return f"{what}: {unescape(strip_tags(words))}"


def _work_told(value: Work, unit: Unit) -> SafeString:
    """What was done to a layer; what has no short words of its own in the lifts room has some here."""
    match value:
        case w.MachineBrought():
            return stacked(value.machine.name)
        case w.LaboratoryTest():
            return stacked(_("{material}, {n} points").format(material=value.material, n=len(value.moistures)))
        case w.SoftSpot():
            deep = format_amount(value.depth.metres, unit)
            return stacked(_("{name}, {depth} deep").format(name=value.name, depth=deep))
        case w.Cured():
            return stacked(str(value.how))
        case w.Delivered():
            came = {"n": value.ticket, "mass": format_mass(value.mass, unit), "material": value.material}
            return stacked(_("ticket {n}: {mass} of {material}").format(**came))
        case w.Poured():
            return stacked(_("{volume}, ticket {n}").format(volume=format_volume(value.volume, unit), n=value.ticket))
        case w.Competent():
            return stacked(f"{value.by}, {value.role}: {value.words}")
    return told(value, unit)


def _of_work(kind: str, body: Body) -> str:
    named = str(Kind(kind).label)
    return f"{named}, {body['lift']}" if "lift" in body else named


def _shown(value: Any) -> Any:
    """A length as it was typed, anything else as it is."""
    return value["typed"] if isinstance(value, dict) and "typed" in value else value


class _Blank(dict[str, Any]):
    """What is left out of a body is left out of its words."""

    def __missing__(self, key: str) -> str:
        return ""


def _stage(key: str) -> str:
    return _(stagebook()[key].name) if key in stagebook() else key


def _check(body: Body) -> str:
    stage = stagebook().get(body.get("stage", ""))
    return next((_(c.title) for c in (stage.checks if stage else ()) if c.key == body.get("check")), "")


def _asks(body: Body) -> str:
    stage = stagebook().get(body.get("stage", ""))
    rows = [*(stage.asks if stage else ())]
    rows += [a for school in schools().values() for a in school.asks.get(body.get("stage", ""), ())]
    return next((_(a.asks) for a in rows if a.key == body.get("ask")), "")


def _sign_off(body: Body) -> tuple[str, SafeString]:
    how = (
        _("by PIN")
        if body.get("proof", {}).get("by") == "pin"
        else (_("by a link") if body.get("proof", {}).get("by") == "link" else _("in their own session"))
    )
    slot = _(body.get("slot", "lead"))
    return _("Signed: {stage}").format(stage=_stage(body["stage"])), format_html("{}, {}", slot, how)


def _acceptance(body: Body) -> tuple[str, SafeString]:
    return (
        _("Accepted, as {role}: {stage}").format(role=_(body["role"]), stage=_stage(body["stage"])),
        format_html("{} “{}”", body["finding"], body["reason"]),
    )


def _withdrawal(body: Body) -> tuple[str, SafeString]:
    return _("Taken back: {stage}").format(stage=_stage(body.get("stage", ""))), format_html("“{}”", body["reason"])


def _design(body: Body) -> tuple[str, SafeString]:
    layers = ", ".join(f"{x['material']} {x['thickness_mm']:g} mm" for x in body["specification"]["layers"])
    return _("Design"), format_html("{}: {}", body["specification"]["school"], layers)


WEIGHTY: dict[str, Callable[[Body], tuple[str, SafeString]]] = {
    str(Kind.SIGN_OFF): _sign_off,
    str(Kind.ACCEPTANCE): _acceptance,
    str(Kind.WITHDRAWAL): _withdrawal,
    str(Kind.DESIGN): _design,
}
PLAIN = {
    str(Kind.SET_UP): (gettext_lazy("Level set up"), gettext_lazy("on {mark}, backsight {backsight}")),
    str(Kind.FORESIGHT): (gettext_lazy("Sight"), gettext_lazy("{point}: {reading}")),
    str(Kind.METER_BASE): (gettext_lazy("Height meter’s base"), gettext_lazy("on {mark}, shows {shows}")),
    str(Kind.STRING): (gettext_lazy("String tied"), gettext_lazy("{start} to {end}: {start_height}, {end_height}")),
    str(Kind.TAPE): (gettext_lazy("Tape from the ground"), gettext_lazy("from the existing ground")),
    str(Kind.READING): (gettext_lazy("Readings, {surface}"), gettext_lazy("{station}: {reading}")),
    str(Kind.FALL): (
        gettext_lazy("Falls by straightedge, {surface}"),
        gettext_lazy("{start} to {end}: {gap}"),
    ),
    str(Kind.FILL): (gettext_lazy("Filled"), gettext_lazy("{station}: {material}, lifts: {lifts}")),
    str(Kind.STRIKE): (gettext_lazy("Struck out"), gettext_lazy("{reason}")),
    str(Kind.CORRECTION): (gettext_lazy("Corrected"), gettext_lazy("should read {reading}. {reason}")),
    str(Kind.DISTURBED): (gettext_lazy("Mark disturbed"), gettext_lazy("{point}")),
    str(Kind.DISTANCE): (gettext_lazy("Taped"), gettext_lazy("{start} to {end}: {length}")),
    str(Kind.PEG_MOVE): (gettext_lazy("Pegs moved"), gettext_lazy("{peg}")),
    str(Kind.MARGIN): (gettext_lazy("Margin"), gettext_lazy("side {side}: {width}")),
    str(Kind.SERVICES): (
        gettext_lazy("Services located"),
        gettext_lazy("ticket {ticket}, by {by}. {found}"),
    ),
    str(Kind.OBSERVED): (gettext_lazy("Looked at: {stage}"), gettext_lazy("{asks}: {answer}. {words}")),
    str(Kind.PICTURED): (gettext_lazy("Photo: {stage}"), gettext_lazy("{caption}")),
    str(Kind.GAUGED): (gettext_lazy("Measured: {stage}"), gettext_lazy("{check}: {value} at {where}")),
}
"""What an entry belongs under and what it says, by its kind."""
