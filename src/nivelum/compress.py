"""Pages go over the wire compressed; streams go as they are made."""

from django.http import HttpRequest, HttpResponseBase
from django.middleware.gzip import GZipMiddleware


class CompressPages(GZipMiddleware):
    """Compresses whole answers. News is left alone: compressed, it would wait for more to come after it."""

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        return response if response.streaming else super().process_response(request, response)
