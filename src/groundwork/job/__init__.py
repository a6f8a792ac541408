"""What is the job? Its design and its record as one value, and how the design is written and read back."""

from groundwork.job.decisions import (
    BY,
    ON,
    PERSON,
    Acceptance,
    SignOff,
    Withdrawal,
)
from groundwork.job.growth import (
    followed_by,
)
from groundwork.job.job import (
    Job,
    Mark,
)
from groundwork.job.section import (
    Cut,
    across,
    cut,
)
from groundwork.job.site import (
    AN_HOUR,
    Design,
    SiteError,
    check_site,
    read_site,
    site_data,
)

__all__ = [
    "AN_HOUR",
    "BY",
    "ON",
    "PERSON",
    "Acceptance",
    "Cut",
    "Design",
    "Job",
    "Mark",
    "SignOff",
    "SiteError",
    "Withdrawal",
    "across",
    "check_site",
    "cut",
    "followed_by",
    "read_site",
    "site_data",
]
