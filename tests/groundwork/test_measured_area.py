"""An area written down as it was measured on site: steps in right angles, tapes from two house corners, offsets,
diagonals to check."""

import cmath
import math
import random

import pytest
import shapely

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
    path = measured_area("→ 18\n↑ 0.5\n← 18", M)  # its end is a side, not an error in closing
    assert path.ring.area == pytest.approx(9) and path.says == ()
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


def test_corners_of_a_walk_to_the_right_are_checked_as_the_plan_counts_them() -> None:
    """Up 3, right 5, down 3 from 0, 0: the plan goes round to the left, 0 0, 5 0, 5 3, 0 3, so that X1 X2 is the side
    that was not walked, 5 m, and X2 X4 the diagonal."""
    good = measured_area("↑ 3\n→ 5\n↓ 3\nX1 X2 5\nX2 X4 5.831", M)
    assert good.says == () and good.ring.corners[1] == pytest.approx((5, 0), abs=0.01)
    assert "X1–X2" in measured_area("↑ 3\n→ 5\n↓ 3\nX1 X2 5.4\nX2 X4 5.831\nX1 X3 5.831", M).says[0].names["what"]


def test_offsets_from_the_wall_to_the_left_and_to_the_right() -> None:
    area = measured_area("A B 7\nalong 1 left 2\nalong 6 left 2\nalong 6 right 1\nalong 1 right 1", M)
    assert area.ring.area == pytest.approx(15)
    back = measured_area("A B 7\n2 6.5 right\nalong 6 right 2.5\nalong 4 right 6", M)
    assert all(y < 0 for _x, y in back.ring.corners)


def test_a_tape_corner_curves_to_the_next() -> None:
    straight, curved = by_tapes(), by_tapes().replace("\n", " rise 0.5\n", 2).replace("7 rise 0.5", "7")
    assert measured_area(curved, M).ring.area > measured_area(straight, M).ring.area + 1.5


@pytest.mark.parametrize("seed", range(40))
def test_ways_mixed_at_random_come_to_the_corners_they_were_taken_from(seed: int) -> None:
    """A yard of right angles and slanted sides before a wall of 9 m, each corner in one way or another, to the left
    round or to the right."""
    draw = random.Random(seed)
    yard = [(1, 1), (7, 1), (7, 3), (8.5, 4.5), (8.5, 7), (6, 7), (4, 8.2), (1, 8.2)]
    if draw.random() < 0.5:
        yard = [yard[0], *reversed(yard[1:])]
    lines = ["A B 9"]
    for n, (x, y) in enumerate(yard):
        (bx, by), (ax, ay) = yard[n - 1], yard[n - 2]
        ways = [f"{math.hypot(x, y):.4f} {math.hypot(9 - x, y):.4f}", f"along {x} left {y}"]
        if n and (x == bx or y == by):
            way = ("right" if x > bx else "left") if y == by else ("up" if y > by else "down")
            ways.append(f"{way} {math.dist((x, y), (bx, by)):.4f}")
        if n > 1:
            turned = math.degrees(cmath.phase(complex(ax - bx, ay - by) / complex(x - bx, y - by)))
            inside = turned % 360 if shapely.LinearRing(yard).is_ccw else -turned % 360
            ways.append(f"angle {inside:.4f} side {math.dist((x, y), (bx, by)):.4f}")
        lines.append(draw.choice(ways))
    area = measured_area("\n".join(lines), M)
    assert shapely.Polygon(area.ring.corners).symmetric_difference(shapely.Polygon(yard)).area < 0.01
    assert area.says == ()


def test_angles_go_on_from_steps_whichever_way_round() -> None:
    # Half a hexagon of 2 m sides: three triangles of the side; and the same walked to the right.
    wanted = 3 * math.sqrt(3) / 4 * 4
    for text in ("→ 2\nangle 120 side 2\nangle 120 2", "← 2\nangle 120 2\nangle 120° 2"):
        assert measured_area(text, M).ring.area == pytest.approx(wanted)
        assert measured_area(text.replace("←", "→"), M).ring.area == pytest.approx(wanted)


def test_smooth_sides_are_one_line_through_their_corners() -> None:
    """A half circle of 3 m through five places, over a straight side: known of a circle's own points."""
    places = [(3 * math.cos(a), 3 * math.sin(a)) for a in (k * math.pi / 4 for k in range(5))]
    lines = [f"along {x + 4:.4f} left {y + 1:.4f} smooth" for x, y in places]
    area = measured_area("\n".join(["A B 9", *lines[:-1], lines[-1][:-7]]), M)
    assert area.ring.area == pytest.approx(4.5 * math.pi, abs=0.003) and len(area.ring.corners) == 5
    wavy = measured_area("A B 9\nalong 1 left 1\nalong 8 left 1\nalong 8 left 4 smooth\nalong 5 left 5 smooth\n"
                         "along 4 left 4 smooth\nalong 1 left 5", M)  # fmt: skip
    assert "arcs meet at" in str(wavy.advice[-1]) and wavy.ring.corners[3] == pytest.approx((5, 5), abs=1)


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
    ("A B 7\n5 4 rise 1\n→ 2 rise 1\n5 5", "line 3: this side has a curve already"),
    ("→ 6\nA B 7\n5 5", "line 2: say how far A and B are apart in the first line"),
    ("angle 90 side 6\n→ 4\n↑ 5", "line 1: an angle lies between two sides"),
    ("→ 6\nangle 400 side 4\n↑ 5", "line 2: “400” is no angle"),
    ("A B 7 rise 1\n5 4\n6 3\n5 5", "line 1: a curve stands behind a corner or a step"),
    ("→ 6 smooth\n↑ 4\n← 6", "a smooth line goes through three corners at least"),
    ("→ 6\n↑ 4\n← 6\n" + "X1 X3 7\n" * 600, "more than"),
])  # fmt: skip
def test_what_cannot_be_read_says_the_line(text: str, says: str) -> None:
    with pytest.raises(OutlineError) as caught:
        measured_area(text, M)
    assert says in str(caught.value)
