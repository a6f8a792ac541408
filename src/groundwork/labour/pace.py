"""The crew's own pace: hours that a stage took over what the table says, job by job, and the table itself taken as
two jobs' worth of evidence."""

import math
import statistics
from collections.abc import Sequence

TABLES_WORTH = 2
"""The table counts as so many jobs of the crew's own (the design's; no published source)."""
ODD = 2.0
"""A job further from the middle of all than by this factor counts as if it were just so far: one odd day swings
nothing."""


def pace(jobs: Sequence[float]) -> float:
    """Hours over the table's hours, from how it went on the crew's jobs: above one is slower. The mean on a scale of
    ratios, in which half as fast and twice as fast weigh the same.

    >>> pace([])
    1.0
    """
    known = [0.0] * TABLES_WORTH + [math.log(job) for job in jobs if job > 0]
    middle, most = statistics.median(known), math.log(ODD)
    return math.exp(statistics.fmean(min(max(each, middle - most), middle + most) for each in known))
