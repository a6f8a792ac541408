"""The door before the application: who is let in at once, how much they may bring, and how long they may take.

All of it stands before any view and any thread. Behind a proxy that has the same limits it changes nothing.
"""

import asyncio
import json
import tempfile
from collections import Counter
from collections.abc import AsyncIterator, Awaitable, Callable, MutableMapping
from contextlib import asynccontextmanager, nullcontext
from typing import IO, Any
from weakref import WeakKeyDictionary

from django.http import parse_cookie

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

PLACES = 16
"""Requests that are answered at once, each in a thread of its own; the database has eight connections for them."""
LINE = 100
"""Requests that may wait for a place."""
LONGEST_WAIT = 8.0
"""s: how long one waits for a place."""
STREAMS, STREAMS_EACH = 400, 24
"""Streams of news that stay open, and those of one sign-in: a tab has one."""
MOST_HEADERS = 16_000
"""Bytes of headers, and of an address."""
MOST_FIELDS, MOST_FILES, MOST_UNKNOWN = 1_100_000, 16_500_000, 100_000
"""Bytes of a body: fields, fields with a file, anything from whoever is not signed in."""
BODIES = 32
"""Large bodies that are received at once."""
IDLE, WHOLE = 20.0, 300.0
"""s: how long nothing of a body may come, and how long all of it may take."""
IN_MEMORY = 256_000
STREAM = "/live/"
ALIVE = "/health/live"
"""Answered before anything else: the process is there, however much goes on."""


class TurnedAway(Exception):
    """A request goes no further; `status` says why and `again` after how many seconds to try again, if at all."""

    def __init__(self, status: int, says: str, again: int | None = None) -> None:
        super().__init__(says)
        self.status, self.says, self.again = status, says, again


BUSY = "Too much at once just now. Nothing was lost: send it again in a moment."


class _Room:
    """How many are inside, in one event loop."""

    def __init__(self) -> None:
        self.places, self.bodies = asyncio.Semaphore(PLACES), asyncio.Semaphore(BODIES)
        self.waiting = self.streams = 0
        self.streams_of: Counter[str] = Counter()


