"""A kind of entry added in one file of the core and one of the web goes wherever entries go; and every kind there is
has both."""

import importlib
import json
import sys
import uuid

import pytest
from tests.conftest import World

from groundwork.assess import assess
from groundwork.files import JobFileError, dumps, fault_of, loads, read_exported, schema
from groundwork.kinds import KINDS
from nivelum.exchange.services import import_job, record_data
from nivelum.jobs.models import Entry
from nivelum.jobs.services import snapshot
from nivelum.recording.kinds import FACES

pytestmark = pytest.mark.django_db


@pytest.fixture
def seepage():
    """The made-up kind, as long as a test asks for it."""
    kind = importlib.import_module("tests.seepage.kind")
    importlib.import_module("tests.seepage.face")
    yield kind.Seepage
    del KINDS["seepage"], FACES["seepage"]
    for name in [name for name in sys.modules if name.startswith("tests.seepage")]:
        del sys.modules[name]


def test_every_kind_is_shown() -> None:
    assert FACES.keys() == KINDS.keys()


def test_a_new_kind_goes_through_page_outbox_job_file_record_diary_and_verification(world: World, seepage) -> None:
    client = world.client("crew")
    job = f"/jobs/{world.job.id}"

    page = client.get(f"{job}/lifts/tests/?lift=base.1").content.decode()
    assert "Water seen" in page and f'action="{job}/lifts/seepage/"' in page and "Water, l/min" in page
    sent = {"entry_id": str(uuid.uuid4()), "lift": "base.1", "rate": "2.5", "where": "by the gate"}
    assert client.post(f"{job}/lifts/seepage/", sent).status_code == 302
    again = client.post(f"{job}/lifts/seepage/", sent | {"entry_id": str(uuid.uuid4())})
    assert again.status_code == 422 and "That water is logged already: strike it out first." in again.content.decode()
    bad = client.post(f"{job}/lifts/seepage/", sent | {"entry_id": str(uuid.uuid4()), "rate": "much"})
    assert bad.status_code == 422 and 'value="much"' in bad.content.decode()

    outbox = {"Accept": "application/json"}
    other = sent | {"entry_id": str(uuid.uuid4()), "lift": "base"}
    assert client.post(f"{job}/lifts/seepage/", other, headers=outbox).json()["written"] == other["entry_id"]
    assert client.post(f"{job}/lifts/seepage/", other, headers=outbox).json()["written"] == other["entry_id"]
    third = client.post(f"{job}/lifts/seepage/", other | {"entry_id": str(uuid.uuid4())}, headers=outbox)
    assert third.status_code == 422 and third.json()["message"].startswith("That water is logged already")

    found = [e for e in snapshot(world.job).assessment.logbook.entries.values() if isinstance(e, seepage)]
    assert [(e.lift, e.rate, e.where) for e in found] == [
        ("base.1", 2.5, "by the gate"),
        ("base", 2.5, "by the gate"),
    ]
    diary = client.get(f"{job}/record/").content.decode()
    assert "water seen, Base, lift 1" in diary and "2.5 l/min by the gate" in diary

    assert "seepage" in schema()["$defs"] and "rate_l_min" in schema()["$defs"]["seepage"]["required"]
    text = dumps(snapshot(world.job).assessment.job)
    assert [e for e in loads(text).entries if isinstance(e, seepage)] == found
    data = json.loads(text)
    row = next(entry for entry in data["entries"] if entry["kind"] == "seepage")
    for change, path in (({"rate_l_min": 0}, "rate_l_min"), ({"lift": "moon"}, "lift"), ({"odd": 1}, "")):
        with pytest.raises(JobFileError) as caught:
            loads(json.dumps(data | {"entries": [row | change]}))
        assert caught.value.path == "entries[0]" + (path and f".{path}")
    brought_in = import_job(world.crew, loads(text), [world.people["crew"]])
    assert Entry.objects.filter(job=brought_in, kind="seepage").count() == 2

    exported = read_exported(json.dumps(record_data(world.job)).encode())
    assert fault_of(exported) is None and [e["kind"] for e in exported.entries].count("seepage") == 2

    strike = {"entry_id": str(uuid.uuid4()), "strikes": found[0].id, "kind": "seepage", "lift": "base.1"}
    assert client.post(f"{job}/lifts/strikes/", strike).status_code == 302
    left = snapshot(world.job).assessment.logbook.of_kind(seepage)
    assert list(left) == [found[1].id]
    assert client.post(f"{job}/lifts/seepage/", sent | {"entry_id": str(uuid.uuid4())}).status_code == 302


def test_without_its_file_a_record_that_holds_a_kind_is_not_read_as_though_it_did_not(world: World, seepage) -> None:
    """A reader that passes over what it does not know proves less than it seems to."""
    from groundwork.files import exported

    world.write([seepage(str(uuid.uuid4()), "base", 1.0)])
    data = json.dumps(record_data(world.job)).encode()
    kind = KINDS.pop("seepage")
    with pytest.raises(exported.NoRecord):
        read_exported(data)
    KINDS["seepage"] = kind


def test_what_a_file_brings_is_held_to_the_same_rules_as_what_a_page_sends(world: World, seepage) -> None:
    """The rule is the kind's own: the file is judged at its place among what came before it, the page now."""
    job = snapshot(world.job).assessment.job
    twice = [seepage("a", "base", 1.0), seepage("b", "base", 2.0)]
    there = assess(job).standing
    assert twice[0].wrong(there) is None and seepage("c", "moon", 1.0).wrong(there).field == "lift"
