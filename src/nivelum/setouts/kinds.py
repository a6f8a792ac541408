"""What the Set-out room records, as it is shown."""

from django.utils.translation import gettext_lazy as _

from groundwork import entries as e
from nivelum.recording.kinds import Face, show

show(e.PegDistance, Face(_("Taped"), _("{start} to {end}: {length}")))
show(e.PegMove, Face(_("Pegs moved"), _("{peg}")))
show(e.MarginMeasured, Face(_("Margin"), _("side {side}: {width}")))
show(e.ServicesLocated, Face(_("Services located"), _("ticket {ticket}, by {by}. {found}")))
