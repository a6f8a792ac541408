"""Photos of a job: checked to be images, made smaller, stripped of where and with what they were taken, and kept
under the hash of what is left, which is what an entry names."""

import hashlib
import os
import re
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from django.core.exceptions import ValidationError
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


def _file(job: Job, photo_hash: str) -> Path:
    return Path(default_storage.path(f"{job.id}/{photo_hash}.jpg"))


@contextmanager
def keeping(job: Job, photo: Photo | None) -> Iterator[None]:
    """Keeps a photo together with the entry that is written inside, or neither: whole on the disk before it has its
    name, and no longer there where the entry was refused. One that stands under its name already is proved by its
    hash, and put right where it was cut short."""
    if photo is None:
        yield
        return
    file = _file(job, photo.hash)
    ours = not _is(file, photo.hash)
    try:
        # On the disk before the entry is written: nobody who writes to the job waits for a disk meanwhile.
        if ours:
            _put(file, photo.content)
        yield
    except BaseException:
        if ours and not Entry.objects.filter(job=job, body__photo=photo.hash).exists():
            file.unlink(missing_ok=True)
        raise
    if not file.exists():  # the same photo was sent twice at once, and the other refused
        _put(file, photo.content)


def _put(file: Path, content: bytes) -> None:
    """A file under its name, whole or not at all, through a power cut too."""
    file.parent.mkdir(parents=True, exist_ok=True)
    half = file.with_name(f".{uuid.uuid4().hex}")
    try:
        _write(half, content)
        half.replace(file)
        _sync(file.parent)
    finally:
        half.unlink(missing_ok=True)


def keep(job: Job, photo: Photo) -> None:
    """Stores a photo by itself."""
    with keeping(job, photo):
        pass


def _is(file: Path, photo_hash: str) -> bool:
    """Whether a file is the photo of that hash, whole."""
    try:
        return hashlib.sha256(file.read_bytes()).hexdigest() == photo_hash
    except FileNotFoundError:
        return False


def _write(file: Path, content: bytes) -> None:
    with file.open("wb") as half:
        half.write(content)
        half.flush()
        os.fsync(half.fileno())


def _sync(folder: Path) -> None:
    """Makes a name in a folder last through a power cut."""
    opened = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)


def kept(job: Job, photo_hash: str) -> IO[bytes] | None:
    """A photo that an entry of the job names; None where none does, or it is lost."""
    file = file_of(job, photo_hash)
    return file.open("rb") if file and Entry.objects.filter(job=job, body__photo=photo_hash).exists() else None


def file_of(job: Job, photo_hash: str) -> Path | None:
    """Where a photo lies; None where it is lost."""
    file = _file(job, photo_hash)
    return file if file.exists() else None


def shown(request: HttpRequest, found: IO[bytes], photo_hash: str) -> HttpResponseBase:
    """A photo for whoever may see it, who asks again each time whether they still may."""
    headers = {"Cache-Control": "private, no-cache", "ETag": f'"{photo_hash}"'}
    if request.headers.get("If-None-Match") == headers["ETag"]:
        found.close()
        return HttpResponseNotModified(headers=headers)
    return FileResponse(found, content_type="image/jpeg", headers=headers)
