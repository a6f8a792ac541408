"""Addresses that open by themselves: what they open with, of which a hash alone is kept, and answers that nobody else
is told of."""

import hashlib
import secrets

from django.http import HttpResponseBase


def new_token() -> str:
    """What an address opens with: 192 bits of chance."""
    return secrets.token_urlsafe(24)


def token_hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def told_to_nobody(response: HttpResponseBase) -> HttpResponseBase:
    """An answer at such an address, which nobody else is told and nobody keeps."""
    response["Referrer-Policy"] = "same-origin"  # with none at all a browser signs nothing: the origin becomes null
    response["X-Robots-Tag"] = "noindex"
    response["Cache-Control"] = "private, no-store"
    return response
