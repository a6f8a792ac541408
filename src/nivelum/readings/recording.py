"""From a form to an entry, the same way from every screen."""

from nivelum.jobs.access import Visit
from nivelum.jobs.forms import EntryForm
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Author
from nivelum.readings.services import Refused, record


def recorded(visit: Visit, form: EntryForm, field: str) -> Entry | None:
    """The entry `form` makes, or None with its errors saying why not; an error without a field goes to `field`."""
    if not form.is_valid():
        return None
    try:
        return record(visit, form.value(), Author(visit.person, form.cleaned_data["device_at"]))
    except Refused as refused:
        form.add_error(refused.field if refused.field in form.fields else field, refused.message)
        return None
