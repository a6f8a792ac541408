"""A page printed to PDF; run on a bench."""

import base64
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

import weasyprint
from django.conf import settings
from django.core.files.storage import default_storage
from PIL import ImageFile
from weasyprint.urls import URLFetcher, URLFetcherResponse

# WeasyPrint makes Pillow take pictures that were cut short; ours have to be whole, wherever they come in.
ImageFile.LOAD_TRUNCATED_IMAGES = False

PHOTO = "photo:"
FONT = settings.SITE / "static/nivelum/fonts/archivo-latin.woff2"


@cache
def page_font() -> str:
    """The font of printed pages, to stand in them."""
    return "data:font/woff2;base64," + base64.b64encode(FONT.read_bytes()).decode()


@dataclass(frozen=True)
class Sheet:
    """A page as HTML, and the pictures it names as `photo:NAME`, each a file or the name of a kept photo: they
    do not go through whoever asks."""

    html: str
    photos: dict[str, str] = field(default_factory=dict)


class _Given(URLFetcher):  # type: ignore[misc] # its library has no types
    """Whatever a page says, nothing is fetched but the data that stands in it and the pictures given with it."""

    def __init__(self, photos: dict[str, str]) -> None:
        super().__init__(allowed_protocols={"data"})
        self.photos = photos

    def fetch(self, url: str, headers: Any = None) -> URLFetcherResponse:
        file = self.photos.get(url.removeprefix(PHOTO)) if url.startswith(PHOTO) else None
        if file is None:
            return super().fetch(url, headers)
        return URLFetcherResponse(url, _read(file), headers={"Content-Type": "image/jpeg"})


def _read(file: str) -> bytes:
    if file.startswith("/"):
        return Path(file).read_bytes()
    with default_storage.open(file) as found:
        return bytes(found.read())


def printed(sheet: Sheet) -> bytes:
    """A page as PDF."""
    page = weasyprint.HTML(string=sheet.html, url_fetcher=_Given(sheet.photos))
    made: bytes = page.write_pdf(optimize_images=True, dpi=150)
    return made
