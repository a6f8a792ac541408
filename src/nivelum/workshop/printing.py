"""A page printed to PDF; run on a bench."""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import weasyprint
from PIL import ImageFile
from weasyprint.urls import URLFetcher, URLFetcherResponse

# WeasyPrint makes Pillow take pictures that were cut short; ours have to be whole, wherever they come in.
ImageFile.LOAD_TRUNCATED_IMAGES = False

PHOTO = "photo:"


@dataclass(frozen=True)
class Sheet:
    """A page as HTML, and the files of the pictures it names as `photo:NAME`: they do not go through whoever asks."""

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
        return URLFetcherResponse(url, Path(file).read_bytes(), headers={"Content-Type": "image/jpeg"})


def printed(sheet: Sheet) -> bytes:
    """A page as PDF."""
    page = weasyprint.HTML(string=sheet.html, url_fetcher=_Given(sheet.photos))
    made: bytes = page.write_pdf(optimize_images=True, dpi=150)
    return made
