"""Pages go over the wire compressed; streams go as they are made, and what is compressed in itself as it is."""

from django.http import HttpRequest, HttpResponseBase
from django.middleware.gzip import GZipMiddleware

AS_IT_IS = ("application/pdf", "application/zip", "image/jpeg", "image/png", "font/")


class CompressPages(GZipMiddleware):
    """Compresses whole answers. News is left alone: compressed, it would wait for more to come after it; so is what
    would cost time and gain nothing."""

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        as_it_is = response.streaming or response.get("Content-Type", "").startswith(AS_IT_IS)
        return response if as_it_is else super().process_response(request, response)
