"""The end of the work as it was signed: what holds the paving, how it was seated and its joints filled."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.utils.translation import gettext as _

from groundwork.jointwork import UnitFace
from nivelum.edging.kinds import held_words
from nivelum.joints.forms import FACES
from nivelum.recording.moments import told_minute


@dataclass(frozen=True)
class SignedJoints:
    """Joints as they were signed: what fills them; kg used and reckoned; between what they lie below the edge,
    metres; from when one may walk and drive on it, where that is known."""

    fill: str
    used: float
    reckoned: float
    depths: tuple[float, float] | None
    walk: str
    drive: str


@dataclass(frozen=True)
class SignedSeating:
    """Paving as it was seated: the plates, the fewest passes of any patch; at how many stations it came down by how
    much on the mean, metres."""

    plates: list[str]
    passes: int
    came_down: tuple[int, float] | None


@dataclass(frozen=True)
class SignedFinish:
    """What a stage at the end was signed on; `lips` are the places taped, the greatest, metres, and the faces; `held`
    each side by its number with what holds it. None of each where it was not of that stage."""

    held: list[tuple[int, str]]
    seating: SignedSeating | None
    lips: tuple[int, float, str] | None
    joints: SignedJoints | None


def finish_of(evidence: dict[str, Any]) -> SignedFinish:
    """What a stage's evidence says of the end of the work."""
    seated = evidence.get("seating")
    lips = (seated or evidence).get("lips")
    joints = evidence.get("joints")
    return SignedFinish(
        [(row["side"] + 1, held_words(row["by"])) for row in evidence.get("held", ())],
        _seating(seated) if seated else None,
        (lips["places"], lips["greatest_mm"] / 1000, str(FACES[UnitFace(lips["face"])])) if lips else None,
        _joints(joints) if joints else None,
    )


def _seating(seated: dict[str, Any]) -> SignedSeating:
    came = seated["came_down_mm"]
    return SignedSeating(
        [each["machine"] for each in seated["plates"]],
        min((row["along"] + row["across"] for row in seated["passes"]), default=0),
        (came["stations"], came["mean"] / 1000) if came else None,
    )


def _joints(joints: dict[str, Any]) -> SignedJoints:
    depths = [below / 1000 for row in joints["patches"] for below in row["below_mm"]]
    walk, drive = joints["walk_from"], joints["drive_from"]
    return SignedJoints(
        _(joints["fill"]), joints["used_kg"], joints["reckoned_kg"],
        (min(depths), max(depths)) if depths else None,
        told_minute(datetime.fromisoformat(walk)) if walk else "",
        told_minute(datetime.fromisoformat(drive)) if drive else "",
    )  # fmt: skip
