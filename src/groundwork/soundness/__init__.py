"""Is the design sound, and which base suits the job? The S rules, the adviser, what completes a
base, first planes."""

from groundwork.soundness.adviser import (
    Advice,
    Reason,
    Side,
    advice,
    advise,
)
from groundwork.soundness.bearing import (
    ground_strength,
)
from groundwork.soundness.completion import (
    completed,
    with_margin,
    with_pavers,
)
from groundwork.soundness.designed import (
    MOST_STANDING,
    designed_standing,
)
from groundwork.soundness.proposal import (
    first_facets,
)
from groundwork.soundness.rules import (
    Case,
    soundness,
)

__all__ = [
    "MOST_STANDING",
    "Advice",
    "Case",
    "Reason",
    "Side",
    "advice",
    "advise",
    "completed",
    "designed_standing",
    "first_facets",
    "ground_strength",
    "soundness",
    "with_margin",
    "with_pavers",
]
