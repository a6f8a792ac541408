"""A fall by the bubble of a level that was laid on a known fall once."""

import math
from dataclasses import replace

import pytest
from tests.groundwork.test_assess import JOB

from groundwork.assess import assess
from groundwork.entries import FallCheck
from groundwork.files import dumps, loads
from groundwork.levels import Bubble, SpiritLevel
from groundwork.measures import Measured
from groundwork.survey import FallCall
from groundwork.tools import STRAIGHTEDGE

# Laid on a board with a shim of 15 mm under 1.2 m: 1:80; of 30 mm: 1:40.
OWN = SpiritLevel(15 / 1200, 30 / 1200)


def test_the_bubble_is_worth_the_fall_it_was_laid_on() -> None:
    gap, instrument = OWN.read(Bubble.TOUCHING, 1.2, STRAIGHTEDGE)
    assert gap.metres == pytest.approx(0.015)
    # By hand: √(1.5² + (0.15 · 12.5)²) mm a metre, over 1.2 m: 2.88 mm.
    assert instrument.reading_u == pytest.approx(math.hypot(1.5, 0.15 * 12.5) / 1000 * 1.2)
    assert OWN.read(Bubble.HALF_OUT, 0.6, STRAIGHTEDGE)[0].metres == pytest.approx(0.015)


def test_a_level_never_laid_on_a_fall_says_nothing() -> None:
    assert SpiritLevel().known == () and SpiritLevel(touching=1 / 80).known == (Bubble.TOUCHING,)
    with pytest.raises(ValueError, match="known fall"):
        SpiritLevel().read(Bubble.HALF_OUT, 1.2, STRAIGHTEDGE)
    with pytest.raises(ValueError, match="before"):
        SpiritLevel(1 / 40, 1 / 80)


# The pad falls 1:60 from X1 to X2: four fifths of it are 1:75.
@pytest.mark.parametrize(
    ("level", "bubble", "start", "call"),
    [(SpiritLevel(half_out=1 / 30), Bubble.HALF_OUT, "X1", FallCall.GOOD),
     (SpiritLevel(touching=1 / 60), Bubble.TOUCHING, "X1", FallCall.TOO_CLOSE),
     (SpiritLevel(touching=1 / 300), Bubble.TOUCHING, "X1", FallCall.FLAT),
     (SpiritLevel(half_out=1 / 30), Bubble.HALF_OUT, "X2", FallCall.WRONG_WAY)],
)  # fmt: skip
def test_a_fall_by_the_bubble_is_judged_with_how_sure_it_is(level, bubble, start, call) -> None:
    gap, instrument = level.read(bubble, 1.2, STRAIGHTEDGE)
    end = "X2" if start == "X1" else "X1"
    # Read from the high end; where the bubble stands the other way the gap is taken the other way.
    check = FallCheck("f", start, end, Measured("1.2 m", 1.2), gap, instrument=instrument)
    (answer,) = assess(replace(JOB, entries=(check,))).surveys.falls.values()
    assert answer.call is call
    again = loads(dumps(replace(JOB, entries=(check,))))
    assert again.entries[0].gap.metres == pytest.approx(gap.metres)
