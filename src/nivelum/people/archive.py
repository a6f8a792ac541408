"""All of a crew's data as one open archive, and back into another server with every record whole.

A zip of `crew.json` (what the crew is called and reads, its people, its kit, its log, what its jobs taught, its
prices, estimates and days), `jobs/ID.json` (each record, as `bin/nivelum verify` proves it) and `photos/ID/HASH.jpg`.
Passwords, PINs and passkeys are nobody's to take along: on the other server the lead hands out links. Whoever wrote
an entry keeps the number they had where it was written, since its hash holds it.
"""

import json
import re
import zipfile
from collections.abc import Iterator
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import IO, Any

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.utils import timezone

from groundwork.files import fault_between
from groundwork.outdoors import limits_of
from groundwork.record import first_fault, photo_fault, photos_named
from groundwork.weather import forecast_data
from nivelum.crews.log import noted
from nivelum.crews.models import Crew, CrewLine, CrewRole, Deed, Membership, PegTest, Person, Tool
from nivelum.days.models import KeptProgramme, WeekSaid
from nivelum.exchange.services import record_data
from nivelum.jobs.models import Entry, Job, Taught
from nivelum.jobs.photos import kept, put, stored_as
from nivelum.jobs.services import snapshot
from nivelum.money.models import KeptEstimate, MoneyTerms, PriceSet
from nivelum.money.shown import shown
from nivelum.weather.models import DayOff, KeptForecast, WeatherTerms

FORMAT = "nivelum-crew/1"
MEMBER = re.compile(r"crew\.json|jobs/[0-9a-f-]{36}\.json|photos/[0-9a-f-]{36}/[0-9a-f]{64}\.jpg")
LARGEST = 500_000_000
"""Bytes a member may have once it is unpacked."""
_CREW = ("name", "rod", "region", "time_zone", "keeps_places")
_TOOL = ("name", "method", "reading_u", "rate", "driver", "retired", "touching", "half_out")
_TEST = ("midway_a", "midway_b", "near_a", "near_b", "to_a", "to_b")
_PRICE = ("cost", "what", "unit", "amount", "since", "set_by")
_TERMS = ("currency", "contingency", "tax", "rounding", "people", "hours_a_day", "works_on")
_ESTIMATE = ("number", "name", "at_entry", "begins", "data", "hours", "made_by")
_WEATHER = ("place", "latitude", "begins", "chance", "least", "most", "limits", "machines")
_SAID = ("task", "half", "said_by")
_FORECAST = ("way", "source", "by_name", "data", "digest")
_TAUGHT = ("kind", "material", "value", "spread", "number", "kept_by")


class NotBrought(Exception):
    """Nothing was brought in; the message says why."""


def take_crew(crew: Crew, by: Person | None, file: IO[bytes]) -> None:
    """Writes the archive of a crew."""
    noted(crew, by, Deed.TAKEN)
    jobs = list(Job.objects.filter(crew=crew).select_related("crew").order_by("name", "id"))
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("crew.json", _text(_crew_data(crew, jobs)))
        for job in jobs:
            record = record_data(job)
            archive.writestr(f"jobs/{job.id}.json", _text(record))
            for photo in photos_named(record["entries"]):
                if found := kept(job, photo):
                    with found:
                        archive.writestr(f"photos/{job.id}/{photo}.jpg", found.read(), zipfile.ZIP_STORED)


def _crew_data(crew: Crew, jobs: list[Job]) -> dict[str, Any]:
    forecasts = list(KeptForecast.objects.filter(crew=crew).order_by("pk"))
    number: dict[int | None, int] = {each.pk: n for n, each in enumerate(forecasts)}
    wrote = set(Entry.objects.filter(job__crew=crew).values_list("by", flat=True))
    roles = dict(crew.memberships.values_list("person", "role"))
    people = Person.objects.filter(pk__in=wrote | set(roles)).order_by("pk")
    return {
        "format": FORMAT, "made_at": timezone.now().isoformat(), **{name: getattr(crew, name) for name in _CREW},
        "people": [
            {"id": each.pk, "name": each.name, "username": each.username, "role": roles.get(each.pk)}
            for each in people
        ],
        "tools": [
            {name: getattr(tool, name) for name in _TOOL}
            | {"tests": [{name: getattr(test, name) for name in _TEST} | {"by": test.by.name, "at": _at(test.at)}
                         for test in tool.tests.select_related("by")]}
            for tool in crew.tools.prefetch_related("tests")
        ],
        "taught": [
            {name: getattr(each, name) for name in _TAUGHT} | {"job": str(each.job_id)}
            for each in Taught.objects.filter(job__in=jobs).order_by("pk")
        ],
        "prices": [
            {name: str(getattr(each, name)) for name in _PRICE} for each in PriceSet.objects.filter(crew=crew)
        ],
        "terms": {name: _plain(getattr(each, name)) for name in _TERMS}
        if (each := MoneyTerms.objects.filter(crew=crew).first()) else None,
        "estimates": [
            {name: _plain(getattr(each, name)) for name in _ESTIMATE}
            | {"job": str(each.job_id), "at": _at(each.made_at)}
            for each in KeptEstimate.objects.filter(job__in=jobs).order_by("pk")
        ],
        "weather": {name: getattr(went, name) for name in _WEATHER}
        if (went := WeatherTerms.objects.filter(crew=crew).first()) else None,
        "forecasts": [
            {name: getattr(each, name) for name in _FORECAST} | {"issued": _at(each.issued), "came": _at(each.came)}
            for each in forecasts
        ],
        "programmes": [
            {"job": str(each.job_id), "on": str(each.on), "at_entry": each.at_entry, "data": each.data,
             "forecast": number.get(each.forecast_id)}
            for each in KeptProgramme.objects.filter(job__in=jobs).order_by("pk")
        ],
        "week_said": [
            {name: getattr(each, name) for name in _SAID}
            | {"job": str(each.job_id), "person": each.person_id, "on": each.on and str(each.on)}
            for each in WeekSaid.objects.filter(crew=crew)
        ],
        "days_off": [
            {"person": each.person_id, "on": str(each.on), "why": each.why}
            for each in DayOff.objects.filter(crew=crew)
        ],
        "patterns": [str(job.id) for job in jobs if job.is_pattern],
        "log": [
            {"at": _at(each.at), "by": each.by_name, "deed": each.deed, "about": each.about, "detail": each.detail}
            for each in crew.lines.order_by("id")
        ],
    }  # fmt: skip


