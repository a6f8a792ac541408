"""The record taken along: read as a page, printed, exported, proved from the export alone, backed up and restored."""

import copy
import csv
import io
import json
import random
import subprocess
import tempfile
import uuid
import zipfile
from collections import defaultdict
from datetime import timedelta
from html import unescape
from pathlib import Path

import psycopg
import pytest
from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection
from django.utils import timezone
from django.utils.html import strip_tags
from hypothesis import given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from icalendar import Calendar
from tests.conftest import World, made, make_world
from tests.groundwork.test_entries import ALL
from tests.nivelum.test_proving import jpeg, post, proved

from groundwork.cli import main
from groundwork.kinds import STORED
from groundwork.measures import Unit, format_amount, format_level, format_reading
from groundwork.record import Head, entry_hash, head_of, held_to
from nivelum.exchange.services import record_data
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import snapshot, snapshot_at
from nivelum.jobs.templatetags.measures import amount, level, reading
from nivelum.recording.kinds import FACES
from nivelum.records.aside import Unusable, looked_into, run
from nivelum.records.backup import back_up, check, restore
from nivelum.records.exports import record_sheet
from nivelum.records.telling import told_plainly
from nivelum.workshop.printing import Sheet, printed

HARMS = ("change a value", "change who", "change when", "remove", "swap", "insert", "rewrite one", "another job's")


@pytest.fixture(scope="module")
def exported(django_db_setup, django_db_blocker) -> dict:
    """A real record: a dig shot, looked at, signed, accepted and taken back."""
    with django_db_blocker.unblock():
        world = make_world()
        world.shoot_all()
        world.shoot("A1", high_mm=40)
        stop = next(f for f in world.assessment().stages.of("excavation").stops if f.rule == "D02")
        post(world, "accept", {"finding": stop.identity, "reason": "rock, left as it is"}, role="lead")
        signed = world.sign("excavation")
        post(world, "take-back", {"withdraws": str(signed.id), "reason": "it can be broken out"}, role="lead")
        return json.loads(json.dumps(record_data(world.job)))


def verified(record: dict, tmp_path: Path, capsys, *heads: str) -> tuple[int, str]:
    file = tmp_path / "record.json"
    file.write_text(json.dumps(record), encoding="utf-8")
    code = main(["verify", str(file), *(part for head in heads for part in ("--head", head))])
    said = capsys.readouterr()
    return code, said.out + said.err


def chained(entries: list[dict], start: int) -> None:
    """The chain forged anew from a place on, as someone with the database could."""
    previous = entries[start - 1]["hash"] if start else "0" * 64
    for number, entry in enumerate(entries[start:], start=start + 1):
        entry["number"], entry["previous"] = number, previous
        entry["hash"] = previous = entry_hash(entry)


@hypothesis_settings(max_examples=150)
@given(st.sampled_from(HARMS), st.data())
def test_whatever_is_done_to_an_export_verify_finds_it_and_names_the_entry(
    exported, tmp_path_factory, harm, data
) -> None:
    record = copy.deepcopy(exported)
    entries = record["entries"]
    place = data.draw(st.integers(0, len(entries) - 1))
    other = data.draw(st.integers(0, len(entries) - 1).filter(lambda n: n != place))
    named = place
    match harm:
        case "change a value":
            spoil(entries[place]["body"], random.Random(place))
        case "change who":
            entries[place]["by"] = {"id": entries[place]["by"]["id"] + 1, "name": "Someone Else"}
        case "change when":
            entries[place]["at"] = "2020-01-01T00:00:00+00:00"
        case "remove":
            del entries[place]
            named = min(place, len(entries) - 1)
        case "swap":
            entries[place], entries[other] = entries[other], entries[place]
            named = min(place, other)
        case "insert":
            entries.insert(place, copy.deepcopy(entries[other]))
        case "rewrite one":
            entries[place]["body"] = {"forged": True}
            entries[place]["hash"] = entry_hash(entries[place])
            named = min(place + 1, len(entries) - 1)
        case "another job's":
            forged = copy.deepcopy(entries[place]) | {"job": str(uuid.UUID(int=8))}
            entries.insert(place + 1, forged)
            named = min(place + 1, len(entries) - 1)
    file = tmp_path_factory.mktemp("verify") / "record.json"
    file.write_text(json.dumps(record), encoding="utf-8")
    done = subprocess_free(file)
    assert done[0] == 1, (harm, done)
    assert int(done[1].split()[1]) in (named, named + 1, named + 2), (harm, place, done)


