"""The record taken along: the bundle that proves itself, the PDF, rows for a spreadsheet, dates for a calendar."""

import csv
import io
import json
import zipfile
from collections.abc import Iterable
from datetime import timedelta
from urllib.parse import quote

from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.translation import get_language
from django.utils.translation import gettext as _
from icalendar import Calendar, Event

from groundwork.record import Head, photos_named
from groundwork.stages import Handover
from nivelum.exchange.cells import harmless
from nivelum.exchange.services import record_data
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.photos import kept, place_of
from nivelum.jobs.services import snapshot
from nivelum.records.page import Part, record_page, signed_drawing
from nivelum.records.telling import told_plainly
from nivelum.workshop.printing import PHOTO, Sheet, page_font, printed
from nivelum.workshop.shelf import PRINTED, InTheMaking

COLUMNS = ("number", "at", "device_at", "by", "kind", "says", "body", "previous", "hash")


def record_csv(job: Job) -> str:
    """One row an entry, what it says in words and its body as JSON."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for entry in Entry.objects.filter(job=job).order_by("number"):
        content = entry.content()
        body = json.dumps(content["body"], ensure_ascii=False, sort_keys=True)
        row = (entry.number, content["at"], content["device_at"] or "", entry.by_name, entry.kind,
               told_plainly(entry, job.crew.unit), body, entry.previous, entry.hash)  # fmt: skip
        writer.writerow([harmless(cell) for cell in row])
    return out.getvalue()


def bundle(job: Job) -> bytes:
    """The record with the photos it names, in one zip: what `bin/nivelum verify` proves whole."""
    record = record_data(job)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("record.json", json.dumps(record, indent=1, ensure_ascii=False))
        for photo in photos_named(record["entries"]):
            if found := kept(job, photo):
                with found:
                    archive.writestr(f"photos/{photo}.jpg", found.read(), zipfile.ZIP_STORED)
    return out.getvalue()


def record_pdf(job: Job, parts: Iterable[Part] = tuple(Part), begun: str = "") -> bytes | InTheMaking:
    """The record as a PDF, or how far it is: made once in the workshop for every state of the record; the one that
    was `begun` before anything was added is handed over too. Raises `Busy`, `TooMuch`."""
    shown = sorted(map(str, parts))
    whose = json.dumps([str(job.id), *shown])
    if begun and (found := PRINTED.again(whose, begun)):
        return found
    shot = snapshot(job)
    of = [shot.head, str(timezone.localdate()), job.crew.name, job.crew.rod, get_language()]
    return PRINTED.get(whose, json.dumps(of), lambda: record_sheet(job, map(Part, shown)), printed)


def record_sheet(job: Job, parts: Iterable[Part] = tuple(Part)) -> Sheet:
    """The record as one page to print, with the photos it shows."""
    context = record_page(job, parts) | {
        "drawing": lambda number: _svg(signed_drawing(job, number)),
        "font": page_font(),
    }
    context["drawings"] = {
        s.number: _svg(signed_drawing(job, s.number)) for s in context.get("signed", ()) if s.drawn
    }
    named = [photo.photo for photo, _s, _m in context.get("photos", ())]
    if plain := context.get("plain"):
        named += [photo for _title, photo in plain.photos]
    photos = {photo: file for photo in named if (file := place_of(job, photo))}
    context["pictures"] = {photo: PHOTO + photo if photo in photos else "" for photo in named}
    return Sheet(render_to_string("record/print.html", context), photos)


def _svg(drawing: str | None) -> str:
    return f"data:image/svg+xml,{quote(drawing)}" if drawing else ""


def calendar(job: Job, given: Handover) -> bytes:
    """What is looked at again, and from when it may be used, as days in a calendar."""
    made = Calendar()
    made.add("prodid", "-//Nivelum//handover//EN")
    made.add("version", "2.0")
    days = [(_("{job}: may be walked on").format(job=job.name), given.walk, "walk")]
    if given.drive:
        days.append((_("{job}: may be driven on").format(job=job.name), given.drive, "drive"))
    again = enumerate(given.again)
    days += [(f"{job.name}: {_(each.what)}", each.day, f"again-{n}") for n, each in again if each.day]
    newest = job.entries.latest("number")
    head = _("Record at {head}").format(head=Head(newest.hash, newest.number, str(job.id)))
    for summary, day, name in days:
        event = Event()
        event.add("description", head)
        event.add("uid", f"{job.id}-{name}@nivelum")
        event.add("summary", summary)
        event.add("dtstart", day)
        event.add("dtend", day + timedelta(days=1))
        event.add("dtstamp", newest.at)
        made.add_component(event)
    return bytes(made.to_ical())
