"""Photos: checked, made smaller, stripped of where they were taken, kept once, shown to the job's crew only."""

import errno
import hashlib
import io
import subprocess
import sys
import uuid

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from tests.conftest import World, make_world

from nivelum.jobs.models import Entry
from nivelum.jobs.photos import Photo, keeping

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


@pytest.mark.parametrize(("kind", "size"), [("PNG", (6000, 4100)), ("JPEG", (9000, 7000))])
def test_a_photo_with_too_many_pixels_is_refused_before_it_is_read(world: World, kind: str, size) -> None:
    out = io.BytesIO()
    Image.new("1" if kind == "PNG" else "L", size).save(out, kind)
    assert "More pixels than any phone takes" in send(world, out.getvalue()).content.decode()


def test_the_largest_photo_is_read_small_and_in_little_memory(world: World) -> None:
    # Read whole, 60 million pixels in colour are 180 MB, and as much again for every step on the way.
    out = io.BytesIO()
    Image.new("RGB", (10_000, 5_900), "grey").save(out, "JPEG")
    measured = subprocess.run(
        [sys.executable, "-c", "import resource, sys; from nivelum.workshop.pictures import made_small; "
         "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss; made_small(sys.stdin.buffer.read()); "
         "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)"],
        input=out.getvalue(), capture_output=True, check=True,
    )  # fmt: skip
    assert int(measured.stdout) < 120_000  # KB


def test_a_photo_cut_short_by_a_full_disk_is_not_taken_for_kept_and_the_true_one_puts_it_right(world, photos) -> None:
    content = picture()
    assert send(world, content).status_code == 302
    (file,) = photos.rglob("*.jpg")
    whole = file.read_bytes()
    file.write_bytes(whole[:1000])
    assert send(world, content).status_code == 302 and file.read_bytes() == whole


def test_a_disk_that_is_full_keeps_neither_the_photo_nor_the_entry_and_asks_to_come_again(
    world: World, photos, monkeypatch
) -> None:
    def full(file, content) -> None:
        file.write_bytes(content[:1000])
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("nivelum.jobs.disk.written", full)
    client = world.client("crew")
    client.raise_request_exception = False
    data = {"entry_id": uuid.uuid4(), "ticket": "4711", "material": "dense-graded", "mass": "8.2"}
    sent = data | {"photo": SimpleUploadedFile("a.jpg", picture(), "image/jpeg")}
    answer = client.post(f"/jobs/{world.job.id}/lifts/delivered/", sent)
    assert answer.status_code == 503 and answer["Retry-After"]
    assert not list(photos.rglob("*.*")) and not Entry.objects.filter(kind="delivered").exists()


def test_no_photo_is_kept_for_an_entry_that_was_refused(world: World, photos) -> None:
    data = {"entry_id": uuid.uuid4(), "stage": "excavation", "caption": "corner"}
    client, where = world.client("crew"), f"/jobs/{world.job.id}/sign-offs/photos/"
    first = data | {"photo": SimpleUploadedFile("a.jpg", picture(), "image/jpeg")}
    assert client.post(where, first).status_code == 302
    second = data | {"photo": SimpleUploadedFile("b.jpg", picture(size=(300, 200)), "image/jpeg")}
    assert client.post(where, second).status_code == 422  # the same name for another thing
    assert len(list(photos.rglob("*.*"))) == 1


def test_a_photo_sent_twice_at_once_stays_though_one_of_the_two_is_refused(world: World, photos) -> None:
    photo = Photo(picture())
    with pytest.raises(ValueError, match="refused"), keeping(world.job, photo), keeping(world.job, photo):
        (file,) = photos.rglob("*.jpg")
        file.unlink()  # as the other's refusal does
        raise ValueError("refused")
    assert not list(photos.rglob("*.*"))
    with keeping(world.job, photo), keeping(world.job, photo):
        next(photos.rglob("*.jpg")).unlink()
    assert [each.read_bytes() for each in photos.rglob("*.*")] == [photo.content]


def test_a_photo_is_asked_for_anew_each_time_and_not_sent_again(world: World) -> None:
    send(world, picture())
    named = Entry.objects.get(job=world.job, kind="delivered").body["photo"]
    where = f"/jobs/{world.job.id}/photos/{named}/"
    first = world.client("viewer").get(where)
    assert first["Cache-Control"] == "private, no-cache"
    again = world.client("viewer").get(where, headers={"If-None-Match": first["ETag"]})
    assert again.status_code == 304
    assert (
        make_world(name="Others").client("lead").get(where, headers={"If-None-Match": first["ETag"]}).status_code
        == 404
    )


def test_a_photo_belongs_to_its_job_alone(world: World) -> None:
    send(world, picture())
    named = Entry.objects.filter(job=world.job, kind="delivered").get().body["photo"]
    other = make_world(name="Others")
    assert other.client("lead").get(f"/jobs/{other.job.id}/photos/{named}/").status_code == 404
    assert other.client("lead").get(f"/jobs/{world.job.id}/photos/{named}/").status_code == 404
    assert world.client("lead").get(f"/jobs/{world.job.id}/photos/..%2F..%2Fsecret/").status_code == 404