def subprocess_free(file: Path) -> tuple[int, str]:
    from contextlib import redirect_stdout

    out = io.StringIO()
    with redirect_stdout(out):
        code = main(["verify", str(file)])
    return code, out.getvalue()


def spoil(body: dict, chance: random.Random) -> None:
    """Changes one value somewhere inside."""
    key = chance.choice(list(body))
    value = body[key]
    if isinstance(value, dict) and value:
        spoil(value, chance)
    elif isinstance(value, bool) or value is None:
        body[key] = "changed"
    elif isinstance(value, int | float):
        body[key] = value + 1
    else:
        body[key] = f"{value} changed"


@pytest.mark.parametrize("start", [0, 1, 5, -2])
def test_a_tail_written_anew_is_caught_by_a_head_published_before(exported, tmp_path, capsys, start: int) -> None:
    head = Head(exported["head"], len(exported["entries"]), exported["job"]["id"])
    forged = copy.deepcopy(exported)
    start %= len(forged["entries"])
    forged["entries"][start]["body"] = {"forged": True, "name": "Test pad"}
    chained(forged["entries"], start)
    forged["head"] = forged["entries"][-1]["hash"]
    assert verified(forged, tmp_path, capsys)[0] == 0  # by itself it is a chain like any other
    for published in (str(head), f"{head.number}:{head.hash}", head.hash):
        code, said = verified(forged, tmp_path, capsys, published)
        assert code == 1 and f"entry {head.number}" in said, said
    assert verified(exported, tmp_path, capsys, str(head))[0] == 0


def test_a_record_that_has_grown_leads_through_the_heads_published_on_its_way(exported, tmp_path, capsys) -> None:
    heads = [f"{e['number']}:{e['hash']}" for e in exported["entries"]][3:9]
    assert verified(exported, tmp_path, capsys, *heads)[0] == 0
    cut = exported | {"entries": exported["entries"][:6], "head": exported["entries"][5]["hash"]}
    code, said = verified(cut, tmp_path, capsys, *heads)
    assert code == 1 and "the end is missing" in said
    assert verified(exported, tmp_path, capsys, "not a head")[0] == 2
    assert held_to(exported["entries"], head_of(f"nivelum-head/1 another {heads[0].replace(':', ' ')}")).place == 1


@pytest.mark.parametrize("junk", ["", "[]", "{}", '{"entries": 3, "head": 1}', '{"entries": [1], "head": ""}', "nul"])
def test_what_is_no_record_is_said_to_be_none(tmp_path, capsys, junk: str) -> None:
    file = tmp_path / "junk.json"
    file.write_text(junk, encoding="utf-8")
    assert main(["verify", str(file)]) == 2


def test_a_bundle_proves_its_photos_too(world: World, settings, tmp_path, capsys) -> None:
    settings.MEDIA_ROOT = tmp_path / "photos"
    sent = {"stage": "subgrade", "ask": "photo", "caption": "north corner", "photo": jpeg()}
    assert post(world, "photos", sent).status_code == 302
    content = world.client("viewer").get(f"/jobs/{world.job.id}/record.zip").content
    file = tmp_path / "record.zip"
    file.write_bytes(content)
    assert main(["verify", str(file)]) == 0 and "1 photos right" in capsys.readouterr().out
    for spoilt, says in ((b"another picture", "another picture"), (None, "missing")):
        with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(file, "w") as new:
            for each in old.namelist():
                if not each.startswith("photos/") or spoilt:
                    new.writestr(each, spoilt if each.startswith("photos/") else old.read(each))
        assert main(["verify", str(file)]) == 1 and says in capsys.readouterr().out


