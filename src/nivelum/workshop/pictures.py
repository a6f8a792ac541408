"""Photos made small and bare; run on a bench."""

import io

from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

MOST_PIXELS = 60_000_000
MOST_AT_ONCE = 24_000_000
"""Pixels of a picture that can only be read whole; a JPEG is read smaller."""
SIDE = 1600
"""Pixels a photo has at most on its longer side."""
QUALITY = 82
KINDS = ("JPEG", "PNG", "WEBP")
Place = tuple[float, float]


class NoPicture(ValueError):
    """What was sent is no photo, or one with too many pixels: `pixels` says which."""

    def __init__(self, pixels: bool = False) -> None:
        super().__init__(pixels)
        self.pixels = pixels


def made_small(data: bytes) -> tuple[bytes, Place | None]:
    """The picture as JPEG without anything but its pixels, upright, and where it says it was taken. Raises
    `NoPicture`."""
    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as image:
            most = MOST_PIXELS if image.format == "JPEG" else MOST_AT_ONCE
            if image.width * image.height > most:
                raise NoPicture(pixels=True)
            place = _place(image)
            image.draft("RGB", (2 * SIDE, 2 * SIDE))
            image.thumbnail((SIDE, SIDE))
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except NoPicture:
        raise
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise NoPicture from error
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue(), place


def _place(image: Image.Image) -> Place | None:
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
