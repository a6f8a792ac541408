"""What the role the application works in can do to the record, tried in SQL as that role."""

import uuid

import psycopg
import pytest
from django.db import connection
from tests.conftest import make_world

from nivelum.records.roles import let_in

ROLE, PASSWORD = f"nivelum_tried_{uuid.uuid4().hex[:8]}", "only-for-this-test"
AGAINST = [
    "UPDATE jobs_entry SET by_name = 'Somebody'",
    "DELETE FROM jobs_entry",
    "TRUNCATE jobs_entry CASCADE",
    "ALTER TABLE jobs_entry DISABLE TRIGGER ALL",
    "ALTER TABLE jobs_entry DISABLE TRIGGER append_only",
    "DROP TRIGGER append_only ON jobs_entry",
    "CREATE OR REPLACE FUNCTION record_is_append_only() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'",
    "DROP FUNCTION record_is_append_only() CASCADE",
    "SET session_replication_role = replica",
    "SET ROLE nivelum",
    "SET SESSION AUTHORIZATION nivelum",
    "GRANT UPDATE ON jobs_entry TO CURRENT_USER; UPDATE jobs_entry SET by_name = 'Somebody'",
    "ALTER TABLE jobs_entry OWNER TO CURRENT_USER",
    "ALTER TABLE jobs_entry RENAME TO gone",
    "DROP TABLE jobs_entry CASCADE",
    "CREATE TABLE public.jobs_entry2 (LIKE jobs_entry)",
    "CREATE RULE aside AS ON INSERT TO jobs_entry DO INSTEAD NOTHING",
    "CREATE ROLE another SUPERUSER",
    "COPY jobs_entry TO PROGRAM 'cat'",
    "COPY (SELECT 1) TO '/tmp/written'",
    "SELECT pg_read_file('/etc/passwd')",
    "SELECT lo_export(lo_creat(-1), '/tmp/written')",
    "CREATE EXTENSION file_fdw",
    "DELETE FROM django_migrations",
    "INSERT INTO jobs_entry SELECT * FROM jobs_entry ON CONFLICT (id) DO UPDATE SET by_name = 'Somebody'",
    "WITH taken AS (DELETE FROM jobs_entry RETURNING *) SELECT * FROM taken",
    "MERGE INTO jobs_entry USING jobs_job ON true WHEN MATCHED THEN DELETE",
]
"""Ways to change what was written, or to come by the right to."""


@pytest.fixture
def as_the_application(flushable, transactional_db):
    world = make_world()
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE ROLE {ROLE} LOGIN PASSWORD '{PASSWORD}'")
        let_in(cursor, ROLE)
    where = connection.settings_dict
    there = psycopg.connect(
        host=where["HOST"], port=where["PORT"], dbname=where["NAME"], user=ROLE, password=PASSWORD, autocommit=True
    )
    yield there, world
    there.close()
    with connection.cursor() as cursor:
        cursor.execute(f"DROP OWNED BY {ROLE}; DROP ROLE {ROLE}")


def test_it_adds_to_the_record_and_reads_it_and_writes_everything_else(as_the_application) -> None:
    there, world = as_the_application
    before = there.execute("SELECT count(*) FROM jobs_entry").fetchone()[0]
    columns = "id, job_id, number, kind, by_id, by_name, at, device_at, body, previous, hash"
    copied = columns.replace("id, job_id, number", "%s, job_id, number + 1000", 1)
    there.execute(f"INSERT INTO jobs_entry ({columns}) SELECT {copied} FROM jobs_entry LIMIT 1", [uuid.uuid4()])
    assert there.execute("SELECT count(*) FROM jobs_entry").fetchone()[0] == before + 1
    there.execute("UPDATE jobs_job SET name = 'Another' WHERE id = %s", [world.job.id])
    there.execute("SELECT id FROM jobs_job FOR UPDATE")
    there.execute("DELETE FROM crews_pintry; LISTEN something")
    there.execute("SELECT pg_notify('something', 'said')")


@pytest.mark.parametrize("sql", AGAINST)
def test_it_cannot_change_what_was_written_nor_come_by_the_right_to(as_the_application, sql: str) -> None:
    there, _world = as_the_application
    with pytest.raises(psycopg.Error):
        there.execute(sql)
    assert there.execute("SELECT count(*) FROM jobs_entry WHERE by_name = 'Somebody'").fetchone() == (0,)


def test_not_even_the_owner_changes_an_entry_by_anything_a_session_can_say(db) -> None:
    make_world()
    for aside in (
        "SET session_replication_role = replica",
        "SET LOCAL pgtrigger.ignore = '{jobs_entry:append_only}'",
    ):
        with connection.cursor() as cursor:
            cursor.execute("SAVEPOINT before")
            cursor.execute(aside)
            with pytest.raises(Exception, match="append-only"):
                cursor.execute("UPDATE jobs_entry SET by_name = 'Somebody'")
            cursor.execute("ROLLBACK TO before")
