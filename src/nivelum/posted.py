"""What people send, as it may be kept: every text cleaned in one place before a view sees it."""

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse, HttpResponseBase, QueryDict
from django.utils.deprecation import MiddlewareMixin

from groundwork.measures import cleaned, first_that_cannot_stand


class CleanPosted(MiddlewareMixin):
    """Hands views what was typed without letters that XML or PostgreSQL cannot hold. A name of a field with one of
    them in it comes from no form of ours: 400. Fields larger than settings allow: 413."""

    def process_request(self, request: HttpRequest) -> HttpResponse | None:
        try:
            sent = request.POST if request.method == "POST" else None
        except RequestDataTooBig:
            return HttpResponse("Too large.", status=413, content_type="text/plain")
        for data in (request.GET, sent):
            if data and first_that_cannot_stand(list(data)):
                return HttpResponse("A field has no such name.", status=400, content_type="text/plain")
        if request.GET:
            request.GET = _cleaned(request.GET)  # type: ignore[assignment] # mutable is read alike
        if sent:
            request.POST = _cleaned(sent)  # type: ignore[assignment]
        return None


def _cleaned(data: QueryDict) -> QueryDict:
    found = QueryDict(mutable=True)
    for key, values in data.lists():
        found.setlist(key, [cleaned(value) for value in values])
    found._mutable = False
    return found


FEATURES = (
    "accelerometer", "ambient-light-sensor", "autoplay", "bluetooth", "camera", "display-capture", "geolocation",
    "gyroscope", "hid", "magnetometer", "microphone", "midi", "payment", "serial", "usb", "xr-spatial-tracking",
)  # fmt: skip


class KeptPrivate(MiddlewareMixin):
    """An answer that says nothing of its own is kept by nobody but who asked, and not by them either; no page asks a
    device for what it does not need."""

    POLICY = ", ".join(f"{feature}=()" for feature in FEATURES)

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        response.setdefault("Cache-Control", "private, no-store")
        response.setdefault("Permissions-Policy", self.POLICY)
        return response