def bring_crew(file: Path) -> Crew:
    """A crew with all its data from an archive, every record proved before and after. Raises `NotBrought`, and then
    nothing was brought."""
    try:
        with zipfile.ZipFile(file) as archive, transaction.atomic():
            for member in archive.infolist():
                if not MEMBER.fullmatch(member.filename) or member.file_size > LARGEST:
                    raise NotBrought(f"the archive holds what is not ours: {member.filename[:80]}")
            return _brought(archive)
    except (OSError, LookupError, TypeError, ValueError, AttributeError, IntegrityError, RecursionError) as error:
        raise NotBrought(f"{file} is no archive of a crew, or a broken one: {error}") from error
    except (zipfile.BadZipFile, ValidationError) as error:
        raise NotBrought(f"{file} is no archive of a crew: {error}") from error


def _brought(archive: zipfile.ZipFile) -> Crew:
    data = json.loads(archive.read("crew.json"))
    if data["format"] != FORMAT:
        raise NotBrought(f"that is an archive of another kind: {str(data['format'])[:40]}")
    crew = Crew(**{name: data[name] for name in _CREW})
    crew.full_clean()
    crew.save()
    people = {each["id"]: _person(crew, each) for each in data["people"]}
    _kit(crew, data["tools"], people)
    jobs = {str(job.id): job for job in _jobs(archive, crew, people)}
    Job.objects.filter(crew=crew, id__in=data["patterns"]).update(is_pattern=True)
    for each in data["taught"]:
        Taught.objects.create(job=jobs[each["job"]], **{name: each[name] for name in _TAUGHT})
    _money(crew, data, jobs)
    _days(crew, data, people, jobs, _weather(crew, data, people))
    for each in data["log"]:
        line = CrewLine(crew=crew, by_name=each["by"], deed=Deed(each["deed"]), about=each["about"])
        line.detail = f"{datetime.fromisoformat(each['at']):%Y-%m-%d %H:%M} {each['detail']}"[:200]
        line.save()
    noted(crew, None, Deed.BROUGHT)
    return crew


def _money(crew: Crew, data: dict[str, Any], jobs: dict[str, Job]) -> None:
    """Prices, terms and estimates; archives made before there were any have none."""
    for each in data.get("prices", ()):
        price = PriceSet(crew=crew, **{name: each[name] for name in _PRICE})
        price.full_clean()
        price.save()
    if each := data.get("terms"):
        terms = MoneyTerms(crew=crew, **{name: each[name] for name in _TERMS})
        terms.full_clean()
        terms.save()
    for each in data.get("estimates", ()):
        kept = KeptEstimate(job=jobs[each["job"]], **{name: each[name] for name in _ESTIMATE})
        kept.full_clean()
        shown(kept.estimate, crew.unit)  # whatever it says, pages can be made of it
        kept.save()
        KeptEstimate.objects.filter(pk=kept.pk).update(made_at=datetime.fromisoformat(each["at"]))


def _weather(crew: Crew, data: dict[str, Any], people: dict[int, Person]) -> list[KeptForecast]:
    """How it goes by the weather, forecasts as they came, days off; archives made before there were any have none.
    The forecasts."""
    forecasts = list[KeptForecast]()
    if each := data.get("weather"):
        terms = WeatherTerms(crew=crew, **{name: each[name] for name in _WEATHER if name in each})
        terms.full_clean()
        list(map(terms.count, terms.machines))
        limits_of({str(key): float(at) for key, at in terms.limits.items()})
        terms.save()
    for each in data.get("forecasts", ()):
        issued, came = (datetime.fromisoformat(each[name]) for name in ("issued", "came"))
        kept = KeptForecast(crew=crew, issued=issued, came=came, **{name: each[name] for name in _FORECAST})
        kept.full_clean()
        forecast_data(kept.forecast)  # whatever it says, pages can be made of it
        kept.save()
        forecasts.append(kept)
    for each in data.get("days_off", ()):
        off = DayOff(crew=crew, person=people[each["person"]] if each["person"] else None, on=each["on"])
        off.why = each["why"]
        off.full_clean()
        off.save()
    return forecasts


