"""Photos of a job: checked to be images, made smaller, stripped of where and with what they were taken, and kept
under the hash of what is left, which is what an entry names."""

import hashlib
import io
from dataclasses import dataclass
from typing import IO

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.utils.translation import gettext as _
from PIL import Image, ImageOps, UnidentifiedImageError

from nivelum.jobs.models import Entry, Job

LARGEST_FILE = 15_000_000
MOST_PIXELS = 60_000_000
SIDE = 1600
"""Pixels a photo has at most on its longer side."""
QUALITY = 82
KINDS = ("JPEG", "PNG", "WEBP")


@dataclass(frozen=True)
class Photo:
    """A photo as it is kept: JPEG, its SHA-256 in hexadecimal."""

    content: bytes

    @property
    def hash(self) -> str:
        return hashlib.sha256(self.content).hexdigest()


def photo_of(file: IO[bytes], size: int) -> Photo:
    """The photo in a file as sent. Raises `ValidationError` for what is no photo, or too large."""
    if size > LARGEST_FILE:
        raise ValidationError(_("Larger than 15 MB: send a smaller one."))
    try:
        with Image.open(file, formats=KINDS) as image:
            if image.width * image.height > MOST_PIXELS:
                raise ValidationError(_("More than 60 million pixels: send a smaller one."))
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise ValidationError(_("That is no photo: a JPEG, PNG or WebP.")) from error
    upright.thumbnail((SIDE, SIDE))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY, optimize=True)
    return Photo(out.getvalue())


def _name(job: Job, photo_hash: str) -> str:
    return f"{job.id}/{photo_hash}.jpg"


def keep(job: Job, photo: Photo) -> None:
    """Stores a photo; the same one twice is kept once."""
    name = _name(job, photo.hash)
    if not default_storage.exists(name):
        default_storage.save(name, ContentFile(photo.content))


def kept(job: Job, photo_hash: str) -> IO[bytes] | None:
    """A photo that an entry of the job names; None where none does, or it is lost."""
    name = _name(job, photo_hash)
    if not Entry.objects.filter(job=job, body__photo=photo_hash).exists() or not default_storage.exists(name):
        return None
    return default_storage.open(name)
