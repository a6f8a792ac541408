"""What is refused before any view: too much, too slowly, too many at once."""

import asyncio
import socket
import time
from collections.abc import Awaitable, Callable, Coroutine
from concurrent.futures import ThreadPoolExecutor

import pytest
from tests.serving import Process

from nivelum import door
from nivelum.door import Door


def scope(path: str = "/", method: str = "GET", **headers: str) -> dict:
    named = [(name.replace("_", "-").encode(), value.encode()) for name, value in headers.items()]
    return {"type": "http", "method": method, "path": path, "raw_path": path.encode(), "query_string": b"",
            "headers": named}  # fmt: skip


async def asked(app, request: dict, *parts: bytes, pause: float = 0.0) -> tuple[int, dict, bytes]:
    """The status, headers and body of an answer; the request's body comes in parts, each after a pause."""
    left, got = list(parts), {}

    async def receive():
        await asyncio.sleep(pause)
        part = left.pop(0) if left else b""
        return {"type": "http.request", "body": part, "more_body": bool(left)}

    async def send(message) -> None:
        if message["type"] == "http.response.start":
            got.update(status=message["status"], headers=dict(message["headers"]), body=b"")
        else:
            got["body"] += message.get("body", b"")

    await app(request, receive, send)
    return got["status"], got["headers"], got["body"]


def echo(before: Callable[[], Awaitable[None]] | None = None):
    async def app(request, receive, send) -> None:
        body, more = b"", bool(dict(request["headers"]).get(b"content-length"))
        while more:
            message = await receive()
            body, more = body + message["body"], message["more_body"]
        if before:
            await before()
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": body})

    return app


