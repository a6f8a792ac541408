"""News of entries, from one database connection to every open stream."""

import asyncio
import json
import re
import uuid
from concurrent.futures import ThreadPoolExecutor

import pytest
from asgiref.sync import sync_to_async
from django.db import DatabaseError, connection
from django.test import AsyncClient
from tests.conftest import make_world

from groundwork.entries import Fill
from nivelum.live import hub as hub_module
from nivelum.people.members import sign_out


async def next_events(stream, wanted: int) -> list[str]:
    got = ""
    async with asyncio.timeout(10):
        async for part in stream:
            got += part.decode() if isinstance(part, bytes) else part
            kinds = [line.removeprefix("event: ") for line in got.splitlines() if line.startswith("event:")]
            kinds = [kind for kind in kinds if kind != "here"]
            if len(kinds) >= wanted:
                break
    return [*kinds, got]


async def open_stream(world, role: str, known: int):
    client = AsyncClient()
    await sync_to_async(client.force_login)(world.people[role], backend="django.contrib.auth.backends.ModelBackend")
    response = await client.get(f"/live/?known={known}&job={world.job.id}")
    assert response.status_code == 200
    return aiter(response.streaming_content)


def test_an_entry_is_heard_by_the_crew_and_by_nobody_else(flushable, transactional_db) -> None:
    ours, others = make_world(), make_world()
    known = ours.job.entries.count()

    async def listen() -> None:
        stream, strangers = await open_stream(ours, "viewer", known), await open_stream(others, "lead", known)
        assert (await anext(stream)).startswith(b"retry")
        assert (await anext(strangers)).startswith(b"retry")
        assert b"event: here" in await anext(strangers)  # themselves
        await sync_to_async(ours.set_up)()
        kind, text = await next_events(stream, 1)
        told = json.loads(re.search(r"event: entry\ndata: (.*)", text)[1])
        assert kind == "entry" and (told["job"], told["number"]) == (str(ours.job.id), known + 1)
        assert "Crew Person: Level set up" in told["company"] and "Viewer Person" in told["company"]
        with pytest.raises(TimeoutError):
            async with asyncio.timeout(0.5):
                await anext(strangers)
        await strangers.aclose()
        await stream.aclose()

    run(listen)


def test_who_missed_something_is_told_to_look_also_after_a_lost_connection(
    flushable, transactional_db, monkeypatch
) -> None:
    world = make_world()
    monkeypatch.setattr(hub_module, "RETRY_SECONDS", 0.1)

    async def listen() -> None:
        stale = await open_stream(world, "crew", 0)
        assert (await next_events(stale, 1))[0] == "look"
        await stale.aclose()
        stream = await open_stream(world, "crew", 1)
        assert (await anext(stream)).startswith(b"retry")

        def cut() -> None:
            with connection.cursor() as cursor:
                cursor.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                    "WHERE query LIKE 'LISTEN%%' AND datname = current_database()"
                )

        await sync_to_async(cut)()
        assert (await next_events(stream, 1))[0] == "look"
        await sync_to_async(world.record)(Fill(str(uuid.uuid4()), "A1", "stone"))
        assert (await next_events(stream, 1))[0] == "entry"
        await stream.aclose()

    run(listen)


def test_a_stream_that_opened_before_the_database_answered_is_told_to_look(
    flushable, transactional_db, monkeypatch
) -> None:
    world = make_world()
    known = world.job.entries.count()
    monkeypatch.setattr(hub_module, "OPENS_WITHIN", 0.05)
    connect = hub_module.psycopg.AsyncConnection.connect
    answers = asyncio.Event()

    async def late(**where):
        await answers.wait()
        return await connect(**where)

    monkeypatch.setattr(hub_module.psycopg.AsyncConnection, "connect", late)

    async def listen() -> None:
        stream = await open_stream(world, "crew", known)
        assert b"look" not in await anext(stream)
        answers.set()
        assert (await next_events(stream, 1))[0] == "look"
        await stream.aclose()

    run(listen)