def test_the_page_tells_who_signed_what_on_what_evidence(world: World) -> None:
    proved(world)
    world.sign("base-proof")
    page = world.client("viewer").get(f"/jobs/{world.job.id}/record/").content.decode()
    for told in ("Base lifts", "Lead Person", "Roots, topsoil and rubbish are out", "good", "How to prove it",
                 str(Head(snapshot(world.job).head, snapshot(world.job).number, str(world.job.id)))):  # fmt: skip
        assert told in page, told
    number = world.job.entries.filter(kind="sign_off", body__stage="excavation").get().number
    drawing = world.client("viewer").get(f"/jobs/{world.job.id}/record/signed-{number}.svg")
    assert drawing.status_code == 200 and b"Formation as signed by Lead Person" in drawing.content
    assert world.client("viewer").get(f"/jobs/{world.job.id}/record/signed-1.svg").status_code == 404


def test_a_sign_off_is_what_its_entries_come_to_when_they_are_read_again(world: World) -> None:
    proved(world)
    for entry in world.job.entries.filter(kind="sign_off"):
        then = snapshot_at(world.job, entry.number - 1).assessment
        assert json.loads(json.dumps(then.stages.evidence_of(entry.body["stage"]))) == entry.body["evidence"]


@pytest.mark.parametrize("value", ALL, ids=lambda value: f"{value.KIND}-{value.id}")
def test_every_kind_of_entry_is_told_in_words(value) -> None:
    entry = Entry(id=uuid.uuid4(), kind=value.KIND, by_name="Someone", by_id=1, at=timezone.now(), number=1)
    entry.body = json.loads(json.dumps(STORED.body(value)))
    for unit in Unit:
        told = told_plainly(entry, unit)
        assert len(told) > len(str(FACES[value.KIND].title).format_map(defaultdict(str))) - 2 and "{" not in told, (
            told
        )


@given(st.floats(0, 40, allow_nan=False))
def test_an_amount_in_feet_and_inches_is_the_same_number_without_its_markup(metres: float) -> None:
    """2 3/8″ is no 238″ where a line of the record, a label or a file takes the text alone."""
    for shown, plain in ((amount, format_amount), (level, format_level), (reading, format_reading)):
        text = unescape(strip_tags(shown(metres, Unit.FEET_INCHES)))
        assert " ".join(text.split()) == plain(metres, Unit.FEET_INCHES)


def test_a_design_in_feet_is_told_as_it_is_in_one_line(db) -> None:
    world = make_world(rod="ft-in")
    design = world.job.entries.get(kind="design")
    # 80, 30 and 150 mm as the trade has them
    told = told_plainly(design, Unit.FEET_INCHES)
    assert "concrete block 3 1/8″" in told and "concrete sand 1 1/4″" in told and told.endswith("to fines 6″")
    client = world.client("viewer")
    assert "concrete block 3 1/8″" in client.get(f"/jobs/{world.job.id}/record.csv").content.decode()


def test_csv_has_a_row_an_entry_and_no_cell_a_spreadsheet_runs(world: World) -> None:
    words = {"ask": "clean", "answer": "no", "words": "=2+2"}
    post(world, "looks", words)
    text = world.client("viewer").get(f"/jobs/{world.job.id}/record.csv").content.decode()
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == world.job.entries.count() and rows[-1]["hash"] == snapshot(world.job).head
    assert "=2+2" in rows[-1]["says"]
    assert not any(cell.startswith(("=", "+", "@", "-")) for row in rows for cell in row.values() if cell)


