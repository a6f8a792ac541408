"""What entries say, in templates."""

from django import template
from django.utils.safestring import SafeString

from groundwork.kinds import Entry
from groundwork.measures import Unit
from nivelum.recording.forms import EntryForm
from nivelum.recording.kinds import say

register = template.Library()


@register.filter
def of_kind(forms: dict[str, EntryForm], kind: str) -> EntryForm:
    """The form of a kind."""
    return forms[kind]


@register.filter
def told(entry: Entry, unit: Unit) -> SafeString:
    """What an entry says, in a few words, in the crew's unit."""
    return say(entry, unit)