class Door:
    """An ASGI application that lets `app` answer what comes in reasonable amounts."""

    def __init__(self, app: App) -> None:
        self.app = app
        self._rooms: WeakKeyDictionary[asyncio.AbstractEventLoop, _Room] = WeakKeyDictionary()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            raise ValueError(f"no {scope['type']} here")
        if scope["path"] == ALIVE:
            return await _say(send, 200, b"live\n")
        room = self._rooms.setdefault(asyncio.get_running_loop(), _Room())
        begun = False

        async def told(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            most = _most(scope)
            with tempfile.SpooledTemporaryFile(IN_MEMORY) as body:
                if most:
                    await _received(room, receive, body, most, _is_large(scope))
                    body.seek(0)
                async with _stream(room, scope) if scope["path"] == STREAM else _place(room):
                    await self.app(scope, _again(body, receive) if most else receive, told)
        except TurnedAway as refused:
            if not begun:
                await _refuse(scope, send, refused)


def _most(scope: Scope) -> int:
    """How large the body of a request may be; 0 where it brings none. Raises `TurnedAway`."""
    headers: list[tuple[bytes, bytes]] = scope["headers"]
    if len(scope.get("raw_path", b"")) + len(scope["query_string"]) > MOST_HEADERS:
        raise TurnedAway(414, "That address is too long.")
    if sum(len(name) + len(value) for name, value in headers) > MOST_HEADERS:
        raise TurnedAway(431, "Too much in the headers.")
    named = dict(headers)
    if b"content-length" not in named and b"transfer-encoding" not in named:
        return 0
    files = named.get(b"content-type", b"").startswith(b"multipart/")
    most = MOST_FILES if files else MOST_FIELDS
    if b"sessionid=" not in named.get(b"cookie", b""):
        most = MOST_UNKNOWN
    size = named.get(b"content-length", b"0")
    if not size.isdigit() or int(size[:12]) > most or len(size) > 12:
        raise TurnedAway(413, "That is larger than anything wanted here.")
    return most


async def _received(room: _Room, receive: Receive, body: IO[bytes], most: int, large: bool) -> None:
    """Takes in a body, in time and not too large. Raises `TurnedAway`."""
    size = 0
    async with _large_body(room) if large else nullcontext():
        try:
            async with asyncio.timeout(WHOLE):
                while True:
                    async with asyncio.timeout(IDLE):
                        message = await receive()
                    if message["type"] == "http.disconnect":
                        raise TurnedAway(400, "Broken off.")
                    size += len(message.get("body", b""))
                    if size > most:
                        raise TurnedAway(413, "That is larger than anything wanted here.")
                    body.write(message.get("body", b""))
                    if not message.get("more_body"):
                        return
        except TimeoutError:
            raise TurnedAway(408, "That came too slowly.") from None


def _is_large(scope: Scope) -> bool:
    """Whether a body says that it is large, or nothing of its size."""
    size = dict(scope["headers"]).get(b"content-length")
    return size is None or int(size) > IN_MEMORY


@asynccontextmanager
async def _large_body(room: _Room) -> AsyncIterator[None]:
    """One of the large bodies that are received at once; small ones never wait for them. Raises `TurnedAway`."""
    if room.bodies.locked():
        raise TurnedAway(503, BUSY, 5)
    async with room.bodies:
        yield


def _again(body: IO[bytes], receive: Receive) -> Receive:
    """Hands over a body that was taken in, and then what comes after it."""
    given = False

    async def read() -> Message:
        nonlocal given
        if given:
            return await receive()
        part = body.read(65_536)
        given = len(part) < 65_536
        return {"type": "http.request", "body": part, "more_body": not given}

    return read


@asynccontextmanager
async def _place(room: _Room) -> AsyncIterator[None]:
    """A place inside, waited for in a line that is not too long. Raises `TurnedAway`."""
    if room.places.locked() and room.waiting >= LINE:
        raise TurnedAway(503, BUSY, 2)
    room.waiting += 1
    try:
        async with asyncio.timeout(LONGEST_WAIT):
            await room.places.acquire()
    except TimeoutError:
        raise TurnedAway(503, BUSY, 2) from None
    finally:
        room.waiting -= 1
    try:
        yield
    finally:
        room.places.release()


@asynccontextmanager
async def _stream(room: _Room, scope: Scope) -> AsyncIterator[None]:
    """One of the streams. Raises `TurnedAway`."""
    whose = _sign_in(scope)
    if room.streams >= STREAMS or room.streams_of[whose] >= STREAMS_EACH:
        raise TurnedAway(503, BUSY, 10)
    room.streams += 1
    room.streams_of[whose] += 1
    try:
        yield
    finally:
        room.streams -= 1
        room.streams_of[whose] -= 1
        room.streams_of += Counter()  # forgets who has none


def _sign_in(scope: Scope) -> str:
    """What the cookie says of who is signed in; nothing where it does not."""
    return parse_cookie(dict(scope["headers"]).get(b"cookie", b"").decode("latin-1")).get("sessionid", "")


async def _say(send: Send, status: int, body: bytes) -> None:
    headers = [(b"content-type", b"text/plain; charset=utf-8"), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})


async def _refuse(scope: Scope, send: Send, refused: TurnedAway) -> None:
    accept = dict(scope["headers"]).get(b"accept", b"")
    text, kind = refused.says, b"text/plain; charset=utf-8"
    if accept == b"application/json":
        text, kind = json.dumps({"refused": "large", "message": refused.says, "ways": []}), b"application/json"
    headers = [(b"content-type", kind), (b"connection", b"close"), (b"cache-control", b"no-store")]
    if refused.again:
        headers.append((b"retry-after", str(refused.again).encode()))
    body = text.encode()
    headers.append((b"content-length", str(len(body)).encode()))
    await send({"type": "http.response.start", "status": refused.status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