def test_the_pdf_can_be_read(world: World, tmp_path) -> None:
    world.shoot_all()
    world.sign("excavation")
    file = tmp_path / "record.pdf"
    file.write_bytes(made(world.client("viewer"), f"/jobs/{world.job.id}/record.pdf").content)
    read = ["pdftotext", "-layout", str(file), "-"]
    text = subprocess.run(read, capture_output=True, text=True, check=True).stdout
    for told in (
        "Test pad",
        "Excavation",
        "Lead Person",
        "Walk on it from",
        "Diary",
        f"{snapshot(world.job).number}",
    ):
        assert told in text, told
    assert snapshot(world.job).head in "".join(text.split())


def test_a_pdf_shows_its_photos_and_nothing_that_was_not_given_with_it(world: World, settings, tmp_path) -> None:
    settings.MEDIA_ROOT = tmp_path / "photos"
    sent = {"stage": "subgrade", "ask": "photo", "caption": "north corner", "photo": jpeg()}
    assert post(world, "photos", sent).status_code == 302
    answer = made(world.client("viewer"), f"/jobs/{world.job.id}/record.pdf")
    assert len(pictures(answer.content, tmp_path)) == 1
    photo = next((tmp_path / "photos").rglob("*.jpg"))
    hostile = f'<img src="photo:a"><img src="photo:b"><img src="file://{photo}"><img src="photo:../{photo.name}">'
    assert len(pictures(printed(Sheet(hostile, {"a": str(photo)})), tmp_path)) == 1
    photo.unlink()  # lost since: the record is printed all the same
    assert not pictures(printed(record_sheet(world.job)), tmp_path)


def pictures(pdf: bytes, tmp_path: Path) -> list[str]:
    """The pictures in a PDF by their objects, as poppler lists them, each once however often it is shown."""
    file = tmp_path / "any.pdf"
    file.write_bytes(pdf)
    listed = subprocess.run(["pdfimages", "-list", str(file)], capture_output=True, text=True, check=True).stdout
    return sorted({" ".join(line.split()[10:12]) for line in listed.splitlines()[2:]})


def test_the_days_of_handover_open_in_a_calendar(world: World) -> None:
    answer = world.client("viewer").get(f"/jobs/{world.job.id}/handover.ics")
    events = Calendar.from_ical(answer.content).walk("VEVENT")
    assert len(events) == 5 and "may be walked on" in str(events[0]["summary"])
    assert len({str(e["uid"]) for e in events}) == 5
    last = record_data(world.job)["entries"][-1]
    assert f"nivelum-head/1 {world.job.id} {last['number']} {last['hash']}" in str(events[0]["description"])


def test_the_days_heads_of_a_crew_hold_a_record_written_anew(world: World, tmp_path, capsys) -> None:
    world.set_up()
    answer = world.client("viewer").get(f"/crews/{world.crew.id}/heads.txt")
    page = tmp_path / "heads.txt"
    page.write_bytes(answer.content)
    assert answer["Cache-Control"] == "private, no-store" and "Test pad" in answer.content.decode()
    record = json.loads(json.dumps(record_data(world.job)))
    code, said = verified(record, tmp_path, capsys, *[])
    assert code == 0 and "no published head given" in said
    assert main(["verify", str(tmp_path / "record.json"), "--heads", str(page)]) == 0
    record["entries"][1]["body"]["note"] = "another"
    chained(record["entries"], 1)
    record["head"] = record["entries"][-1]["hash"]
    (tmp_path / "record.json").write_text(json.dumps(record), encoding="utf-8")
    assert main(["verify", str(tmp_path / "record.json"), "--heads", str(page)]) == 1
    assert make_world(name="Others").client("lead").get(f"/crews/{world.crew.id}/heads.txt").status_code == 404


