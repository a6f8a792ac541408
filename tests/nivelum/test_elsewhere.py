"""Photos in a store that speaks S3: a stand-in that ships with the product answers."""

import threading
import uuid
import zipfile
from pathlib import Path

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from tests.conftest import World, make_world
from tests.nivelum.test_photos import picture, send

from nivelum.jobs.models import Entry
from nivelum.records.backup import back_up, restore
from nivelum.watch.standin_store import store


@pytest.fixture
def bucket(settings, tmp_path):
    """A store of its own, and the folder its bucket lies in."""
    server = store(tmp_path)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    options = {"bucket_name": "photos", "endpoint_url": f"http://127.0.0.1:{server.server_port}",
               "region_name": "us-east-1", "access_key": "x", "secret_key": "y"}  # fmt: skip
    settings.STORAGES = settings.STORAGES | {
        "default": {"BACKEND": "nivelum.jobs.elsewhere.Bucket", "OPTIONS": options}
    }
    yield tmp_path / "photos"
    server.shutdown()


def test_a_photo_is_kept_shown_and_printed_from_elsewhere(world: World, bucket) -> None:
    assert send(world, picture()).status_code == 302
    named = Entry.objects.get(job=world.job, kind="delivered").body["photo"]
    assert (bucket / str(world.job.id) / f"{named}.jpg").is_file()
    shown = world.client("viewer").get(f"/jobs/{world.job.id}/photos/{named}/")
    assert shown.status_code == 200 and b"".join(shown.streaming_content)[:2] == b"\xff\xd8"
    held = world.client("lead").get(f"/jobs/{world.job.id}/record.zip")
    assert held.status_code == 200
    (bucket / str(world.job.id) / f"{named}.jpg").unlink()
    assert world.client("viewer").get(f"/jobs/{world.job.id}/photos/{named}/").status_code == 404
    assert send(world, picture()).status_code == 302, "the same again puts it right"
    assert default_storage.exists(f"{world.job.id}/{named}.jpg")


def test_a_store_that_does_not_answer_loses_nothing_and_asks_to_come_again(world: World, settings) -> None:
    options = {"bucket_name": "photos", "endpoint_url": "http://127.0.0.1:9", "region_name": "us-east-1",
               "access_key": "x", "secret_key": "y"}  # fmt: skip
    settings.STORAGES = settings.STORAGES | {
        "default": {"BACKEND": "nivelum.jobs.elsewhere.Bucket", "OPTIONS": options}
    }
    before = world.job.entries.count()
    client = world.client("crew")
    client.raise_request_exception = False
    data = {"entry_id": uuid.uuid4(), "ticket": "4711", "material": "dense-graded", "mass": "8.2"}

    sent = data | {"photo": SimpleUploadedFile("a.jpg", picture(), "image/jpeg")}
    answer = client.post(f"/jobs/{world.job.id}/lifts/delivered/", sent)
    assert answer.status_code == 503 and answer["Retry-After"] and world.job.entries.count() == before
    assert client.get("/health/ready").status_code == 503


def test_photos_elsewhere_go_into_a_backup_and_come_back(
    flushable, transactional_db, bucket, tmp_path, check_role, settings
) -> None:
    settings.POSTGRES_PROGRAMS = str(max(Path("/usr/lib/postgresql").glob("*/bin")))
    settings.CHECK_URL = check_role
    world = make_world()
    assert send(world, picture()).status_code == 302
    file = tmp_path / "backup.zip"
    assert back_up(file).photos == 1
    with zipfile.ZipFile(file) as archive:
        assert sum(name.startswith("photos/") for name in archive.namelist()) == 1
    (photo,) = bucket.rglob("*.jpg")
    whole = photo.read_bytes()
    photo.unlink()
    restore(file)
    assert photo.read_bytes() == whole
