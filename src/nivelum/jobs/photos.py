"""Photos of a job: checked to be images, made smaller, stripped of where and with what they were taken, and kept
under the hash of what is left, which is what an entry names."""

import hashlib
import re
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import IO

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.http import FileResponse, HttpRequest, HttpResponseBase, HttpResponseNotModified
from django.utils.translation import gettext as _

from nivelum.jobs.models import Entry, Job
from nivelum.workshop.bench import QUICK, TooMuch
from nivelum.workshop.pictures import NoPicture, made_small

PHOTO_NAME = re.compile("[0-9a-f]{64}")
LARGEST_FILE = 15_000_000


@dataclass(frozen=True)
class Photo:
    """A photo as it is kept: JPEG, its SHA-256 in hexadecimal. Where it was taken, degrees north and east, is not in
    it any more, and stands beside it for crews that keep that."""

    content: bytes
    place: tuple[float, float] | None = None

    @property
    def hash(self) -> str:
        return hashlib.sha256(self.content).hexdigest()


def photo_of(file: IO[bytes], size: int) -> Photo:
    """The photo in a file as sent, made small in the workshop. Raises `ValidationError` for what is no photo, or too
    large, `Busy` where the workshop has no room."""
    if size > LARGEST_FILE:
        raise ValidationError(_("Larger than 15 MB: send a smaller one."))
    try:
        return Photo(*QUICK.done(made_small, file.read()))
    except NoPicture as error:
        if error.pixels:
            raise ValidationError(_("More pixels than any phone takes: send a smaller one, as JPEG.")) from error
        raise ValidationError(_("That is no photo: a JPEG, PNG or WebP.")) from error
    except TooMuch as error:
        raise ValidationError(_("It takes too much to read that photo: send a smaller one.")) from error


def stored_as(job_id: object, photo_hash: str) -> str:
    """What a photo of a job is called where photos are kept."""
    return f"{job_id}/{photo_hash}.jpg"


@contextmanager
def keeping(job: Job, photo: Photo | None) -> Iterator[None]:
    """Keeps a photo together with the entry that is written inside, or neither: whole before it has its
    name, and no longer there where the entry was refused. One that stands under its name already is proved by its
    hash, and put right where it was cut short."""
    if photo is None:
        yield
        return
    name = stored_as(job.id, photo.hash)
    ours = not _is(name, photo.hash)
    try:
        # On the disk before the entry is written: nobody who writes to the job waits for a disk meanwhile.
        if ours:
            put(name, photo.content)
        yield
    except BaseException:
        if ours and not Entry.objects.filter(job=job, body__photo=photo.hash).exists():
            default_storage.delete(name)
        raise
    if not default_storage.exists(name):  # the same photo was sent twice at once, and the other refused
        put(name, photo.content)


def put(name: str, content: bytes) -> None:
    """Keeps a file under its name, in the place of what is there."""
    default_storage.save(name, ContentFile(content))


def keep(job: Job, photo: Photo) -> None:
    """Stores a photo by itself."""
    with keeping(job, photo):
        pass


def _is(name: str, photo_hash: str) -> bool:
    """Whether what is kept under a name is the photo of that hash, whole."""
    found = _opened(name)
    if found is None:
        return False
    with found:
        return hashlib.sha256(found.read()).hexdigest() == photo_hash


def _opened(name: str) -> IO[bytes] | None:
    try:
        return default_storage.open(name)
    except FileNotFoundError:
        return None


def kept(job: Job, photo_hash: str) -> IO[bytes] | None:
    """A photo that an entry of the job names; None where none does, or it is lost."""
    named = Entry.objects.filter(job=job, body__photo=photo_hash).exists()
    return _opened(stored_as(job.id, photo_hash)) if named else None


def place_of(job: Job, photo_hash: str) -> str | None:
    """Where a photo lies: its file, or its name where photos are kept elsewhere; None where it is lost."""
    name = stored_as(job.id, photo_hash)
    if not default_storage.exists(name):
        return None
    try:
        return default_storage.path(name)
    except NotImplementedError:
        return name


def shown(request: HttpRequest, found: IO[bytes], photo_hash: str) -> HttpResponseBase:
    """A photo for whoever may see it, who asks again each time whether they still may."""
    headers = {"Cache-Control": "private, no-cache", "ETag": f'"{photo_hash}"'}
    if request.headers.get("If-None-Match") == headers["ETag"]:
        found.close()
        return HttpResponseNotModified(headers=headers)
    return FileResponse(found, content_type="image/jpeg", headers=headers)
