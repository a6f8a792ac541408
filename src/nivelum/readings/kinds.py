"""What the Ground room records, as it is shown."""

from django.utils.translation import gettext_lazy as _

from groundwork import entries as e
from nivelum.jobs.kinds import Face, show

show(e.SetUp, Face(_("Level set up"), _("on {mark}, backsight {backsight}")))
show(e.Foresight, Face(_("Sight"), _("{point}: {reading}")))
show(e.MeterBase, Face(_("Height meter’s base"), _("on {mark}, shows {shows}")))
show(e.StringLine, Face(_("String tied"), _("{start} to {end}: {start_height}, {end_height}")))
show(e.TapeDatum, Face(_("Tape from the ground"), _("from the existing ground")))
show(e.Reading, Face(_("Readings, {surface}"), _("{station}: {reading}")))
show(e.FallCheck, Face(_("Falls by straightedge, {surface}"), _("{start} to {end}: {gap}")))
show(e.Fill, Face(_("Filled"), _("{station}: {material}, lifts: {lifts}")))
show(e.Strike, Face(_("Struck out"), _("{reason}")))
show(e.Correction, Face(_("Corrected"), _("should read {reading}. {reason}")))
show(e.Disturbance, Face(_("Mark disturbed"), _("{point}")))
