"""News of new entries, from the database's own notifications to every open stream of this process. What changed on a
job's every page goes along, made once for all who look at that job."""

import asyncio
import json
import logging
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from typing import Any
from uuid import UUID
from weakref import WeakKeyDictionary

import psycopg
from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import connection, connections

from nivelum.jobs.services import CHANNEL

logger = logging.getLogger(__name__)
News = dict[str, Any]
RETRY_SECONDS = 1.0
OPENS_WITHIN = 5.0
"""s: how long a stream waits for the database before it opens without."""
COMPANY = "company"
"""In the news of a job: who is on it and what has just happened, as every page of it shows that."""
WAITING = 200
"""News a slow stream may leave waiting; with more it is told to look again instead."""


def says_of_company(says: Callable[[UUID], str]) -> None:
    """Sets what the news of a job say of its company: the room that keeps the record knows."""
    _says[:] = [says]


_says: list[Callable[[UUID], str]] = []


class Hub:
    """One listening connection, shared by all streams of an event loop. After a lost connection every stream
    is told to look again, since nobody knows what was missed."""

    def __init__(self) -> None:
        self._streams: dict[asyncio.Queue[News | None], UUID | None] = {}
        self._listening: asyncio.Task[None] | None = None
        self._ready, self._heard = asyncio.Event(), asyncio.Event()
        self._waiting: list[News] = []
        self._missed = False

    @asynccontextmanager
    async def stream(self, job: UUID | None = None) -> AsyncIterator[asyncio.Queue[News | None]]:
        """A queue of news from now on, for someone who looks at a `job`; `None` in it means: something may have been
        missed, look again."""
        queue: asyncio.Queue[News | None] = asyncio.Queue(WAITING)
        self._streams[queue] = job
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
            self._streams.pop(queue, None)
            if not self._streams and self._listening:
                self._listening.cancel()
                self._listening = None
                self._ready.clear()

    async def _listen(self) -> None:
        telling = asyncio.create_task(self._go_on_telling())
        try:
            await self._go_on_hearing()
        finally:
            telling.cancel()

    async def _go_on_hearing(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**_where(), autocommit=True) as database:
                    await database.execute(f"LISTEN {CHANNEL}")
                    self._ready.set()
                    if self._missed:
                        self._missed = False
                        self._tell(None)
                    async for notice in database.notifies():
                        self._waiting.append(json.loads(notice.payload))
                        self._heard.set()
            except psycopg.Error:
                self._missed = True
                await asyncio.sleep(RETRY_SECONDS)

    async def _go_on_telling(self) -> None:
        """What came while the news before were told is told in one: of a job the newest alone, which says it all."""
        while await self._heard.wait():
            self._heard.clear()
            news, self._waiting = newest(self._waiting), []
            for each in news:
                self._tell(await self._whole(each))

    async def _whole(self, news: News) -> News:
        """The news, with its job's company where anybody looks at that job."""
        if "job" in news and (job := UUID(news["job"])) in self._streams.values():
            news[COMPANY] = await sync_to_async(_line)(job)
        return news

    def _tell(self, news: News | None) -> None:
        for queue in self._streams:
            if queue.full():
                while not queue.empty():
                    queue.get_nowait()
                queue.put_nowait(None)
            else:
                queue.put_nowait(news)


def newest(news: list[News]) -> list[News]:
    """Of each job its newest entry, which says who is there too, else that somebody came; all that is of no job."""
    of_jobs: dict[str, News] = {}
    for each in (each for each in news if "job" in each):
        if "number" in each or "number" not in of_jobs.get(each["job"], {}):
            of_jobs[each["job"]] = each
    return [*(each for each in news if "job" not in each), *of_jobs.values()]


def _line(job: UUID) -> str:
    """Without a database, or where it cannot be told, it says nothing: whoever hears that asks for itself, and the
    news go on. Gives its connection back."""
    try:
        return "".join(says(job) for says in _says)
    except Exception:
        logger.exception("the company of job %s cannot be told", job)
        return ""
    finally:
        connection.close()


def _where() -> dict[str, Any]:
    if settings.LISTEN_URL:
        return {"conninfo": settings.LISTEN_URL}
    database = connections["default"].settings_dict
    return {
        "host": database["HOST"],
        "port": database["PORT"],
        "user": database["USER"],
        "password": database["PASSWORD"],
        "dbname": database["NAME"],
    }


_hubs: WeakKeyDictionary[asyncio.AbstractEventLoop, Hub] = WeakKeyDictionary()


def hub() -> Hub:
    """The hub of the running event loop."""
    return _hubs.setdefault(asyncio.get_running_loop(), Hub())
