"""The record: append-only in the database itself, chained, harmless to send twice."""

import json
import threading
import uuid
from datetime import UTC, datetime, timedelta, timezone

import pytest
from django.db import DatabaseError, connection, transaction
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.conftest import World, make_world

from groundwork.entries import Fill, Reading
from groundwork.measures import Unit, cleaned, parse_rod
from groundwork.record import first_fault
from nivelum.crews.models import Person
from nivelum.exchange.services import record_data
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import Author, IdentifierUsed, append
from nivelum.recording.services import Refused
from nivelum.signoffs.services import sign_stage


@pytest.mark.parametrize(
    "sql",
    [
        "UPDATE jobs_entry SET body = '{}' WHERE kind = 'reading'",
        "UPDATE jobs_entry SET at = now() WHERE kind = 'sign_off'",
        "DELETE FROM jobs_entry WHERE kind = 'reading'",
        "DELETE FROM jobs_entry WHERE kind = 'sign_off'",
        "UPDATE jobs_entry SET number = 0 WHERE false",
        "TRUNCATE jobs_entry",
    ],
)
def test_sql_itself_refuses_to_change_or_remove_an_entry(world: World, sql: str) -> None:
    world.shoot_all()
    _sign(world, "lead")
    before = list(Entry.objects.filter(job=world.job).values())
    with (
        pytest.raises(DatabaseError, match="append-only"),
        transaction.atomic(),
        connection.cursor() as cursor,
    ):
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        cursor.execute(sql)
    assert list(Entry.objects.filter(job=world.job).values()) == before


def _sign(world: World, role: str) -> Entry:
    visit = world.visit(role)
    author = Author(visit.person)
    seen = world.assessment().stages.evidence_hash("excavation")
    return sign_stage(visit, "excavation", seen, uuid.uuid4(), author)


def test_the_exported_record_proves_itself(world: World) -> None:
    world.shoot_all()
    _sign(world, "engineer")
    record = json.loads(json.dumps(record_data(world.job)))
    assert first_fault(record["entries"], record["head"]) is None
    kinds = [e["kind"] for e in record["entries"]]
    assert kinds[0] == "design" and kinds.index("sign_off") < kinds.index("services")
    assert record["entries"][-1]["kind"] == "sign_off"
    for entry in record["entries"]:
        harmed = json.loads(json.dumps(record))
        harmed["entries"][entry["number"] - 1]["by"]["name"] = "Someone Else"
        assert first_fault(harmed["entries"]).place == entry["number"]


def test_what_was_typed_is_kept_beside_its_metres(world: World) -> None:
    world.set_up()
    set_up = world.assessment().levels.set_up.id
    typed = parse_rod("5' 2 13/16\"", Unit.MILLIMETRES)
    entry = world.record(Reading(str(uuid.uuid4()), "A1", set_up, typed))
    entry.refresh_from_db()
    assert entry.body["reading"]["typed"] == "5' 2 13/16\""
    # 62 13/16 inches of 25.4 mm exactly.
    assert entry.body["reading"]["m"] == pytest.approx(62.8125 * 0.0254)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    numbers=st.lists(st.floats(allow_nan=False, allow_infinity=False) | st.integers(-(2**53), 2**53), max_size=4),
    text=st.text(max_size=20).map(cleaned),
    device_at=st.datetimes(
        datetime(2020, 1, 1), datetime(2030, 1, 1), timezones=st.sampled_from([UTC, timezone(timedelta(hours=-9.5))])
    ),
)
def test_whatever_is_written_hashes_the_same_when_it_is_read_back(world: World, numbers, text, device_at) -> None:
    body = {"strikes": text, "reason": "", "odd": [*numbers, -0.0, 1e-7, 1.0]}
    append(world.job, "strike", body, Author(world.people["crew"], device_at))
    record = json.loads(json.dumps(record_data(world.job)))
    assert first_fault(record["entries"], record["head"]) is None


def test_sent_twice_it_is_written_once_and_another_thing_under_its_name_is_refused(world: World) -> None:
    fill = Fill(str(uuid.uuid4()), "A1", "stone")
    first = world.record(fill)
    assert world.record(fill) == first
    with pytest.raises(Refused):
        world.record(Fill(fill.id, "A1", "soil"))
    with pytest.raises(Refused):
        world.record(fill, role="lead")
    assert Entry.objects.filter(job=world.job, kind="fill").count() == 1


def test_an_identifier_of_another_crews_entry_tells_nothing_and_writes_nothing(world: World) -> None:
    other = make_world()
    theirs = other.record(Fill(str(uuid.uuid4()), "A1", "stone"))
    with pytest.raises(IdentifierUsed):
        append(world.job, "fill", theirs.body, Author(world.people["crew"]), theirs.id)


def test_a_role_comes_from_ones_own_membership_in_the_jobs_own_crew(world: World) -> None:
    other = make_world()
    viewer = world.people["viewer"]
    other.crew.memberships.create(person=viewer, role="lead")
    fill = {"entry_id": uuid.uuid4(), "station": "A1", "material": "stone", "lifts": "1"}
    client = world.client("viewer")
    assert client.post(f"/jobs/{world.job.id}/ground/fills/", fill).status_code == 403
    assert client.post(f"/jobs/{other.job.id}/ground/fills/", fill).status_code == 302


def together(*work) -> list:
    """Runs each in a thread of its own at once; returns what each returned or raised."""
    results: list = [None] * len(work)
    gate = threading.Barrier(len(work))

    def run(place: int) -> None:
        gate.wait()
        try:
            results[place] = work[place]()
        except Exception as error:
            results[place] = error
        finally:
            connection.close()

    threads = [threading.Thread(target=run, args=(place,)) for place in range(len(work))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    return results


@pytest.fixture
def shared_world(flushable, transactional_db) -> World:
    return make_world()


def test_two_people_signing_at_once_end_in_one_sign_off(shared_world: World) -> None:
    shared_world.shoot_all()
    evidence = shared_world.assessment().stages.evidence_hash("excavation")

    def sign(role: str):
        visit = shared_world.visit(role)
        return lambda: sign_stage(visit, "excavation", evidence, uuid.uuid4(), Author(visit.person))

    results = together(sign("lead"), sign("engineer"), sign("lead"), sign("engineer"))
    assert sum(isinstance(result, Entry) for result in results) == 1, results
    assert Entry.objects.filter(job=shared_world.job, kind="sign_off", body__stage="excavation").count() == 1


def test_many_writers_at_once_make_one_unbroken_chain(shared_world: World) -> None:
    fills = [Fill(str(uuid.uuid4()), "A1", "stone") for _ in range(8)]
    before = shared_world.job.entries.count()
    results = together(*(lambda fill=fill: shared_world.record(fill) for fill in [*fills, *fills]))
    assert all(isinstance(result, Entry) for result in results), results
    record = record_data(Job.objects.get(id=shared_world.job.id))
    assert len(record["entries"]) == before + len(fills)
    assert first_fault(record["entries"], record["head"]) is None


def test_people_and_jobs_that_stand_in_the_record_cannot_be_deleted_from_under_it(world: World) -> None:
    from django.db.models import ProtectedError

    for thing in (Person.objects.get(pk=world.people["lead"].pk), world.job):
        with pytest.raises(ProtectedError):
            thing.delete()