@pytest.fixture
def backed_up(flushable, transactional_db, settings, tmp_path, check_role) -> tuple[World, Path]:
    settings.MEDIA_ROOT = tmp_path / "photos"
    settings.POSTGRES_PROGRAMS = str(max(Path("/usr/lib/postgresql").glob("*/bin")))
    settings.CHECK_URL = check_role
    world = make_world()
    post(world, "photos", {"stage": "subgrade", "ask": "photo", "caption": "north", "photo": jpeg()})
    file = tmp_path / "site.nivelum"
    done = back_up(file)
    assert (done.jobs, done.photos) == (Job.objects.count(), 1) and done.entries >= world.job.entries.count()
    return world, file


def test_a_backup_comes_back_with_every_record_whole(backed_up: tuple[World, Path]) -> None:
    world, file = backed_up
    before, head = world.job.entries.count(), snapshot(world.job).head
    world.set_up()
    for photo in Path(settings.MEDIA_ROOT).rglob("*.jpg"):
        photo.unlink()
    done = restore(file)
    assert world.job.entries.count() == before and snapshot(world.job).head == head and done.photos == 1
    photo = world.assessment().stages.photos("subgrade")[0].photo
    assert world.client("viewer").get(f"/jobs/{world.job.id}/photos/{photo}/").status_code == 200


def test_a_spoilt_backup_is_refused_before_anything_is_touched(backed_up: tuple[World, Path]) -> None:
    world, file = backed_up
    world.set_up()
    now = world.job.entries.count()
    spoilt = file.with_name("spoilt")
    for what, says in (
        ("photos/", "another picture"),
        ("manifest.json", "is not what was published"),
        ("database", "pg_restore"),
    ):
        with zipfile.ZipFile(file) as old, zipfile.ZipFile(spoilt, "w") as new:
            for each in old.namelist():
                content = old.read(each)
                if each.startswith(what):
                    manifest = each.endswith("json") and json.loads(content)
                    if manifest:
                        manifest["heads"][0]["hash"] = "0" * 64
                    content = json.dumps(manifest).encode() if manifest else b"spoilt"
                new.writestr(each, content)
        with pytest.raises(Unusable, match=says):
            check(spoilt)
        with pytest.raises(Unusable, match=says):
            restore(spoilt)
    assert world.job.entries.count() == now


HOSTILE_SQL = {
    "a default that runs a command": (
        "CREATE FUNCTION evil() RETURNS int LANGUAGE plpgsql AS $$ BEGIN COPY jobs_job TO PROGRAM 'cat >{mark}'; "
        "RETURN 1; END $$; ALTER TABLE crews_crew ADD COLUMN evil int DEFAULT evil()",
        "",
    ),
    "an index that runs a command": (
        "CREATE FUNCTION runs() RETURNS void LANGUAGE plpgsql AS $$ BEGIN COPY (SELECT 1) TO PROGRAM 'cat >{mark}'; "
        "END $$; CREATE FUNCTION evil(text) RETURNS text IMMUTABLE LANGUAGE plpgsql AS $$ BEGIN "
        "PERFORM public.runs(); RETURN $1; END $$; CREATE INDEX i ON crews_crew (evil(name))",
        "superuser|pg_execute_server_program",
    ),
    "a constraint that runs a command": (
        "CREATE FUNCTION evil(text) RETURNS bool LANGUAGE plpgsql AS $$ BEGIN "
        "COPY (SELECT 1) TO PROGRAM 'cat >{mark}'; RETURN true; END $$; "
        "ALTER TABLE crews_crew ADD CHECK (evil(name))",
        "superuser|pg_execute_server_program",
    ),
    "a view in a table's place": (
        "ALTER TABLE live_presence RENAME TO live_other; CREATE VIEW live_presence AS SELECT * FROM live_other",
        "not ours",
    ),
    "a rule": ("CREATE RULE aside AS ON INSERT TO jobs_job DO ALSO NOTHING", "not ours"),
    "a policy": ("CREATE POLICY p ON jobs_job USING (true)", "not ours"),
    "a schema of its own": ("CREATE SCHEMA elsewhere CREATE TABLE elsewhere.t (a int)", "not ours"),
    "an operator": (
        "CREATE FUNCTION eq(int, text) RETURNS bool LANGUAGE sql AS 'SELECT true'; "
        "CREATE OPERATOR = (LEFTARG = int, RIGHTARG = text, FUNCTION = eq)",
        "not ours",
    ),
    "a domain": ("CREATE DOMAIN d AS int CHECK (value > 0)", "not ours"),
    "a constraint that runs": (
        "CREATE FUNCTION f() RETURNS bool LANGUAGE sql AS 'SELECT true'; ALTER TABLE jobs_job ADD CHECK (f())",
        "",
    ),
    "an index that runs": (
        "CREATE FUNCTION g(text) RETURNS text LANGUAGE sql IMMUTABLE AS 'SELECT $1'; "
        "CREATE INDEX i ON jobs_job (g(name))",
        "",
    ),
    "a table of somebody else's": ("CREATE TABLE zz_mine (a int)", "not ours"),
}


