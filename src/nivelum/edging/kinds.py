"""What the Edges room records: how it is told."""

from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import edgework as g
from groundwork.measures import Unit, format_amount
from nivelum.edging.forms import HELD, KINDS
from nivelum.lifts.forms.amounts import degrees_words
from nivelum.recording.kinds import Face, show
from nivelum.recording.moments import told_minute

EDGES = "edges"


def kind_words(kind: g.EdgeKind) -> str:
    return str(KINDS[kind])


def held_words(by: str) -> str:
    """What holds a side: an edge, or what is there already; soil where nothing does."""
    if not by:
        return gettext("ends in soil")
    return str(HELD[by]) if by in HELD else kind_words(g.EdgeKind(by))


def _planned(entry: g.EdgePlanned, _unit: Unit) -> str:
    return gettext("{what} along side {side}").format(what=kind_words(entry.what), side=entry.side + 1)


def _shot(entry: g.EdgeShot, _unit: Unit) -> str:
    return gettext("joint {joint}: {reading}").format(joint=entry.joint, reading=entry.reading.raw)


def _strung(entry: g.EdgeStrung, _unit: Unit) -> str:
    said = gettext("joint {joint}: {down} down from a string {over} over both ends")
    return said.format(joint=entry.joint, down=entry.down.raw, over=entry.over.raw)


def _lined(entry: g.EdgeLined, unit: Unit) -> str:
    off = format_amount(abs(entry.off.metres), unit)
    if entry.off.metres < 0:
        return gettext("joint {joint}: {off} inside its line").format(joint=entry.joint, off=off)
    return gettext("joint {joint}: {off} outside its line").format(joint=entry.joint, off=off)


def _bedded(entry: g.EdgeBedded, unit: Unit) -> str:
    said = gettext("{at}, about {degrees}")
    return said.format(at=told_minute(entry.at), degrees=degrees_words(entry.celsius, unit))


def _board(entry: g.BoardLeft, _unit: Unit) -> str:
    said = gettext("board {n} left out") if entry.out else gettext("board {n} closed again")
    return said.format(n=entry.board)


def _held(entry: g.SideHeld, _unit: Unit) -> str:
    return gettext("side {n}: {by}").format(n=entry.side + 1, by=held_words(entry.holds))


def _behind(entry: g.Backfilled, _unit: Unit) -> str:
    return gettext("side {n}: {below} below the paving").format(n=entry.side + 1, below=entry.below.raw)


show(g.SideHeld, Face(_("What holds a side"), _held, leaf=EDGES))
show(g.SpikesDriven, Face(_("Spikes driven"), lambda entry, _unit: str(entry.number), leaf=EDGES))
show(g.Backfilled, Face(_("Soil behind an edge"), _behind, leaf=EDGES))
show(g.EdgePlanned, Face(_("Edge planned"), _planned, leaf=EDGES))
show(g.EdgeShot, Face(_("Edge set"), _shot, leaf=EDGES))
show(g.EdgeStrung, Face(_("Edge under a string"), _strung, leaf=EDGES))
show(g.EdgeLined, Face(_("Edge, its line"), _lined, leaf=EDGES))
show(g.EdgeBedded, Face(_("Bed and haunch made"), _bedded, leaf=EDGES))
show(g.BoardLeft, Face(_("Board of the forms"), _board, leaf=EDGES))
