"""Open streams on a running server."""

import http.client
from urllib.parse import urlsplit

import pytest

from tests.conftest import make_world

pytestmark = pytest.mark.browser


def test_many_open_pages_do_not_use_up_the_databases_connections(site: str) -> None:
    world = make_world()
    cookie = world.client("crew").cookies["sessionid"].value
    headers = {"Cookie": f"sessionid={cookie}"}
    streams = []
    for _ in range(24):
        stream = http.client.HTTPConnection(urlsplit(site).netloc, timeout=10)
        stream.request("GET", f"/live/?known=1&job={world.job.id}", headers=headers)
        assert stream.getresponse().readline().startswith(b"retry")
        streams.append(stream)
    page = http.client.HTTPConnection(urlsplit(site).netloc, timeout=10)
    page.request("GET", f"/jobs/{world.job.id}/ground/", headers=headers)
    assert page.getresponse().status == 200
    for open_one in [*streams, page]:
        open_one.close()
