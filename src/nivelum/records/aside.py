"""A database of its own to look into a backup that may be anybody's, as a role that can nothing else.

A dump is a program: whoever restores it runs it. Here it is run by a role that may only make a database, in one that
is dropped afterwards; what it made is looked through by the catalogue; and what is restored in the end is a dump
taken anew from there, of tables and rows and nothing that runs.
"""
# ruff: noqa: S608 (every query is written here)

import shutil
import subprocess
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlsplit, urlunsplit

import psycopg
from django.conf import settings

PLAIN = ("--no-owner", "--no-privileges")
LONGEST = 3600
"""s: how long a program of PostgreSQL's may take."""
WANTED = frozenset({
    "TABLE", "TABLE DATA", "SEQUENCE", "SEQUENCE SET", "SEQUENCE OWNED BY", "DEFAULT", "CONSTRAINT", "FK CONSTRAINT",
    "CHECK CONSTRAINT", "INDEX", "FUNCTION", "TRIGGER", "COMMENT",
})  # fmt: skip
"""What a backup of ours lists. Its functions and triggers are dropped again and made anew from here."""
OURS = (
    "account_", "auth_", "axes_", "crews_", "days_", "django_", "jobs_", "live_", "mfa_", "money_", "people_",
    "sharing_",
    "usersessions_", "weather_",
)  # fmt: skip
PARTIAL = (
    "CREATE UNIQUE INDEX unique_verified_email ON public.account_emailaddress USING btree (email) WHERE verified",
    "CREATE UNIQUE INDEX unique_primary_email ON public.account_emailaddress USING btree (user_id, ^primary^) "
    "WHERE ^primary^",
    "CREATE UNIQUE INDEX unique_authenticator_type ON public.mfa_authenticator USING btree (user_id, type) WHERE "
    "((type)::text = ANY ((ARRAY['totp'::character varying, 'recovery_codes'::character varying])::text[]))",
    "CREATE UNIQUE INDEX unique_authenticator_type ON public.mfa_authenticator USING btree (user_id, type) WHERE "
    "((type)::text = ANY (ARRAY[('totp'::character varying)::text, ('recovery_codes'::character varying)::text]))",
)
"""The indexes of django-allauth's that hold for some rows only, as PostgreSQL says them, the last once it was
restored; ^ for its quotes."""
HERE = "'public'::regnamespace"


def _quoted(texts: tuple[str, ...]) -> str:
    return ", ".join("'" + text.replace("'", "''") + "'" for text in texts)


STRANGE = {
    "a view": f"SELECT relname FROM pg_class WHERE relkind IN ('v', 'm', 'f', 'p') AND relnamespace = {HERE}",
    "a rule": "SELECT rulename FROM pg_rules WHERE schemaname = 'public'",
    "a policy": "SELECT polname FROM pg_policy",
    "a schema": r"SELECT nspname FROM pg_namespace WHERE nspname NOT LIKE 'pg\_%' "
                "AND nspname NOT IN ('public', 'information_schema')",
    "an extension": "SELECT extname FROM pg_extension WHERE extname <> 'plpgsql'",
    "a language": "SELECT lanname FROM pg_language WHERE lanname NOT IN ('internal', 'c', 'sql', 'plpgsql')",
    "an event trigger": "SELECT evtname FROM pg_event_trigger",
    "an operator": f"SELECT oprname FROM pg_operator WHERE oprnamespace = {HERE}",
    "a cast": "SELECT oid::text FROM pg_cast WHERE oid >= 16384",
    "a type": f"SELECT typname FROM pg_type WHERE typnamespace = {HERE} AND typrelid = 0 AND typelem = 0",
    "a default that computes": r"""SELECT pg_get_expr(adbin, adrelid) FROM pg_attrdef
        WHERE pg_get_expr(adbin, adrelid) !~ '^nextval\(''[a-z_.]+''::regclass\)$'""",
    "a constraint that computes": rf"""SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE contype IN ('c', 'x')
        AND pg_get_constraintdef(oid) !~ '^CHECK \(\([a-z_]+ >= 0\)\)$' AND connamespace = {HERE}""",
    "an index that computes": f"""SELECT indexrelid::regclass::text FROM pg_index
        JOIN pg_class ON pg_class.oid = indrelid
        WHERE (indexprs IS NOT NULL OR indpred IS NOT NULL) AND relnamespace = {HERE}
        AND replace(pg_get_indexdef(indexrelid), '"', '^') NOT IN ({_quoted(PARTIAL)})""",
}  # fmt: skip
"""What no backup of ours holds, each with the query of the catalogue that finds it."""
LEAVE = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE usename = current_user AND datname ="
RUNNING = f"SELECT format('DROP ROUTINE %s CASCADE', oid::regprocedure) FROM pg_proc WHERE pronamespace = {HERE}"


