"""A job as its record goes on."""

from collections.abc import Iterable
from copy import copy
from dataclasses import replace

from groundwork.job.decisions import Acceptance, SignOff, Withdrawal
from groundwork.job.job import Job
from groundwork.job.site import Design
from groundwork.kinds import Entry


def followed_by(job: Job, values: Iterable[Entry]) -> Job:
    """The job once `values` were recorded after all that it has. Its site stays the same object, unless one of them
    is a new design: that is another site under the same record."""
    sign_offs, acceptances, withdrawals, entries = (
        list[SignOff](),
        list[Acceptance](),
        list[Withdrawal](),
        list[Entry](),
    )
    now = job
    for value in values:
        match value:
            case Design():
                now = replace(value.site, name=job.name, unit=job.unit, version=now.version + 1, today=job.today)
            case SignOff():
                sign_offs.append(value)
            case Acceptance():
                acceptances.append(value)
            case Withdrawal():
                withdrawals.append(value)
            case _:
                entries.append(value)
    site, grown = now.site, copy(now)
    grown.__dict__.update(
        site=site,
        entries=(*job.entries, *entries) if entries else job.entries,
        sign_offs=(*job.sign_offs, *sign_offs) if sign_offs else job.sign_offs,
        acceptances=(*job.acceptances, *acceptances) if acceptances else job.acceptances,
        withdrawals=(*job.withdrawals, *withdrawals) if withdrawals else job.withdrawals,
    )
    return grown