def _days(
    crew: Crew, data: dict[str, Any], people: dict[int, Person], jobs: dict[str, Job], forecasts: list[KeptForecast]
) -> None:
    """Programmes as they stood, by which what moved is told, and what was fixed of weeks; archives made before there
    were any have none. Proposals of weeks are asked for anew."""
    for each in data.get("programmes", ()):
        by = None if each["forecast"] is None else forecasts[each["forecast"]]
        kept = KeptProgramme(job=jobs[each["job"]], on=each["on"], at_entry=each["at_entry"], forecast=by)
        kept.data = each["data"]
        kept.full_clean()
        if not Entry.objects.filter(job=kept.job, number=kept.at_entry).exists():
            raise NotBrought(f"a programme of job {kept.job_id} is of an entry that is not there")
        for at in (kept.data["made"], kept.data["likely"], kept.data["late"]):
            datetime.fromisoformat(at or kept.data["made"])
        kept.save()
    for each in data.get("week_said", ()):
        said = WeekSaid(crew=crew, job=jobs[each["job"]], **{name: each[name] for name in _SAID}, on=each["on"])
        said.person = None if each["person"] is None else people[each["person"]]
        said.full_clean(exclude=["person", "on"])
        said.save()


def _plain(value: Any) -> Any:
    """As JSON has it; amounts and days as text."""
    return str(value) if isinstance(value, Decimal | date) else value


def _person(crew: Crew, data: dict[str, Any]) -> Person:
    """Somebody of the archive: nobody of this server, even where the name is the same, until a lead says so."""
    name, number = str(data["username"])[:140], 1
    while Person.objects.filter(username__iexact=name).exists():
        number += 1
        name = f"{str(data['username'])[:140]}-{number}"
    person = Person.objects.create_user(name, name=str(data["name"])[:80])
    if data["role"]:
        Membership.objects.create(crew=crew, person=person, role=CrewRole(data["role"]))
    else:
        person.is_active = False
        person.save(update_fields=["is_active"])
    return person


def _kit(crew: Crew, tools: list[dict[str, Any]], people: dict[int, Person]) -> None:
    crew.tools.all().delete()  # the usual ones, which every new crew has
    by_name = {each.name: each for each in people.values()}
    for data in tools:
        tool = Tool(crew=crew, **{name: data[name] for name in _TOOL})
        tool.full_clean()
        tool.save()
        for test in data["tests"]:
            made = PegTest(tool=tool, by=by_name.get(test["by"]) or next(iter(people.values())))
            for name in _TEST:
                setattr(made, name, float(test[name]))
            made.save()
            PegTest.objects.filter(pk=made.pk).update(at=datetime.fromisoformat(test["at"]))


def _jobs(archive: zipfile.ZipFile, crew: Crew, people: dict[int, Person]) -> Iterator[Job]:
    for name in sorted(archive.namelist()):
        if name.startswith("jobs/"):
            yield _job(archive, json.loads(archive.read(name)), crew, people)


def _job(archive: zipfile.ZipFile, record: dict[str, Any], crew: Crew, people: dict[int, Person]) -> Job:
    name, rows = str(record["job"]["id"]), record["entries"]
    photos = {photo: archive.read(f"photos/{name}/{photo}.jpg") for photo in photos_named(rows)
              if f"photos/{name}/{photo}.jpg" in archive.namelist()}  # fmt: skip
    fault = first_fault(rows, record["head"]) or fault_between(name, rows) or photo_fault(rows, photos)
    if fault:
        raise NotBrought(f"job {name}: entry {fault.place} {fault.why}")
    if Job.objects.filter(id=name).exists():
        raise NotBrought(f"job {name} is here already")
    job = Job.objects.create(id=name, crew=crew, name=str(record["job"]["name"])[:80])
    Entry.objects.bulk_create(_entry(job, row, people) for row in rows)
    if record_data(job)["entries"] != rows:
        raise NotBrought(f"job {name} would not be the same here")
    snapshot(job)  # whatever it says, pages can be made of it
    for photo, content in photos.items():
        put(stored_as(name, photo), content)
    return job


def _entry(job: Job, row: dict[str, Any], people: dict[int, Person]) -> Entry:
    at = row["device_at"]
    return Entry(
        id=row["id"], job=job, number=row["number"], kind=row["kind"], by=people[row["by"]["id"]],
        by_name=row["by"]["name"], by_then=row["by"]["id"], at=datetime.fromisoformat(row["at"]),
        device_at=datetime.fromisoformat(at) if at else None, body=row["body"], previous=row["previous"],
        hash=row["hash"],
    )  # fmt: skip


def _at(at: datetime) -> str:
    return at.isoformat()


def _text(data: dict[str, Any]) -> str:
    return json.dumps(data, indent=1, ensure_ascii=False)
