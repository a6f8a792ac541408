"""Photos of a job: checked to be images, made smaller, stripped of where and with what they were taken, and kept
under the hash of what is left, which is what an entry names."""

import hashlib
import io
import re
from dataclasses import dataclass
from typing import IO

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.utils.translation import gettext as _
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from nivelum.jobs.models import Entry, Job

PHOTO_NAME = re.compile("[0-9a-f]{64}")
LARGEST_FILE = 15_000_000
MOST_PIXELS = 60_000_000
SIDE = 1600
"""Pixels a photo has at most on its longer side."""
QUALITY = 82
KINDS = ("JPEG", "PNG", "WEBP")


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
    """The photo in a file as sent. Raises `ValidationError` for what is no photo, or too large."""
    if size > LARGEST_FILE:
        raise ValidationError(_("Larger than 15 MB: send a smaller one."))
    try:
        with Image.open(file, formats=KINDS) as image:
            if image.width * image.height > MOST_PIXELS:
                raise ValidationError(_("More than 60 million pixels: send a smaller one."))
            place = _place(image)
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise ValidationError(_("That is no photo: a JPEG, PNG or WebP.")) from error
    upright.thumbnail((SIDE, SIDE))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY, optimize=True)
    return Photo(out.getvalue(), place)


def _place(image: Image.Image) -> tuple[float, float] | None:
    """Where a photo says it was taken; None where it does not, or what it says is nowhere."""
    try:
        where = image.getexif().get_ifd(ExifTags.IFD.GPSInfo)
        north, east = (
            sum(float(part) / 60**n for n, part in enumerate(where[tag])) * (-1 if where[ref] in "SW" else 1)
            for tag, ref in (
                (ExifTags.GPS.GPSLatitude, ExifTags.GPS.GPSLatitudeRef),
                (ExifTags.GPS.GPSLongitude, ExifTags.GPS.GPSLongitudeRef),
            )
        )
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return None
    return (round(north, 6), round(east, 6)) if abs(north) <= 90 and abs(east) <= 180 else None


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
