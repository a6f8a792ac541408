"""News of new entries, from the database's own notifications to every open stream of this process."""

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any
from weakref import WeakKeyDictionary

import psycopg
from django.db import connections

from nivelum.jobs.services import CHANNEL

News = dict[str, Any]
RETRY_SECONDS = 1.0
OPENS_WITHIN = 5.0
"""s: how long a stream waits for the database before it opens without."""
WAITING = 200
"""News a slow stream may leave waiting; with more it is told to look again instead."""


class Hub:
    """One listening connection, shared by all streams of an event loop. After a lost connection every stream
    is told to look again, since nobody knows what was missed."""

    def __init__(self) -> None:
        self._streams: set[asyncio.Queue[News | None]] = set()
        self._listening: asyncio.Task[None] | None = None
        self._ready = asyncio.Event()
        self._missed = False

    @asynccontextmanager
    async def stream(self) -> AsyncIterator[asyncio.Queue[News | None]]:
        """A queue of news from now on; `None` in it means: something may have been missed, look again."""
        queue: asyncio.Queue[News | None] = asyncio.Queue(WAITING)
        self._streams.add(queue)
        if self._listening is None or self._listening.done():
            self._listening = asyncio.create_task(self._listen())
        try:
            async with asyncio.timeout(OPENS_WITHIN):
                await self._ready.wait()
        except TimeoutError:
            self._missed = True  # the stream opens all the same, and is told to look again once there is a connection
        try:
            yield queue
        finally:
            self._streams.discard(queue)
            if not self._streams and self._listening:
                self._listening.cancel()
                self._listening = None
                self._ready.clear()

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**_where(), autocommit=True) as database:
                    await database.execute(f"LISTEN {CHANNEL}")
                    self._ready.set()
                    if self._missed:
                        self._missed = False
                        self._tell(None)
                    async for notice in database.notifies():
                        self._tell(json.loads(notice.payload))
            except psycopg.Error:
                self._missed = True
                await asyncio.sleep(RETRY_SECONDS)

    def _tell(self, news: News | None) -> None:
        for queue in self._streams:
            if queue.full():
                while not queue.empty():
                    queue.get_nowait()
                queue.put_nowait(None)
            else:
                queue.put_nowait(news)


def _where() -> dict[str, Any]:
    settings = connections["default"].settings_dict
    return {
        "host": settings["HOST"],
        "port": settings["PORT"],
        "user": settings["USER"],
        "password": settings["PASSWORD"],
        "dbname": settings["NAME"],
    }


_hubs: WeakKeyDictionary[asyncio.AbstractEventLoop, Hub] = WeakKeyDictionary()


def hub() -> Hub:
    """The hub of the running event loop."""
    return _hubs.setdefault(asyncio.get_running_loop(), Hub())
