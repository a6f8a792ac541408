"""What is the job? Its design and its record as one value, and how the design is written and read back."""

from groundwork.job.job import (
    Acceptance,
    Job,
    Mark,
    SignOff,
    Withdrawal,
)
from groundwork.job.names import (
    BESIDE_THE_AREA,
    RISEN,
    WorkNames,
)
from groundwork.job.section import (
    Cut,
    across,
    cut,
)
from groundwork.job.site import (
    AN_HOUR,
    SiteError,
    check_site,
    read_site,
    site_data,
)

__all__ = [
    "AN_HOUR",
    "BESIDE_THE_AREA",
    "RISEN",
    "Acceptance",
    "Cut",
    "Job",
    "Mark",
    "SignOff",
    "SiteError",
    "Withdrawal",
    "WorkNames",
    "across",
    "check_site",
    "cut",
    "read_site",
    "site_data",
]
