"""A page printed to PDF; run on a bench."""

import weasyprint
from PIL import ImageFile
from weasyprint.urls import URLFetcher

# WeasyPrint makes Pillow take pictures that were cut short; ours have to be whole, wherever they come in.
ImageFile.LOAD_TRUNCATED_IMAGES = False


def printed(html: str) -> bytes:
    """A page as PDF. Whatever it says, nothing is fetched for it but the data that stands in it."""
    sheet = weasyprint.HTML(string=html, url_fetcher=URLFetcher(allowed_protocols={"data"}))
    made: bytes = sheet.write_pdf(optimize_images=True, dpi=150)
    return made
