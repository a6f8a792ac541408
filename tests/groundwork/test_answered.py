"""What an entry that arrives late was made by, held against the design as it is."""

import uuid
from dataclasses import replace

import pytest
from tests.conftest import PAD
from tests.walking import mm, name

from groundwork.assess import Assessment, assess, design_changed
from groundwork.base import Role, Tolerance
from groundwork.entries import kinds as e
from groundwork.files import loads
from groundwork.layerwork import Direction, Passed
from groundwork.measures import Measured, Unit
from groundwork.observations import Observed, Seen
from groundwork.tools import STRAIGHTEDGE

JOB = replace(loads(PAD), today=None)
THEN = assess(JOB)


def with_base(**changed) -> Assessment:
    specification = JOB.specification
    layers = (*specification.layers[:-1], replace(specification.layers[-1], **changed))
    return assess(replace(JOB, specification=replace(specification, layers=layers)))


def reading(surface: str = "formation", station: str = "A1") -> e.Reading:
    return e.Reading(name(), station, name(), mm(1500), surface=surface)


def says(entry, now: Assessment) -> str | None:
    found = design_changed(entry, THEN, now)
    return found and found.text(Unit.MILLIMETRES)


def test_the_same_design_says_the_same() -> None:
    assert says(reading(), assess(JOB)) is None


@pytest.mark.parametrize(
    ("thickness", "words"),
    [
        (0.2, "At A1 the design lies 50 mm lower now than when this was read."),
        (0.1, "At A1 the design lies 50 mm higher now than when this was read."),
        (0.1506, "At A1 the design lies 1 mm lower now than when this was read."),
        (0.1504, None),  # less than a rod shows
    ],
)
def test_a_thicker_base_moves_the_formation_and_nothing_over_it(thickness: float, words: str | None) -> None:
    now = with_base(thickness=thickness)
    assert says(reading(), now) == words
    assert says(reading("base"), now) is None


def test_other_limits_are_another_question() -> None:
    tolerances = tuple(sorted({**dict(JOB.specification.tolerances), "base": Tolerance(0.005, 0.005)}.items()))
    now = assess(replace(JOB, specification=replace(JOB.specification, tolerances=tolerances)))
    assert says(reading("base"), now) == "The limits are 5 mm above and 5 mm below the design now."
    assert says(reading(), now) is None


def test_a_station_or_a_surface_that_is_gone_is_said() -> None:
    smaller = assess(replace(JOB, station_spacing=3.5))
    gone = next(s for s in THEN.surveys.ground if s not in smaller.surveys.ground)
    assert says(reading(station=gone), smaller) == f"{gone} is not on the plan any more."
    ground, before = smaller.surveys.ground, THEN.surveys.ground
    moved = next(s for s in ground if ground[s].station.at != before[s].station.at)
    assert says(reading(station=moved), smaller) == f"{moved} has another place on the plan now."
    in_three = assess(replace(JOB, specification=replace(JOB.specification, lifts=((Role.BASE, 1),))))
    assert "base.1" in {s.key for s in THEN.surveys.levelled}
    assert says(reading("base.1"), in_three) == "The design has no such surface any more."


def test_a_fall_is_made_by_both_its_ends() -> None:
    fall = e.FallCheck(name(), "A1", "A2", Measured("2 m", 2.0), mm(0), instrument=STRAIGHTEDGE)
    assert says(fall, with_base(thickness=0.2)).startswith("At A1 the design lies 50 mm lower")


def test_a_pass_is_made_by_its_lift() -> None:
    passed = Passed(name(), "base.1", name(), Direction.ALONG)
    assert says(passed, with_base(thickness=0.2)) == "The lift is to be 67 mm thick now."  # three of them
    assert says(passed, with_base(material="clean-stone")) in (
        "The lift is of another stone in the design now.", "The design has no such lift any more.",
    )  # fmt: skip
    one = assess(replace(JOB, specification=replace(JOB.specification, lifts=((Role.BASE, 1),))))
    assert says(passed, one) == "The design has no such lift any more."


def test_what_is_seen_or_set_up_is_made_by_no_level() -> None:
    now = with_base(thickness=0.3)
    assert says(e.SetUp(name(), "sill", mm(1300)), now) is None
    assert says(Observed(name(), "excavation", "clean", Seen.YES), now) is None
    assert says(e.Fill(str(uuid.uuid4()), "A1", "stone", 1), now) is None
