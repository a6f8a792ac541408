"""What the role the application works in may do: read and write its tables, to a record and a crew's log only add."""

from django.db.backends.utils import CursorWrapper
from psycopg import sql

APPEND_ONLY = ("jobs_entry", "crews_crewline")
MIGRATIONS = "django_migrations"
RIGHTS = (
    "GRANT USAGE ON SCHEMA public TO {role}",
    "REVOKE CREATE ON SCHEMA public FROM {role}, PUBLIC",
    "REVOKE ALL ON ALL TABLES IN SCHEMA public FROM {role}",
    "GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {role}",
    "GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {role}",
    "REVOKE UPDATE, DELETE, TRUNCATE ON {append_only} FROM {role}",
    "REVOKE INSERT, UPDATE, DELETE ON {migrations} FROM {role}",
)


def let_in(cursor: CursorWrapper, role: str) -> None:
    """Gives a role what the application needs and no more; said by whoever owns the tables, after every migration."""
    names = {"role": sql.Identifier(role), "append_only": sql.SQL(", ").join(map(sql.Identifier, APPEND_ONLY)),
             "migrations": sql.Identifier(MIGRATIONS)}  # fmt: skip
    for right in RIGHTS:
        cursor.execute(sql.SQL(right).format(**names))
