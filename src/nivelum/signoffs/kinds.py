"""What is seen for a stage and decided on it, as it is shown."""

from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork.job import Acceptance, SignOff, Withdrawal
from groundwork.measures import Unit
from groundwork.observations import Gauged, Observed, Pictured
from nivelum.recording.kinds import Face, show

PROOF_WORDS = {"pin": _("by PIN"), "link": _("by a link")}


def _signed(sign_off: SignOff, _unit: Unit) -> SafeString:
    how = PROOF_WORDS.get(sign_off.proof.get("by", ""), _("in their own session"))
    return format_html("{}, {}", gettext(sign_off.slot), how)


def _accepted(acceptance: Acceptance, _unit: Unit) -> SafeString:
    return format_html("{} “{}”", acceptance.finding, acceptance.reason)


show(Observed, Face(_("Looked at: {stage}"), _("{asks}: {answer}. {words}")))
show(Gauged, Face(_("Measured: {stage}"), _("{check}: {value} at {where}")))
show(Pictured, Face(_("Photo: {stage}"), _("{caption}")))
show(SignOff, Face(_("Signed: {stage}"), _signed, is_weighty=True))
show(Acceptance, Face(_("Accepted, as {role}: {stage}"), _accepted, is_weighty=True))
show(
    Withdrawal,
    Face(_("Taken back: {stage}"), lambda taken, _unit: format_html("“{}”", taken.reason), is_weighty=True),
)
