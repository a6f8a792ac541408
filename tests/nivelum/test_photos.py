"""Photos: checked, made smaller, stripped of where they were taken, kept once, shown to the job's crew only."""

import hashlib
import io
import uuid

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from tests.conftest import World, make_world

from nivelum.jobs.models import Entry

ORIENTATION, GPS = 0x0112, 0x8825


@pytest.fixture(autouse=True)
def photos(settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path / "photos"
    return settings.MEDIA_ROOT


def picture(kind: str = "JPEG", size: tuple[int, int] = (2400, 1200)) -> bytes:
    """Left half red, turned on its side by its orientation, with the place it was taken."""
    image = Image.new("RGB", size, "white")
    image.paste("red", (0, 0, size[0] // 2, size[1]))
    exif = Image.Exif()
    exif[ORIENTATION] = 6
    exif.get_ifd(GPS)[1] = "N"
    exif.get_ifd(GPS)[2] = (51.0, 30.0, 0.0)
    out = io.BytesIO()
    image.save(out, kind, exif=exif)
    return out.getvalue()


def send(world: World, content: bytes, name: str = "ticket.jpg"):
    data = {"entry_id": uuid.uuid4(), "ticket": "4711", "material": "dense-graded", "mass": "8.2"}
    photo = SimpleUploadedFile(name, content, "image/jpeg")
    return world.client("crew").post(f"/jobs/{world.job.id}/lifts/delivered/", data | {"photo": photo})


def test_a_ticket_keeps_a_small_upright_photo_without_its_place(world: World, photos) -> None:
    assert send(world, picture()).status_code == 302
    named = Entry.objects.filter(job=world.job, kind="delivered").get().body["photo"]
    page = world.client("viewer").get(f"/jobs/{world.job.id}/lifts/deliveries/").content.decode()
    assert f"/jobs/{world.job.id}/photos/{named}/" in page
    shown = world.client("viewer").get(f"/jobs/{world.job.id}/photos/{named}/")
    content = b"".join(shown.streaming_content)
    assert shown["Content-Type"] == "image/jpeg" and hashlib.sha256(content).hexdigest() == named
    image = Image.open(io.BytesIO(content))
    # Orientation 6 is a quarter turn to the right: what lay left stands on top.
    assert image.size == (800, 1600) and not image.getexif() and b"Exif" not in content
    upper, lower = (image.getpixel((400, y))[1] for y in (200, 1400))
    assert upper < 60 and lower > 200
    send(world, picture())
    assert len(list(photos.rglob("*.jpg"))) == 1


@pytest.mark.parametrize("kind", ["PNG", "WEBP"])
def test_other_kinds_of_picture_are_taken_too(world: World, kind: str) -> None:
    assert send(world, picture(kind, (300, 200)), "x.bin").status_code == 302


@pytest.mark.parametrize(
    ("content", "says"),
    [(b"GIF89a not a picture", "no photo"), (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no photo"),
     (picture()[:3000], "no photo"), (b"\xff\xd8" + b"0" * 15_000_000, "Larger than 15 MB")],
    ids=["words", "svg", "cut short", "large"],
)  # fmt: skip
def test_what_is_no_photo_is_refused_and_the_ticket_stays_typed(world: World, content: bytes, says: str) -> None:
    answer = send(world, content)
    page = answer.content.decode()
    assert answer.status_code == 422 and says in page and 'value="4711"' in page
    assert not Entry.objects.filter(job=world.job, kind="delivered").exists()


def test_a_photo_with_too_many_pixels_is_refused(world: World, monkeypatch) -> None:
    monkeypatch.setattr("nivelum.jobs.photos.MOST_PIXELS", 1000)
    assert "60 million" in send(world, picture()).content.decode()


def test_a_photo_belongs_to_its_job_alone(world: World) -> None:
    send(world, picture())
    named = Entry.objects.filter(job=world.job, kind="delivered").get().body["photo"]
    other = make_world(name="Others")
    assert other.client("lead").get(f"/jobs/{other.job.id}/photos/{named}/").status_code == 404
    assert other.client("lead").get(f"/jobs/{world.job.id}/photos/{named}/").status_code == 404
    assert world.client("lead").get(f"/jobs/{world.job.id}/photos/..%2F..%2Fsecret/").status_code == 404
