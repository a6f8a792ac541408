"""What the Lifts room records: the form that makes each kind, the leaf it is made on, and how it is told."""

from typing import Any

from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import layerwork as w
from groundwork.measures import Unit, format_amount, format_density, format_mass, format_volume
from nivelum.jobs.templatetags.measures import percent
from nivelum.lifts.forms import ground, lift, supply, tests
from nivelum.lifts.forms.work import WorkForm
from nivelum.recording.kinds import Face, Says, in_unit, show

LIFT, TESTS, GROUND, DELIVERIES, POUR = "lifts", "lift-tests", "subgrade", "deliveries", "pour"
FEEL_WORDS = {
    w.Feel.DRY: _("squeezed: falls apart, dry"),
    w.Feel.HOLDS: _("squeezed: holds, damp"),
    w.Feel.SOUPY: _("squeezed: water runs, soupy"),
}


def _passed(entry: w.Passed, _unit: Unit) -> str:
    way = gettext("down the fall") if entry.direction is w.Direction.ALONG else gettext("across the fall")
    where = gettext("patch {n}").format(n=entry.patch) if entry.patch else gettext("all of it")
    return gettext("pass {way}, {where}").format(way=way, where=where)


def _moisture(entry: w.Moisture, _unit: Unit) -> str:
    return str(FEEL_WORDS[entry.feel]) if entry.feel else f"{gettext('moisture')} {percent(entry.share or 0.0)}"


def _tamped(entry: w.Tamped, _unit: Unit) -> str:
    return gettext("side P{side} tamped by hand").format(side=entry.side + 1)


def _settled(entry: w.Settling, unit: Unit) -> str:
    settled = format_amount(entry.after.metres - entry.before.metres, unit)
    said = gettext("{station} settled {settled} after {after_passes} passes")
    return said.format(station=entry.station, settled=settled, after_passes=entry.after_passes)


def _gauged(entry: w.GaugeTest, unit: Unit) -> str:
    said = gettext("density at {place}: {wet} wet, {moisture} moisture")
    wet = format_density(entry.wet, unit)
    return said.format(place=entry.place, wet=wet, moisture=percent(entry.moisture))


def _laboratory(entry: w.LaboratoryTest, _unit: Unit) -> str:
    return gettext("{material}, {n} points").format(material=entry.material, n=len(entry.moistures))


def _delivered(entry: w.Delivered, unit: Unit) -> str:
    said = gettext("ticket {n}: {mass} of {material}")
    return said.format(n=entry.ticket, mass=format_mass(entry.mass, unit), material=entry.material)


def _poured(entry: w.Poured, unit: Unit) -> str:
    return gettext("{volume}, ticket {n}").format(volume=format_volume(entry.volume, unit), n=entry.ticket)


def _machine(entry: w.MachineBrought, _unit: Unit) -> str:
    return entry.machine.name


def _cured(entry: w.Cured, _unit: Unit) -> str:
    return str(entry.how)


def _competent(entry: w.Competent, _unit: Unit) -> str:
    return f"{entry.by}, {entry.role}: {entry.words}"


def _show(kind: type[w.Work], title: Any, form: type[WorkForm], leaf: str, words: Says, first: str = "") -> None:
    show(kind, Face(title, words, form=form, leaf=leaf, first=first))


_show(w.MachineBrought, _("machine brought"), lift.MachineForm, LIFT, _machine, "name")
_show(w.Spread, _("loose thickness"), lift.SpreadForm, LIFT, in_unit(_("spread {thickness} loose at {station}")))
_show(w.Moisture, _("moisture"), lift.MoistureForm, LIFT, _moisture, "share")
_show(w.Passed, _("pass"), lift.PassForm, LIFT, _passed, "machine")
_show(w.Tamped, _("edge tamped"), lift.TampedForm, LIFT, _tamped)
_show(w.Scarified, _("loosened"), lift.ScarifiedForm, LIFT, in_unit(_("loosened {depth} deep")))
_show(w.ToppedUp, _("topped up"), lift.ToppedUpForm, LIFT, in_unit(_("{thickness} added at {station}")))
_show(w.Settling, _("settlement"), lift.SettlingForm, LIFT, _settled)
_show(w.Weather, _("weather"), lift.WeatherForm, LIFT, in_unit(_("{words}")))
_show(w.LaboratoryTest, _("laboratory curve"), tests.LaboratoryForm, TESTS, _laboratory, "points")
_show(w.GaugeTest, _("density gauge"), tests.GaugeForm, TESTS, _gauged)
_show(w.SandTest, _("sand replacement"), tests.SandForm, TESTS, in_unit(_("density at {place} by sand")))
_show(w.WeightTest, _("falling weight"), tests.WeightForm, TESTS, in_unit(_("falling weight at {place}")))
_show(w.SpikeTest, _("spike"), tests.SpikeForm, TESTS, in_unit(_("spike at {place} sank {sank}")))
_show(w.ConeTest, _("cone"), tests.ConeForm, TESTS, in_unit(_("cone at {place}")))
_show(w.ProofRoll, _("proof roll"), tests.ProofRollForm, TESTS, in_unit(_("{vehicle} at {place}: rut {rut}")))
_show(w.SoftSpot, _("soft spot"), ground.SoftSpotForm, GROUND, in_unit(_("{name}, {depth} deep")))
_show(w.Cured, _("soft spot cured"), ground.CuredForm, GROUND, _cured)
_show(w.FabricLaid, _("fabric laid"), ground.FabricForm, GROUND, in_unit(_("fabric laid, overlap {overlap}")))
_show(w.Competent, _("competent person’s word"), ground.CompetentForm, GROUND, _competent)
_show(w.Delivered, _("delivery"), supply.DeliveredForm, DELIVERIES, _delivered)
_show(w.Poured, _("pour"), supply.PouredForm, POUR, _poured)