@pytest.mark.parametrize("what", HOSTILE_SQL)
def test_a_hostile_backup_runs_nothing_and_plants_nothing(backed_up: tuple[World, Path], what: str, tmp_path) -> None:
    """The dump is forged by somebody with a database of their own, where they are superuser."""
    world, file = backed_up
    sql, says = HOSTILE_SQL[what]
    mark = Path(tempfile.gettempdir()) / f"nivelum-ran-{uuid.uuid4().hex}"  # where PostgreSQL's user could write
    own = f"forged_{uuid.uuid4().hex[:8]}"
    where = connection.settings_dict
    server = f"postgresql://{where['USER']}:{where['PASSWORD']}@{where['HOST']}:{where['PORT']}/"
    dump, forged = tmp_path / "database.dump", tmp_path / "forged.nivelum"
    with zipfile.ZipFile(file) as old:
        old.extract("database.dump", tmp_path)
    with psycopg.connect(f"{server}postgres", autocommit=True) as there:
        there.execute(f"CREATE DATABASE {own} TEMPLATE template0")
    try:
        run("pg_restore", "--no-owner", f"--dbname={server}{own}", str(dump))
        with psycopg.connect(f"{server}{own}", autocommit=True) as there:
            there.execute(sql.replace("{mark}", str(mark)))
        mark.unlink(missing_ok=True)
        run("pg_dump", "--format=custom", "--no-owner", f"--file={dump}", f"{server}{own}")
    finally:
        with psycopg.connect(f"{server}postgres", autocommit=True) as there:
            there.execute(f"DROP DATABASE {own} WITH (FORCE)")
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(forged, "w") as new:
        for each in old.namelist():
            new.writestr(each, dump.read_bytes() if each == "database.dump" else old.read(each))
    before = planted()
    if says:
        with pytest.raises(Unusable, match=says):
            check(forged)
        with pytest.raises(Unusable):
            restore(forged)
    else:  # what ran is dropped, and the tables are taken as they are
        restore(forged)
    assert not mark.exists() and planted() == before
    assert world.job.entries.exists()


def test_what_is_still_open_in_a_looked_into_database_does_not_keep_it(
    backed_up: tuple[World, Path], tmp_path
) -> None:
    _, file = backed_up
    with zipfile.ZipFile(file) as archive:
        archive.extract("database.dump", tmp_path)
    with looked_into(tmp_path / "database.dump") as there:
        left = psycopg.connect(there)
        left.execute("SELECT * FROM jobs_job FOR UPDATE")
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM pg_database WHERE datname = %s", [left.info.dbname])
        assert not cursor.fetchone()
    with pytest.raises(psycopg.OperationalError):
        left.execute("SELECT 1")


