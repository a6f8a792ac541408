"""QR codes: a head, or an address, for a page that is printed and a board that stands on the site."""

from functools import lru_cache

import segno


@lru_cache(maxsize=64)
def qr(text: str) -> str:
    """The code as an SVG data address, to stand in an `img`."""
    code = segno.make(text, error="m", micro=False)
    address: str = code.svg_data_uri(scale=4, border=3, dark="#18222b", light="#fbfaf6")
    return address
