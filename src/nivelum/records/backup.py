"""The whole site in one file and back: the database, the photos, and every record's head to check them by.

A zip of `manifest.json`, `database.dump` (PostgreSQL's own, custom format) and `photos/`. Heads are read before the
database is dumped and photos are gathered after, so that a record may have grown between them and nothing is missing.
"""

import json
import shutil
import subprocess
import tempfile
import uuid
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import psycopg
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection
from django.utils import timezone

from groundwork.record import Head, first_fault, held_to, photo_fault, photos_named
from nivelum.jobs.models import Entry

FORMAT = "nivelum-backup/1"
OPTIONS = ("--no-owner", "--no-privileges", "--exit-on-error")


class Unusable(Exception):
    """A backup that cannot be made or trusted; the message says why."""


@dataclass(frozen=True)
class Checked:
    """What was found right in a database and its photos."""

    jobs: int
    entries: int
    photos: int


def back_up(file: Path) -> Checked:
    """Writes the backup, beside its name first, and gives it its name once it was checked to be whole."""
    with tempfile.TemporaryDirectory() as folder:
        heads = _heads()
        dump = Path(folder) / "database.dump"
        _run("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={dump}", _address())
        half = file.with_name(f".{file.name}.{uuid.uuid4().hex[:8]}")
        try:
            with zipfile.ZipFile(half, "w", zipfile.ZIP_STORED) as archive:
                manifest = {"format": FORMAT, "made_at": timezone.now().isoformat(), "heads": heads}
                archive.writestr("manifest.json", json.dumps(manifest, indent=1))
                archive.write(dump, "database.dump")
                for name in _stored():
                    with default_storage.open(name) as photo:
                        archive.writestr(f"photos/{name}", photo.read())
            done = check(half)
            half.replace(file)
        finally:
            half.unlink(missing_ok=True)
        return done


def check(file: Path) -> Checked:
    """Restores a backup into a database of its own, proves every record with its photos there, and drops it again.
    Raises `Unusable` for the first thing wrong."""
    with _opened(file) as (archive, manifest, dump):
        name = f"nivelum_check_{uuid.uuid4().hex}"
        _order(f"CREATE DATABASE {name} TEMPLATE template0 ENCODING 'UTF8'")
        try:
            _run("pg_restore", *OPTIONS, f"--dbname={_address(name)}", str(dump))
            return _prove(_records(name), manifest, lambda job, photo: _in(archive, f"photos/{job}/{photo}.jpg"))
        finally:
            _order(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)")


def restore(file: Path) -> Checked:
    """Puts a backup in the place of what is there, once it was checked, and proves what then stands. Raises
    `Unusable`, before anything is touched where the backup itself is at fault."""
    check(file)
    with _opened(file) as (archive, manifest, dump):
        for name in archive.namelist():
            if name.startswith("photos/"):
                to = Path(default_storage.path(name.removeprefix("photos/")))
                to.parent.mkdir(parents=True, exist_ok=True)
                with archive.open(name) as source, to.open("wb") as target:
                    shutil.copyfileobj(source, target)
        address = _address()
        connection.close()
        connection.close_pool()
        _run(
            "pg_restore", *OPTIONS, "--clean", "--if-exists", "--single-transaction", f"--dbname={address}", str(dump)
        )
        return _prove(_records(settings.DATABASES["default"]["NAME"]), manifest, _photo_here)


def _prove(records: Iterator[tuple[str, list[dict[str, Any]]]], manifest: dict[str, Any], photo: Any) -> Checked:
    heads = {head["job"]: Head(head["hash"], head["number"], head["job"]) for head in manifest["heads"]}
    jobs = entries = photos = 0
    for job, rows in records:
        pictures = {name: found for name in photos_named(rows) if (found := photo(job, name)) is not None}
        fault = first_fault(rows) or photo_fault(rows, pictures)
        if not fault and job in heads:
            fault = held_to(rows, heads.pop(job))
        if fault:
            raise Unusable(f"job {job}, entry {fault.place} {fault.why}")
        jobs, entries, photos = jobs + 1, entries + len(rows), photos + len(pictures)
    if heads:
        raise Unusable(f"job {min(heads)} is missing")
    return Checked(jobs, entries, photos)


def _records(database: str) -> Iterator[tuple[str, list[dict[str, Any]]]]:
    """Every job's entries as they are hashed and exported, from a database by name."""
    columns = ("id", "job_id", "number", "kind", "by_id", "by_name", "at", "device_at", "body", "previous", "hash")
    with psycopg.connect(_address(database)) as there:
        jobs = [row[0] for row in there.execute("SELECT id FROM jobs_job ORDER BY id").fetchall()]
        for job in jobs:
            query = f"SELECT {', '.join(columns)} FROM jobs_entry WHERE job_id = %s ORDER BY number"  # noqa: S608
            rows = there.execute(query, [job]).fetchall()
            entries = [Entry(**dict(zip(columns, row, strict=True))) for row in rows]
            yield str(job), [entry.content() | {"hash": entry.hash} for entry in entries]


def _heads() -> list[dict[str, Any]]:
    newest = Entry.objects.order_by("job", "-number").distinct("job").values_list("job", "number", "hash")
    return [{"job": str(job), "number": number, "hash": last} for job, number, last in newest]


@contextmanager
def _opened(file: Path) -> Iterator[tuple[zipfile.ZipFile, dict[str, Any], Path]]:
    try:
        with zipfile.ZipFile(file) as archive, tempfile.TemporaryDirectory() as folder:
            manifest = json.loads(archive.read("manifest.json"))
            if manifest["format"] != FORMAT:
                raise Unusable(f"{file} is a backup of another kind: {manifest['format']}")
            if any(".." in Path(name).parts or name.startswith("/") for name in archive.namelist()):
                raise Unusable(f"{file} reaches out of its folder")
            yield archive, manifest, Path(archive.extract("database.dump", folder))
    except (OSError, KeyError, TypeError, ValueError, zipfile.BadZipFile) as error:
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
    """Every photo kept, by name."""
    if folder and not default_storage.exists(folder):
        return
    try:
        folders, files = default_storage.listdir(folder)
    except FileNotFoundError:
        return
    yield from (f"{folder}/{name}" if folder else name for name in files)
    for inner in folders:
        yield from _stored(f"{folder}/{inner}" if folder else inner)


def _address(database: str = "") -> str:
    where = settings.DATABASES["default"]
    name = database or where["NAME"]
    return f"postgresql://{where['USER']}:{where['PASSWORD']}@{where['HOST']}:{where['PORT']}/{name}"


def _order(sql: str) -> None:
    """Something that is done to a server, outside of any transaction."""
    with psycopg.connect(_address(), autocommit=True) as server:
        server.execute(sql)


def _run(program: str, *arguments: str) -> None:
    found = shutil.which(program, path=settings.POSTGRES_PROGRAMS) or shutil.which(program)
    if found is None:
        raise Unusable(f"PostgreSQL's {program} is not here: set NIVELUM_POSTGRES_PROGRAMS to its folder")
    done = subprocess.run([found, *arguments], capture_output=True, text=True, check=False)  # noqa: S603
    if done.returncode:
        raise Unusable(f"{program}: {done.stderr.strip()[:400]}")
