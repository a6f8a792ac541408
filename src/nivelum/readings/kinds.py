"""What the Ground room records, as it is shown, and what a reading comes to."""

from django.urls import reverse
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import entries as e
from nivelum.jobs.access import Visit
from nivelum.jobs.outbox import Way
from nivelum.jobs.services import snapshot
from nivelum.jobs.templatetags.measures import standing_css
from nivelum.readings.place import Place
from nivelum.recording.kinds import Face, show


def _comes_to(visit: Visit, reading: e.Reading) -> dict[str, str] | None:
    """What a station comes to now that it was read, in the words of the pad; None for one written before whose place
    the design has left since."""
    surveys = snapshot(visit.job).assessment.surveys
    if reading.surface not in {surface.key for surface in surveys.levelled}:
        return None
    if (answer := surveys.of(reading.surface).answers.get(reading.station)) is None:
        return None
    judgement = answer.judgement
    words = judgement.action.text(visit.job.crew.unit, gettext)
    return {"css": standing_css(judgement.standing), "says": words}


def _shoot_again(visit: Visit, read: e.Reading | e.FallCheck) -> Way:
    station = read.station if isinstance(read, e.Reading) else read.start
    place = reverse("ground", args=[visit.job.id]) + Place(read.surface, station).query()
    return Way("go", gettext("Shoot {station} again").format(station=station), place)


show(e.SetUp, Face(_("Level set up"), _("on {mark}, backsight {backsight}")))
show(e.Foresight, Face(_("Sight"), _("{point}: {reading}")))
show(e.MeterBase, Face(_("Height meter’s base"), _("on {mark}, shows {shows}")))
show(e.StringLine, Face(_("String tied"), _("{start} to {end}: {start_height}, {end_height}")))
show(e.TapeDatum, Face(_("Tape from the ground"), _("from the existing ground")))
show(e.Reading, Face(_("Readings, {surface}"), _("{station}: {reading}"), comes_to=_comes_to, again=_shoot_again))
show(e.FallCheck, Face(_("Falls by straightedge, {surface}"), _("{start} to {end}: {gap}"), again=_shoot_again))
show(e.Fill, Face(_("Filled"), _("{station}: {material}, lifts: {lifts}")))
show(e.Strike, Face(_("Struck out"), _("{reason}")))
show(e.Correction, Face(_("Corrected"), _("should read {reading}. {reason}")))
show(e.Disturbance, Face(_("Mark disturbed"), _("{point}")))
