"""What the Joints room records, and how it is told."""

from typing import Any

from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import jointwork as j
from groundwork.jointing import fillings
from groundwork.measures import Unit, format_distance, format_weight
from nivelum.joints.forms import FACES, FAULTS
from nivelum.lifts.forms.amounts import degrees_words
from nivelum.recording.kinds import Face, show
from nivelum.recording.moments import told_minute

SEATING, UNITS, FILLING = "seating", "units", "filling"


def step_words(key: str) -> str:
    """What a step of filling does; its key where no filling has it any more."""
    steps = (step for fill in fillings().values() for step in fill.steps)
    return next((gettext(step.does) for step in steps if step.key == key), key)


def _place(at: tuple[float, float], unit: Unit) -> str:
    return f"{format_distance(at[0], unit)} · {format_distance(at[1], unit)}"


def _before(entry: j.LaidShot, _unit: Unit) -> str:
    return gettext("{station}: {reading}").format(station=entry.station, reading=entry.reading.raw)


def _fault(entry: j.UnitFault, unit: Unit) -> str:
    said = f"{FAULTS[entry.fault]}, {_place(entry.at, unit)}"
    return f"{said}: {entry.words}" if entry.words else said


def _lip(entry: j.LipTaped, unit: Unit) -> str:
    return f"{entry.lip.raw}, {_place(entry.at, unit)}"


def _patched(patch: str) -> str:
    return gettext("patch {n}").format(n=patch) if patch else gettext("all over")


def _used(entry: j.FillUsed, unit: Unit) -> str:
    return f"{format_weight(entry.mass, unit)}, {_patched(entry.patch)}"


def _step(entry: j.FillStepDone, _unit: Unit) -> str:
    return f"{step_words(entry.step)}: {_patched(entry.patch)}, {told_minute(entry.at)}"


def _depth(entry: j.JointDepth, _unit: Unit) -> str:
    said = gettext("{below} below the edge, {patch}, place {n}")
    return said.format(below=entry.below.raw, patch=_patched(entry.patch), n=entry.spot)


def _air(entry: j.AirRead, unit: Unit) -> str:
    said = gettext("air {air}, {damp} % damp, surface {surface}")
    return said.format(
        air=degrees_words(entry.celsius, unit), damp=round(entry.humidity * 100),
        surface=degrees_words(entry.surface, unit),
    )  # fmt: skip


def _show(kind: type[j.PavedWork], title: Any, words: Any, leaf: str) -> None:
    show(kind, Face(title, words, leaf=leaf))


_show(j.LaidShot, _("Height before seating"), _before, SEATING)
_show(j.FaceSeen, _("Faces of the units"), lambda entry, _unit: str(FACES[entry.face]), UNITS)
_show(j.UnitFault, _("Unit to mend"), _fault, UNITS)
_show(j.LipTaped, _("Lip"), _lip, UNITS)
_show(j.UnitMended, _("Unit mended"), lambda _entry, _unit: "", UNITS)
_show(j.FillUsed, _("Filling used"), _used, FILLING)
_show(j.FillStepDone, _("Joints"), _step, FILLING)
_show(j.JointDepth, _("Depth of a joint"), _depth, FILLING)
_show(j.AirRead, _("How dry it was"), _air, FILLING)
