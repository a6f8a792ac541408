"""The whole site in one file and back: the database, the photos, and every record's head to check them by.

A zip of `manifest.json`, `database.dump` (PostgreSQL's own, custom format) and `photos/`. Heads are read before the
database is dumped and photos are gathered after, so that a record may have grown between them and nothing is missing.
A backup is always written: what is wrong with a record stands at its head.
"""

import json
import re
import tempfile
import uuid
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from importlib import import_module
from pathlib import Path
from typing import Any, cast

import psycopg
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection, connections
from django.db.backends.postgresql.base import DatabaseWrapper as PostgresConnection
from django.utils import timezone

from groundwork.files import fault_between
from groundwork.record import Head, first_fault, held_to, photo_fault, photos_named
from nivelum.jobs.models import Entry
from nivelum.jobs.photos import put
from nivelum.records.aside import PLAIN, Unusable, looked_into, run
from nivelum.records.roles import let_in

FORMATS = ("nivelum-backup/1", "nivelum-backup/2")
MEMBER = re.compile(r"manifest\.json|database\.dump|photos/[0-9a-f-]{36}/[0-9a-f]{64}\.jpg")
LARGEST_MANIFEST = 50_000_000


@dataclass(frozen=True)
class Proof:
    """What was found in a database and its photos, and what was not right of it."""

    jobs: int
    entries: int
    photos: int
    faults: tuple[str, ...] = ()


def back_up(file: Path) -> Proof:
    """Writes the backup, beside its name first, and gives it its name once it was read back. What was found wrong
    with the records is said at its head."""
    with tempfile.TemporaryDirectory() as folder:
        heads = _heads()
        dump = Path(folder) / "database.dump"
        run("pg_dump", "--format=custom", *PLAIN, f"--file={dump}", _owner())
        with looked_into(dump) as there:
            done = _prove(there, heads, _photo_here)
        half = file.with_name(f".{file.name}.{uuid.uuid4().hex[:8]}")
        try:
            with zipfile.ZipFile(half, "w", zipfile.ZIP_STORED) as archive:
                manifest = {"format": FORMATS[-1], "made_at": timezone.now().isoformat(), "faults": done.faults,
                            "heads": heads}  # fmt: skip
                archive.writestr("manifest.json", json.dumps(manifest, indent=1))
                archive.write(dump, "database.dump")
                for name in _stored():
                    with default_storage.open(name) as photo:
                        archive.writestr(f"photos/{name}", photo.read())
            with zipfile.ZipFile(half) as archive:
                if spoilt := archive.testzip():
                    raise Unusable(f"{spoilt} could not be read back")
            half.replace(file)
        finally:
            half.unlink(missing_ok=True)
        return done


def check(file: Path) -> Proof:
    """Restores a backup into a database of its own, proves every record with its photos there, and drops it again.
    Raises `Unusable` for the first thing wrong that the backup itself does not say."""
    with _trusted(file) as (_archive, done, _dump):
        return done


def restore(file: Path) -> Proof:
    """Puts a backup in the place of what is there, once it was checked, and proves what then stands. Raises
    `Unusable`, before anything is touched where the backup itself is at fault."""
    with _trusted(file) as (archive, done, dump):
        for name in archive.namelist():
            if name.startswith("photos/"):
                put(name.removeprefix("photos/"), archive.read(name))
        owner = _owner()
        connection.close()
        cast(PostgresConnection, connection).close_pool()
        _put_in_place(owner, dump)
        _guarded()
        stands = _prove(owner, [], _photo_here)
        if missing := set(stands.faults) - set(done.faults):
            raise Unusable(f"restored, and not all of it is right: {min(missing)}")
        return replace(stands, faults=done.faults)


def _put_in_place(owner: str, dump: Path) -> None:
    """What a dump holds in the place of all there is, whatever version that is of: both or neither."""
    script, before = dump.with_name("restore.sql"), dump.with_name("before.sql")
    run("pg_restore", *PLAIN, f"--file={script}", str(dump))
    before.write_text(EMPTIED, encoding="utf-8")
    run("psql", "--no-psqlrc", "--quiet", "--single-transaction", "--set=ON_ERROR_STOP=1", f"--file={before}",
        f"--file={script}", owner)  # fmt: skip


EMPTIED = """
DO $$ DECLARE each record; BEGIN
  FOR each IN SELECT oid::regclass AS name FROM pg_class WHERE relkind = 'r' AND relnamespace = 'public'::regnamespace
  LOOP EXECUTE format('DROP TABLE %s CASCADE', each.name); END LOOP;
  FOR each IN SELECT oid::regprocedure AS name FROM pg_proc WHERE pronamespace = 'public'::regnamespace
  LOOP EXECUTE format('DROP ROUTINE %s CASCADE', each.name); END LOOP;
END $$;
"""


@contextmanager
def _trusted(file: Path) -> Iterator[tuple[zipfile.ZipFile, Proof, Path]]:
    """A backup whose records were proved, and a dump of its tables taken anew from where it was looked into."""
    with _opened(file) as (archive, manifest, dump), looked_into(dump) as there:
        done = _prove(there, manifest["heads"], lambda job, photo: _in(archive, f"photos/{job}/{photo}.jpg"))
        if unsaid := [fault for fault in done.faults if fault not in manifest.get("faults", ())]:
            raise Unusable(unsaid[0])
        clean = dump.with_name("clean.dump")
        run("pg_dump", "--format=custom", *PLAIN, f"--file={clean}", there)
        yield archive, done, clean


