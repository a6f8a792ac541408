"""Files that come in, read on a bench of the workshop: what is said of them is in the words of whoever sent them."""

from django.utils import translation

from groundwork.measures import Unit
from nivelum.exchange import outlines, surfaces
from nivelum.exchange.outlines import FoundOutline
from nivelum.exchange.surfaces import FoundSurface


def read_outline(language: str, name: str, data: bytes, unit: Unit) -> FoundOutline:
    """The outline in a file. Raises `UnreadableFile`."""
    with translation.override(language):
        return outlines.read_outline(name, data, unit)


def read_surface(language: str, name: str, data: bytes, unit: Unit) -> FoundSurface:
    """Points and triangles in a file. Raises `UnreadableFile`."""
    with translation.override(language):
        return surfaces.read_surface(name, data, unit)
