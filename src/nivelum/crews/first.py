"""The first crew of a server that has nobody: made by a command, or on a page that a code opens. The code is printed
where the server is started, and opens nothing any more once somebody is there."""

import base64

from django.db import connection
from django.utils.crypto import constant_time_compare, salted_hmac

from nivelum.crews.models import Person


def is_empty() -> bool:
    """Whether there is nobody yet. One query."""
    return not Person.objects.exists()


def one_at_a_time() -> None:
    """In a transaction: whoever founds a first crew at the same moment waits until this one has."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(hashtext('nivelum first crew'))")


def first_code() -> str:
    """Sixteen letters and digits, the same in every process of this server: it hangs on the server's secret."""
    made = salted_hmac("nivelum first crew", "code", algorithm="sha256").digest()[:10]
    text = base64.b32encode(made).decode().lower()
    return "-".join(text[n : n + 4] for n in range(0, 16, 4))


def code_fits(typed: str) -> bool:
    plain = "".join(each for each in typed.lower() if each.isalnum())
    return constant_time_compare(plain, first_code().replace("-", ""))