def _guarded() -> None:
    """The record's guard anew, and the application's rights, in tables that were restored: for them as they were, so
    that what comes after may still migrate them."""
    guards = ["nivelum.jobs.migrations.0006_append_only"]
    with connections["default"].cursor() as cursor:
        cursor.execute("SELECT to_regclass('crews_crewline')")
        guards += ["nivelum.crews.migrations.0007_log_only_grows"] if cursor.fetchone()[0] else []
    alias = "owner" if "owner" in settings.DATABASES else "default"
    with connections[alias].cursor() as cursor:
        for guard in guards:
            cursor.execute(import_module(guard).MAKE)
        if alias == "owner":
            let_in(cursor, settings.DATABASES["default"]["USER"])


def _prove(address: str, heads: list[dict[str, Any]], photo: Callable[[str, str], bytes | None]) -> Proof:
    wanted = {head["job"]: Head(head["hash"], head["number"], head["job"]) for head in heads}
    jobs = entries = photos = 0
    faults = []
    for job, rows in _records(address):
        pictures = {name: found for name in photos_named(rows) if (found := photo(job, name)) is not None}
        fault = first_fault(rows) or fault_between(job, rows) or photo_fault(rows, pictures)
        if job in wanted:
            fault = held_to(rows, wanted.pop(job)) or fault
        if fault:
            faults.append(f"job {job}, entry {fault.place} {fault.why}")
        jobs, entries, photos = jobs + 1, entries + len(rows), photos + len(pictures)
    faults += [f"job {job} is missing" for job in sorted(wanted)]
    return Proof(jobs, entries, photos, tuple(faults))


def _records(address: str) -> Iterator[tuple[str, list[dict[str, Any]]]]:
    """Every job's entries as they are hashed and exported, from a database."""
    columns: tuple[str, ...] = (
        "id", "job_id", "number", "kind", "by_id", "by_name", "by_then", "at", "device_at", "body", "previous",
        "hash",
    )  # fmt: skip
    with psycopg.connect(address) as there:
        known = there.execute("SELECT attname FROM pg_attribute WHERE attrelid = 'jobs_entry'::regclass").fetchall()
        columns = tuple(name for name in columns if (name,) in known)  # a version before may have had fewer
        jobs = [row[0] for row in there.execute("SELECT id FROM jobs_job ORDER BY id").fetchall()]
        for job in jobs:
            query = f"SELECT {', '.join(columns)} FROM jobs_entry WHERE job_id = %s ORDER BY number"  # noqa: S608
            rows = there.execute(query, [job]).fetchall()
            found = [Entry(**dict(zip(columns, row, strict=True))) for row in rows]
            yield str(job), [entry.content() | {"hash": entry.hash} for entry in found]


def _heads() -> list[dict[str, Any]]:
    newest = Entry.objects.order_by("job", "-number").distinct("job").values_list("job", "number", "hash")
    return [{"job": str(job), "number": number, "hash": last} for job, number, last in newest]


@contextmanager
def _opened(file: Path) -> Iterator[tuple[zipfile.ZipFile, dict[str, Any], Path]]:
    try:
        with zipfile.ZipFile(file) as archive, tempfile.TemporaryDirectory() as folder:
            names = archive.namelist()
            if strange := [name for name in names if not MEMBER.fullmatch(name)]:
                raise Unusable(f"{file} holds what is not ours: {strange[0][:80]}")
            if len(set(names)) != len(names):
                raise Unusable(f"{file} holds two members of one name")
            if archive.getinfo("manifest.json").file_size > LARGEST_MANIFEST:
                raise Unusable(f"{file} has a manifest that is too large")
            manifest = json.loads(archive.read("manifest.json"))
            if manifest["format"] not in FORMATS:
                raise Unusable(f"{file} is a backup of another kind: {str(manifest['format'])[:40]}")
            heads = [(str(h["job"]), int(h["number"]), str(h["hash"])) for h in manifest["heads"]]
            manifest["heads"] = [{"job": job, "number": number, "hash": last} for job, number, last in heads]
            yield archive, manifest, Path(archive.extract("database.dump", folder))
    except (OSError, KeyError, TypeError, ValueError, RecursionError, zipfile.BadZipFile) as error:
        raise Unusable(f"{file} is no backup: {error}") from error


def _in(archive: zipfile.ZipFile, name: str) -> bytes | None:
    try:
        return archive.read(name)
    except KeyError:
        return None


def _photo_here(job: str, photo: str) -> bytes | None:
    name = f"{job}/{photo}.jpg"
    if not default_storage.exists(name):
        return None
    with default_storage.open(name) as found:
        return bytes(found.read())


def _stored(folder: str = "") -> Iterator[str]:
    """Every photo kept, by name; what is only half there has none yet."""
    try:
        folders, files = default_storage.listdir(folder)
    except FileNotFoundError:
        return
    named = (f"{folder}/{name}" if folder else name for name in files)
    yield from (name for name in named if MEMBER.fullmatch(f"photos/{name}"))
    for inner in folders:
        yield from _stored(f"{folder}/{inner}" if folder else inner)


def _owner() -> str:
    """The address of the database as who owns it."""
    where = settings.DATABASES.get("owner", settings.DATABASES["default"])
    name = settings.DATABASES["default"]["NAME"]
    return f"postgresql://{where['USER']}:{where['PASSWORD']}@{where['HOST']}:{where['PORT']}/{name}"
