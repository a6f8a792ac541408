"""From one version to the next with all there is."""

import json
import zipfile
from pathlib import Path

from django.core.management import call_command
from django.test import Client

from nivelum.crews.models import Crew
from nivelum.jobs.models import Job
from nivelum.jobs.services import head
from nivelum.records.backup import restore

KEPT = Path(__file__).parents[1] / "kept"


def test_a_site_of_the_version_before_comes_over_with_its_data(
    flushable, transactional_db, settings, tmp_path, check_role
) -> None:
    """A backup of the demo, made by the version before people could be invited, put in the place of what is there."""
    settings.MEDIA_ROOT = tmp_path / "photos"
    settings.POSTGRES_PROGRAMS = str(max(Path("/usr/lib/postgresql").glob("*/bin")))
    settings.CHECK_URL = check_role
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.PBKDF2PasswordHasher"]
    done = restore(KEPT / "site-2026-11.nivelum")
    assert (done.jobs, done.photos, done.faults) == (11, 3, ())
    call_command("migrate", verbosity=0)
    with zipfile.ZipFile(KEPT / "site-2026-11.nivelum") as archive:
        heads = {each["job"]: each["hash"] for each in json.loads(archive.read("manifest.json"))["heads"]}
    assert {str(job.id): head(job) for job in Job.objects.all()} == heads
    client = Client()
    assert client.post("/sign-in/", {"login": "ines", "password": "limestone"}).status_code == 302
    crew = Crew.objects.get(name="Tarn & Ostler")
    assert crew.time_zone == settings.TIME_ZONE and not crew.lines.exists()
    for page in ("/", "/you/", f"/crews/{crew.id}/people/", *(f"/jobs/{job.id}/record/" for job in crew.jobs.all())):
        assert client.get(page).status_code == 200, page
