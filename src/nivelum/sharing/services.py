"""The verbs of links: make one, find what one opens, withdraw it."""

from collections.abc import Iterable
from datetime import timedelta

from django.utils import timezone

from nivelum.crews.models import Person
from nivelum.crews.policy import Verb
from nivelum.crews.tokens import new_token, token_hash
from nivelum.jobs.access import Visit
from nivelum.records.page import Part
from nivelum.sharing.models import For, Share


def make_share(
    visit: Visit,
    whom: For,
    label: str,
    parts: Iterable[Part],
    days: int,
    engineer: Person | None = None,
    shows_money: bool = False,
) -> tuple[Share, str]:
    """A link and what it opens with, which is kept nowhere: who loses it is given another."""
    token = new_token()
    share = Share.objects.create(
        job=visit.job,
        token_hash=token_hash(token),
        whom=whom,
        label=label,
        parts=[str(part) for part in parts],
        shows_money=shows_money and visit.may(Verb.SEE_MONEY),
        engineer=engineer,
        made_by=visit.person,
        expires_at=timezone.now() + timedelta(days=days),
    )
    return share, token


def share_of(token: str) -> Share | None:
    """The link that opens with `token`, whether it is still open or not."""
    return Share.objects.select_related("job__crew", "engineer").filter(token_hash=token_hash(token)).first()


def withdraw_share(share: Share) -> None:
    """Closes a link for good."""
    if share.withdrawn_at is None:
        share.withdrawn_at = timezone.now()
        share.save(update_fields=["withdrawn_at"])
