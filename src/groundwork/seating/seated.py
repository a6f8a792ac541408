"""A station of the paving before it was seated and after: how far it came down, and what to do about it."""

from dataclasses import dataclass

from groundwork.measures import Words
from groundwork.verdict import Judgement, Standing

NO_MORE = 0.001
"""What is so near what seating takes off has come down all it will, metres (common practice)."""


@dataclass(frozen=True)
class Seated:
    """A station: how far above the finished level it lay `before` it was seated, metres, None where it was not shot,
    and how it lies since; `limit` is how high it may lie, `drop` what seating should take off, metres; `more` where
    another pass was not tried yet."""

    station: str
    before: float | None
    after: Judgement
    limit: float
    drop: float
    more: bool

    @property
    def came_down(self) -> float | None:
        """By how much it came down, metres."""
        now = self.after.deviation
        return None if self.before is None or now is None else self.before - now

    @property
    def is_done(self) -> bool:
        return self.after.standing.is_sound

    @property
    def _may_come_down(self) -> bool:
        """Whether one more pass may bring a high one within its limit."""
        if self.came_down is None:
            return self.more
        left = self.drop - self.came_down
        return left > NO_MORE and (self.after.deviation or 0.0) - left <= self.limit + NO_MORE

    @property
    def action(self) -> Words:
        """What to do here."""
        off = abs(self.after.deviation or 0.0)
        match self.after.standing:
            case Standing.UNSHOT:
                return Words("not shot yet" if self.before is None else "seat it, then shoot it again")
            case Standing.GOOD | Standing.MADE_GOOD:
                return Words("seated")
            case Standing.LOW:
                return Words("too low: lift, add {amount} of bed, relay", {"amount": off})
            case Standing.HIGH if self._may_come_down:
                return Words("one more pass")
            case Standing.HIGH:
                return Words("too high: lift, take {amount} of bed out, relay", {"amount": off})
        return self.after.action