def planted() -> tuple:
    """What there is in the database besides tables and rows."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT proname FROM pg_proc WHERE pronamespace = 'public'::regnamespace ORDER BY 1")
        functions = cursor.fetchall()
        cursor.execute("SELECT tgname, tgenabled FROM pg_trigger WHERE NOT tgisinternal ORDER BY 1")
        triggers = cursor.fetchall()
        cursor.execute(
            "SELECT relname FROM pg_class WHERE relkind IN ('v', 'm') AND relnamespace = 'public'::regnamespace"
        )
        return functions, triggers, cursor.fetchall()


def test_a_backup_with_a_damaged_photo_is_written_says_so_and_comes_back(backed_up: tuple[World, Path]) -> None:
    world, file = backed_up
    (photo,) = Path(settings.MEDIA_ROOT).rglob("*.jpg")
    whole = photo.read_bytes()
    photo.write_bytes(whole[:-9])
    with pytest.raises(CommandError, match="not all of it is right") as told:
        call_command("backup", file.with_name("second"))
    assert "another picture stands in its place" in str(told.value)
    with zipfile.ZipFile(file.with_name("second")) as archive:
        assert str(world.job.id) in json.loads(archive.read("manifest.json"))["faults"][0]
    restored = restore(file.with_name("second"))
    assert len(restored.faults) == 1 and world.job.entries.exists()
    # A fault the backup does not say of itself is one that came later.
    spoilt = file.with_name("spoilt")
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(spoilt, "w") as new:
        for each in old.namelist():
            new.writestr(each, old.read(each)[: -9 if each.startswith("photos/") else None])
    with pytest.raises(Unusable, match="another picture"):
        restore(spoilt)


def test_a_backup_holds_a_record_to_its_order_as_verify_does(backed_up: tuple[World, Path]) -> None:
    world, file = backed_up
    last = world.job.entries.latest("number")
    forged = Entry(job=world.job, number=last.number + 1, kind="fill", by=last.by, by_name=last.by_name,
                   at=last.at - timedelta(days=1), body={}, previous=last.hash)  # fmt: skip
    forged.hash = entry_hash(forged.content())
    forged.save(force_insert=True)
    (fault,) = back_up(file.with_name("second")).faults
    assert f"entry {forged.number} was written before the entry it follows" in fault


@pytest.mark.parametrize("name", ["../outside", "/etc/passwd", "photos/../../x.jpg", "photos/x.jpg", "more.txt"])
def test_a_backup_that_holds_what_is_not_ours_is_refused(backed_up: tuple[World, Path], name: str) -> None:
    _world, file = backed_up
    with zipfile.ZipFile(file, "a") as archive:
        archive.writestr(name, b"x")
    with pytest.raises(Unusable, match="not ours"):
        check(file)


def test_the_diary_comes_in_portions_from_its_end_and_all_of_it_once(world: World, monkeypatch) -> None:
    from nivelum.records import page

    monkeypatch.setattr(page, "PORTION", 4)
    world.set_up()
    for station in world.assessment().job.stations[:9]:
        world.shoot(station.name)
    last = Entry.objects.filter(job=world.job).count()
    told = []
    client, address, asked = world.client("viewer"), f"/jobs/{world.job.id}/record/", ""
    while True:
        shown = client.get(address + asked, headers={"HX-Request": "true"} if asked else {})
        assert shown.status_code == 200
        lines = [line for day in shown.context["diary"].values() for line in day]
        told = [number for line in lines for number, _words in line.entries] + told
        if not shown.context["earlier"]:
            break
        asked = f"?before={shown.context['first']}"
        assert f'href="{asked}"' in shown.content.decode()
        assert client.get(address + asked).context["diary"]  # without a script it is a page of its own
    assert told == list(range(1, last + 1))
    for nonsense in ("0", "-3", "moon", "9" * 30, "²", str(10**8)):
        shown = client.get(address, {"before": nonsense})
        assert shown.status_code == 200 and shown.context["earlier"] < last