class Unusable(Exception):
    """A backup that cannot be made or trusted; the message says why."""


@contextmanager
def looked_into(dump: Path) -> Iterator[str]:
    """The address of a database that holds what a dump does, tables and rows alone; it is dropped afterwards. Raises
    `Unusable` for a dump with anything in it that is not ours."""
    listed = run("pg_restore", "--list", str(dump))
    for line in listed.splitlines():
        if line and not line.startswith(";"):
            _ours(line)
    server = check_address()
    name = f"nivelum_check_{uuid.uuid4().hex}"
    _order(server, f"CREATE DATABASE {name} TEMPLATE template0 ENCODING 'UTF8'")
    try:
        there = address(server, name)
        run("pg_restore", *PLAIN, "--exit-on-error", "--no-comments", f"--dbname={there}", str(dump))
        with psycopg.connect(there, autocommit=True) as database:
            for order in database.execute(RUNNING).fetchall():
                database.execute(order[0])
            for what, query in STRANGE.items():
                if found := database.execute(query).fetchone():
                    raise Unusable(f"it holds {what} that is not ours: {str(found[0])[:80]}")
        yield there
    finally:
        _order(
            server, f"{LEAVE} '{name}'"
        )  # not WITH (FORCE), which asks for a right over its cleaner too, and fails
        _order(server, f"DROP DATABASE IF EXISTS {name}")  # waits for who is leaving, and sends its cleaner away


def _ours(line: str) -> None:
    """Raises `Unusable` for a line of a dump's contents that a backup of ours does not have."""
    parts = line.split("; ", 1)[-1].split()[2:]  # two numbers, what it is, its schema, its name, whose it is
    what = next((" ".join(parts[:n]) for n in (3, 2, 1) if " ".join(parts[:n]) in WANTED), "")
    rest = parts[len(what.split()) :]
    if not what or not rest or rest[0] not in ("public", "-"):
        raise Unusable(f"it lists what is not ours: {line[:80]}")
    if what in ("TABLE", "TABLE DATA") and not rest[1].startswith(OURS):
        raise Unusable(f"it lists a table that is not ours: {rest[1][:60]}")


def check_address() -> str:
    if not settings.CHECK_URL:
        raise Unusable(
            "set NIVELUM_CHECK_URL to a role that may make databases and nothing else: see docs/security.md"
        )
    return str(settings.CHECK_URL)


def address(server: str, database: str) -> str:
    """The address of another database of a server."""
    parts = urlsplit(server.replace("postgres://", "postgresql://", 1))
    return urlunsplit(parts._replace(path=f"/{database}"))


def _order(server: str, sql: str) -> None:
    """Something that is done to a server, outside of any transaction."""
    with psycopg.connect(server.replace("postgres://", "postgresql://", 1), autocommit=True) as there:
        there.execute(sql)


def run(program: str, *arguments: str) -> str:
    """What a program of PostgreSQL's prints. Raises `Unusable` with what it complains of."""
    found = shutil.which(program, path=settings.POSTGRES_PROGRAMS) or shutil.which(program)
    if found is None:
        raise Unusable(f"PostgreSQL's {program} is not here: set NIVELUM_POSTGRES_PROGRAMS to its folder")
    try:
        done = subprocess.run(  # noqa: S603
            [found, *arguments], capture_output=True, text=True, check=False, timeout=LONGEST
        )
    except subprocess.TimeoutExpired as error:
        raise Unusable(f"{program} did not end within an hour") from error
    if done.returncode:
        raise Unusable(f"{program}: {done.stderr.strip()[:400]}")
    return done.stdout
