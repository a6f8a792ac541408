"""Water that comes up through a lift."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Interval

from groundwork.kinds import Circumstances, Words400, Wrong
from groundwork.layerwork import LiftWork
from groundwork.measures import Words


@dataclass(frozen=True)
class Seepage(LiftWork, kind="seepage"):
    """Water that comes up through a lift, l/min, and where."""

    rate: Annotated[float, "rate_l_min", Interval(gt=0, le=1000)]
    where: Words400 = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if there.is_now and any(e.lift == self.lift for e in there.of_kind(Seepage).values()):
            return Wrong("rate", Words("that water is logged already: strike it out first"))
        return super().wrong(there)
