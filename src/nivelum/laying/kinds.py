"""What the Laying room records: the form that makes each kind, the leaf it is made on, and how it is told."""

from typing import Any

from django.utils.translation import gettext, ngettext
from django.utils.translation import gettext_lazy as _

from groundwork import laywork as w
from groundwork.measures import Unit, format_amount
from groundwork.pattern import pattern, pattern_keys
from nivelum.laying.forms import PLACES
from nivelum.recording.kinds import Face, show

LAYOUT, COURSES, CUTS, PACKS = "layout", "courses", "cuts", "packs"


def pattern_words(key: str) -> str:
    """A pattern by its title."""
    return gettext(pattern(key).title) if key in pattern_keys() else key


def _layout(entry: w.LayoutChosen, unit: Unit) -> str:
    said = gettext("{pattern}, {long} × {wide}, from side {n}")
    sizes = {"long": format_amount(entry.length.metres, unit), "wide": format_amount(entry.width.metres, unit)}
    return said.format(pattern=pattern_words(entry.pattern), n=entry.side + 1, **sizes)


def _shared(entry: w.PiecesShared, _unit: Unit) -> str:
    number = len(entry.pieces)
    said = ngettext(
        "{n} piece and the unit beside it made alike", "{n} pieces and the units beside them made alike", number
    )
    return said.format(n=number)


def _taped(entry: w.CourseTaped, _unit: Unit) -> str:
    said = gettext("row {row}, {where}: {tape}")
    return said.format(row=entry.row, where=PLACES[entry.spot], tape=entry.tape.raw)


def _module(entry: w.ModuleTaped, _unit: Unit) -> str:
    return gettext("ten units: {tape}").format(tape=entry.tape.raw)


def _squared(entry: w.RowsSquared, _unit: Unit) -> str:
    return f"{entry.along.raw}, {entry.across.raw}, {entry.diagonal.raw}"


def _laid(entry: w.RowsLaid, _unit: Unit) -> str:
    return gettext("laid up to row {row}").format(row=entry.row)


def _cut(entry: w.PieceCut, _unit: Unit) -> str:
    return gettext("piece {name}").format(name=entry.piece)


def _pack(entry: w.PackOpened, _unit: Unit) -> str:
    return gettext("{code}, {n} units").format(code=entry.code, n=entry.units)


def _spares(entry: w.SparesLeft, _unit: Unit) -> str:
    said = ngettext("{n} unit", "{n} units", entry.units).format(n=entry.units)
    return f"{said}, {entry.where}" if entry.where else said


def _show(kind: type[w.LayWork], title: Any, words: Any, leaf: str) -> None:
    show(kind, Face(title, words, leaf=leaf))


_show(w.LayoutChosen, _("Paving laid out"), _layout, LAYOUT)
_show(w.PiecesShared, _("Small pieces shared out"), _shared, LAYOUT)
_show(w.CourseTaped, _("Row taped"), _taped, COURSES)
_show(w.ModuleTaped, _("Ten units taped"), _module, COURSES)
_show(w.RowsSquared, _("Rows squared"), _squared, COURSES)
_show(w.RowsLaid, _("Rows laid"), _laid, COURSES)
_show(w.PieceCut, _("Piece cut"), _cut, CUTS)
_show(w.PackOpened, _("Pack opened"), _pack, PACKS)
_show(w.SparesLeft, _("Spare units kept"), _spares, PACKS)
_show(w.PackEmptied, _("Pack used up"), lambda _entry, _unit: "", PACKS)