def run(work: Coroutine):
    """In a thread of its own, whatever else runs in this one."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


SIGNED_IN = {"cookie": "sessionid=x"}


@pytest.mark.parametrize("size", [0, 1, 65_535, 65_536, 65_537, 131_072, 300_000])
def test_what_is_reasonable_comes_through_as_it_was_sent(size: int) -> None:
    body = bytes(n % 251 for n in range(size))
    request = scope(method="POST", content_length=str(size), **SIGNED_IN)
    assert run(asked(Door(echo()), request, body[:1000], body[1000:])) == (200, {}, body)


@pytest.mark.parametrize(
    ("request_", "status"),
    [
        (scope(method="POST", content_length="2000000", **SIGNED_IN), 413),
        (scope(method="POST", content_length="20000000", content_type="multipart/form-data", **SIGNED_IN), 413),
        (scope(method="POST", content_length="200000", content_type="multipart/form-data"), 413),
        (scope(method="POST", content_length="-1", **SIGNED_IN), 413),
        (scope(method="POST", content_length="9" * 5000, **SIGNED_IN), 413),
        (scope(method="POST", content_length="²", **SIGNED_IN), 413),
        (scope(cookie="a" * 20_000), 431),
        (scope("/" + "a" * 20_000), 414),
    ],
)
def test_too_much_is_refused_by_what_it_says_of_itself(request_: dict, status: int) -> None:
    assert run(asked(Door(echo()), request_, b"x"))[0] == status


def test_a_body_that_says_nothing_of_its_size_is_counted() -> None:
    request = scope(method="POST", transfer_encoding="chunked", accept="application/json", **SIGNED_IN)
    status, headers, body = run(asked(Door(echo()), request, *[b"x" * 100_000] * 12))
    assert status == 413 and b'"refused": "large"' in body and headers[b"content-type"] == b"application/json"


def test_a_body_that_trickles_is_given_up(monkeypatch) -> None:
    monkeypatch.setattr(door, "IDLE", 0.05)
    request = scope(method="POST", content_length="1000", **SIGNED_IN)
    assert run(asked(Door(echo()), request, b"x", b"x", pause=0.5))[0] == 408
    monkeypatch.setattr(door, "IDLE", 5.0)
    monkeypatch.setattr(door, "WHOLE", 0.3)
    assert run(asked(Door(echo()), request, *[b"x"] * 50, pause=0.05))[0] == 408


def test_many_who_trickle_large_bodies_keep_nobody_from_sending_a_reading(monkeypatch) -> None:
    monkeypatch.setattr(door, "BODIES", 2)

    async def all_at_once() -> tuple:
        app = Door(echo())
        large = scope(method="POST", content_length="900000", **SIGNED_IN)
        slow = [asyncio.create_task(asked(app, large, b"x", b"x", pause=0.5)) for _ in range(4)]
        await asyncio.sleep(0.1)
        small = await asked(app, scope(method="POST", content_length="1", **SIGNED_IN), b"x")
        return small[0], sorted([(await task)[0] for task in slow])

    assert run(all_at_once()) == (200, [200, 200, 503, 503])


def test_more_than_there_is_room_for_are_told_to_come_again_and_the_others_are_answered(monkeypatch) -> None:
    monkeypatch.setattr(door, "PLACES", 3)
    monkeypatch.setattr(door, "LINE", 2)
    monkeypatch.setattr(door, "LONGEST_WAIT", 30.0)

    async def all_at_once() -> list:
        opened = asyncio.Event()
        app = Door(echo(opened.wait))
        tasks = [asyncio.create_task(asked(app, scope())) for _ in range(9)]
        while sum(task.done() for task in tasks) < 4:
            await asyncio.sleep(0.01)
        stream = asyncio.create_task(asked(app, scope("/live/")))  # news has room of its own
        opened.set()
        assert (await stream)[0] == 200
        return [await task for task in tasks]

    answers = run(all_at_once())
    assert sorted(status for status, _h, _b in answers) == [200] * 5 + [503] * 4
    assert all(headers[b"retry-after"] for status, headers, _b in answers if status == 503)


def test_one_sign_in_cannot_take_every_stream(monkeypatch) -> None:
    monkeypatch.setattr(door, "STREAMS_EACH", 2)

    async def many() -> list[int]:
        opened = asyncio.Event()
        app = Door(echo(opened.wait))
        # What else stands in a cookie may be anything: a name no library writes, before and after.
        mine, theirs = (
            scope("/live/", cookie=f"a(b=1; csrftoken=c; sessionid={who}; =;{{") for who in ("me", "them")
        )
        tasks = [asyncio.create_task(asked(app, each)) for each in (mine, mine, mine, theirs, mine, theirs)]
        while sum(task.done() for task in tasks) < 2:
            await asyncio.sleep(0.01)
        opened.set()
        first = [(await task)[0] for task in tasks]
        return [*first, (await asked(app, mine))[0]]  # those that ended have made room

    assert run(many()) == [200, 200, 503, 200, 503, 200, 200]


def test_who_waits_too_long_for_a_place_is_told(monkeypatch) -> None:
    monkeypatch.setattr(door, "PLACES", 1)
    monkeypatch.setattr(door, "LONGEST_WAIT", 0.1)

    async def two() -> int:
        opened = asyncio.Event()
        app = Door(echo(opened.wait))
        first = asyncio.create_task(asked(app, scope()))
        await asyncio.sleep(0)
        status = (await asked(app, scope()))[0]
        opened.set()
        await first
        return status

    assert run(two()) == 503


def test_a_head_that_never_ends_is_given_up_and_others_are_answered() -> None:
    # The real server, its limit set short for the test by its environment.
    server = Process(NIVELUM_HEAD_WITHIN="1")
    try:
        slow = [socket.create_connection(("127.0.0.1", server.port)) for _ in range(20)]
        for each in slow[:10]:
            each.sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX-")
        with socket.create_connection(("127.0.0.1", server.port)) as quick:
            quick.sendall(b"GET /signal/ HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            assert quick.recv(200).startswith(b"HTTP/1.1 204")
        ends = time.monotonic() + 60
        for each in slow:
            each.settimeout(ends - time.monotonic())
            assert each.recv(100).startswith(b"HTTP/1.1 408")
            each.close()
    finally:
        server.kill()