def test_whoever_leaves_the_crew_hears_nothing_more_at_once_and_the_others_go_on(flushable, transactional_db) -> None:
    world = make_world()
    known = world.job.entries.count()

    async def listen() -> None:
        leaver, stays = await open_stream(world, "viewer", known), await open_stream(world, "crew", known)
        for stream in (leaver, stays):
            assert (await anext(stream)).startswith(b"retry")
        await sync_to_async(world.people["viewer"].memberships.all().delete)()
        async with asyncio.timeout(10):
            told = [part async for part in leaver]
        assert all(b"event: here" in part for part in told)
        await sync_to_async(world.set_up)()
        assert (await next_events(stays, 1))[0] == "entry"
        await stays.aclose()
        again = await open_stream(world, "viewer", known)
        assert b"look" in await anext(again)  # none of the crew's entries are theirs to count any more
        await sync_to_async(world.set_up)()
        with pytest.raises(TimeoutError):
            async with asyncio.timeout(0.5):
                await anext(again)
        await again.aclose()

    run(listen)


def test_whoever_is_signed_out_elsewhere_hears_nothing_more_from_then_on(flushable, transactional_db) -> None:
    world = make_world()
    known = world.job.entries.count()

    async def listen() -> None:
        theirs, stays = await open_stream(world, "viewer", known), await open_stream(world, "crew", known)
        for stream in (theirs, stays):
            assert (await anext(stream)).startswith(b"retry")
        await sync_to_async(sign_out)(world.people["viewer"])
        async with asyncio.timeout(10):
            assert all(b"event: here" in part for part in [part async for part in theirs])
        await sync_to_async(world.set_up)()
        assert (await next_events(stays, 1))[0] == "entry"
        await stays.aclose()

    run(listen)


def run(work) -> None:
    async def and_tidy_up() -> None:
        try:
            await work()
        finally:
            await sync_to_async(lambda: connection.close())()

    with ThreadPoolExecutor(1) as thread:  # in the tests' own another loop may be running
        thread.submit(asyncio.run, and_tidy_up()).result()


def test_a_stream_asked_for_wrongly_is_refused(flushable, transactional_db) -> None:
    lead = make_world().people["lead"]

    async def ask() -> None:
        client = AsyncClient()
        await sync_to_async(client.force_login)(lead, backend="django.contrib.auth.backends.ModelBackend")
        for query in ("", "?known=x", "?known=-1", "?known=1&job=x"):
            assert (await client.get(f"/live/{query}")).status_code == 400

    run(ask)


def test_what_changed_is_made_once_for_all_who_look_at_the_job_and_goes_to_nobody_else(
    flushable, transactional_db, monkeypatch
) -> None:
    world = make_world()
    known, made = world.job.entries.count(), []

    def says(job: uuid.UUID) -> str:
        made.append(job)
        if len(made) > 1:
            raise DatabaseError
        return "said"

    async def listen() -> None:
        looking = [await open_stream(world, role, known) for role in ("lead", "crew", "viewer")]
        client = AsyncClient()
        await sync_to_async(client.force_login)(
            world.people["lead"], backend="django.contrib.auth.backends.ModelBackend"
        )
        yard = aiter((await client.get(f"/live/?known={known}")).streaming_content)
        for stream in (*looking, yard):
            await anext(stream)
        await asyncio.sleep(0.5)  # until all have been told of each other
        monkeypatch.setattr(hub_module, "_says", [says])
        await sync_to_async(world.set_up)()
        told = [(await next_events(stream, 1))[-1] for stream in looking]
        assert len(made) == 1 and all('"company": "said"' in text for text in told)
        assert "company" not in (await next_events(yard, 1))[-1].split("event: entry")[1]
        await sync_to_async(world.record)(
            Fill(str(uuid.uuid4()), "A1", "stone")
        )  # without a database it goes without
        assert ["company" in (await next_events(stream, 1))[-1].split("event: entry")[-1] for stream in looking] == (
            [False] * 3
        )
        for stream in (*looking, yard):
            await stream.aclose()

    run(listen)


def test_what_comes_while_news_are_told_is_told_in_one() -> None:
    here, first, second = {"job": "a", "here": 1}, {"job": "a", "number": 1}, {"job": "a", "number": 2}
    other, left = {"job": "b", "here": 1}, {"left": 4, "crew": "c"}
    assert hub_module.newest([first, here, other, second, here, left]) == [left, second, other]
    assert hub_module.newest([here, first]) == [first]
    assert hub_module.newest([]) == []
