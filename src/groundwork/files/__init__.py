"""How does a job go out and come in? Job files, level books, exported records."""

from groundwork.files.booking import (
    Book,
    BookLine,
    books,
)
from groundwork.files.exported import (
    FORMAT,
    LARGEST_BUNDLE,
    fault_between,
    fault_of,
    read_exported,
)
from groundwork.files.jobfile import (
    LARGEST_FILE,
    JobFileError,
    dumps,
    loads,
)
from groundwork.files.schema import (
    area_problem,
    schema,
)

__all__ = [
    "FORMAT",
    "LARGEST_BUNDLE",
    "LARGEST_FILE",
    "Book",
    "BookLine",
    "JobFileError",
    "area_problem",
    "books",
    "dumps",
    "fault_between",
    "fault_of",
    "loads",
    "read_exported",
    "schema",
]
