"""An area written down as it was measured on site: steps in right angles, tapes from two house corners, offsets,
diagonals to check."""

import math

import pytest

from groundwork.measures import Unit
from groundwork.plan import OutlineError
from groundwork.shape.measured import measured_area

M, FT = Unit.METRES, Unit.FEET_INCHES


def test_an_l_by_arrows_and_by_words() -> None:
    # 6 × 2 and 2 × 3 over it: 18 m².
    for text in (
        "right 6\nup 2\nleft 4\nup 3\nleft 2",
        "→ 6\n↑ 2\n← 4\n↑ 3\n← 2\n↓ 5",
        "R 6\nU 2\nL 4\nU 3\nL 2\nD 5",
    ):
        area = measured_area(text, M)
        assert area.ring.area == pytest.approx(18) and len(area.ring.corners) == 6, text
    assert area.says == () and area.advice == ()
    assert measured_area("→ 6\n↑ 2\n← 4\n↑ 3\n← 2", M).advice
    assert measured_area("→ 20'\n↑ 12'\n← 20'", FT).ring.area == pytest.approx(20 * 12 * 0.3048**2)


def test_a_step_may_curve() -> None:
    area = measured_area("→ 6 rise 1\n↑ 4\n← 6", M)
    theta = 2 * math.asin(0.6)
    assert area.ring.area == pytest.approx(24 + 25 * (theta - math.sin(theta)) / 2)


def by_tapes(extra: str = "") -> str:
    """A trapezium in front of a wall 7 m long from A to B: (1, 2), (6, 2.5), (5, 6), (1.5, 5.5)."""
    corners = [(1, 2), (6, 2.5), (5, 6), (1.5, 5.5)]
    lines = [f"{math.hypot(x, y):.3f} {math.hypot(7 - x, y):.3f}" for x, y in corners]
    return "A B 7\n" + "\n".join(lines) + extra


def test_corners_by_two_tapes_from_the_house() -> None:
    area = measured_area(by_tapes(), M)
    wanted = 0.5 * abs(1 * 2.5 - 6 * 2 + 6 * 6 - 5 * 2.5 + 5 * 5.5 - 1.5 * 6 + 1.5 * 2 - 1 * 5.5)
    assert area.ring.area == pytest.approx(wanted, abs=0.01)
    assert area.says == () and area.advice[0].names == {"corners": "X1, X2, X3, X4"}
    # (4, 9), (16, 6) and (10, 18) feet from A: half of 12 × 9 and 6 × 3 is 63 square feet.
    feet = measured_area("A B 20'\n9' 10 3/16\" 18' 4 1/4\"\n17' 1\" 7' 2 1/2\"\n20' 7\" 20' 7\"", FT)
    assert feet.ring.area == pytest.approx(63 * 0.3048**2, abs=0.1)
    spelled = by_tapes().replace("A B 7", "A B 7.00").splitlines()
    spelled[1] = "A {} B {}".format(*spelled[1].split())
    assert measured_area("\n".join(spelled), M).ring.area == pytest.approx(area.ring.area)


def test_diagonals_check_and_name_the_tape_that_was_misread() -> None:
    sides = "\nX1 X2 5.025\nX2 X3 3.640\nX3 X4 3.536\nX4 X1 3.536\nX1 X3 5.657\nX2 X4 5.408"
    good = measured_area(by_tapes(sides), M)
    assert good.slips == good.says == good.advice == ()
    wrong = measured_area(by_tapes(sides.replace("5.657", "5.957")), M)
    (said,) = wrong.says
    assert said.names == {"what": "X1–X3"} and said.lengths["by"] == pytest.approx(0.3, abs=0.02)


def test_offsets_from_the_wall_to_the_left_and_to_the_right() -> None:
    area = measured_area("A B 7\nalong 1 left 2\nalong 6 left 2\nalong 6 right 1\nalong 1 right 1", M)
    assert area.ring.area == pytest.approx(15)
    back = measured_area("A B 7\n2 6.5 right\nalong 6 right 2.5\nalong 4 right 6", M)
    assert all(y < 0 for _x, y in back.ring.corners)


def test_a_tape_corner_curves_to_the_next() -> None:
    straight, curved = by_tapes(), by_tapes().replace("\n", " rise 0.5\n", 2).replace("7 rise 0.5", "7")
    assert measured_area(curved, M).ring.area > measured_area(straight, M).ring.area + 1.5


@pytest.mark.parametrize(("text", "says"), [
    ("", "nothing typed"),
    ("→ six\n↑ 2\n← 6", "line 1:"),
    ("→ 6\n↑ 0\n← 6", "line 2: a length is more than nothing"),
    ("5 4\n6 4\n5 5", "line 1: tapes come from two fixed places: say how far apart first, like “A B 7.00”"),
    ("A B 7\n2 2\n6 3\n5 5", "line 2: these tapes do not meet: 3 m short"),
    ("A B 7\n12 2\n6 3\n5 5", "line 2: these tapes do not meet"),
    ("A B 0\n5 5\n6 3\n5 5", "line 1: a length is more than nothing"),
    ("A B 7\nB 3 4 5\n6 3\n5 5", "line 2: “B 3 4 5” is no way to a corner"),
    ("→ 6\n↑ 4\n← 6\nX1 X9 7", "line 4: there is no corner X9"),
    ("→ 6", "at least three"),
    ("A B 7\n→ 6\n5 4\n5 5", "line 2: steps go from corner to corner: not with tapes from A and B in one area"),
    ("→ 6\n↑ 4\n← 6\n" + "X1 X3 7\n" * 600, "more than"),
])  # fmt: skip
def test_what_cannot_be_read_says_the_line(text: str, says: str) -> None:
    with pytest.raises(OutlineError) as caught:
        measured_area(text, M)
    assert says in str(caught.value)
