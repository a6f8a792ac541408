"""What the server does, for whoever keeps count: by a token, or not there."""

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.crypto import constant_time_compare
from django_prometheus.exports import ExportToDjangoView


@login_not_required
def metrics(request: HttpRequest) -> HttpResponse:
    """Prometheus's text, of all processes together."""
    wanted = f"Bearer {settings.METRICS_TOKEN}"
    if not settings.METRICS_TOKEN or not constant_time_compare(request.headers.get("Authorization", ""), wanted):
        raise Http404
    response: HttpResponse = ExportToDjangoView(request)
    return response
