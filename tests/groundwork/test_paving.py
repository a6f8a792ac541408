"""Borders, rows, cuts and random layouts: against counts by hand, brute force over what was laid, simulated rows."""

import math
from collections import Counter
from itertools import pairwise, product

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity

from groundwork.laying.cuts import cut_list, until_action
from groundwork.laying.gauge import LINES, Joints, RowTaped, closing, home, home_words, tape_u
from groundwork.laying.takeoff import packs, taken_off
from groundwork.layouts.movement import movement_joints, moves
from groundwork.layouts.remedies import remedies
from groundwork.measures import Unit
from groundwork.pattern import Border, BorderCorner, BorderCourse, Paving, PavingDesign, PavingUnit, pattern, patterns
from groundwork.pattern.borders import border_pieces
from groundwork.pattern.clipped import clipped
from groundwork.pattern.mixes import COURSES, FIELD, LONGEST, PERIOD, coursed, mixed
from groundwork.pattern.patterns import _files

BLOCK = PavingUnit(0.2, 0.1, 0.0)
COURT = shapely.box(0, 0, 4.0, 3.0)
MM = Unit.MILLIMETRES


@pytest.mark.parametrize(("course", "corner", "whole", "cut"), [
    # Ends out, 0.2 broad: two sides through are 40 units each, the other two (3.00 − 0.40) / 0.1.
    (BorderCourse.ACROSS, BorderCorner.BUTTED, 2 * 40 + 2 * 26, 0),
    # Each side gives way at one end: (4.00 − 0.2) / 0.1 and (3.00 − 0.2) / 0.1.
    (BorderCourse.ACROSS, BorderCorner.TURNED, 2 * 38 + 2 * 28, 0),
    # Sides out, 0.1 broad: 20 through; between them 2.80 is 14.
    (BorderCourse.ALONG, BorderCorner.BUTTED, 2 * 20 + 2 * 14, 0),
    # Sides out and turned: 3.90 is 19 and a half, 2.90 is 14 and a half.
    (BorderCourse.ALONG, BorderCorner.TURNED, 2 * 19 + 2 * 14, 4),
])  # fmt: skip
def test_borders_of_200_by_100_round_4_by_3(course: BorderCourse, corner: BorderCorner, whole: int, cut: int) -> None:
    pieces = border_pieces(COURT, BLOCK, Border(course, corner))
    assert (sum(p.is_whole for p in pieces), sum(not p.is_whole for p in pieces)) == (whole, cut)


def test_a_mitred_border_is_cut_at_45_degrees() -> None:
    """Ends out round 4 × 3: at each corner two units of either side are cut, areas of 3/4 and 1/4 of them."""
    pieces = border_pieces(COURT, BLOCK, Border(BorderCourse.ACROSS, BorderCorner.MITRED))
    shares = Counter(round(p.share, 3) for p in pieces if not p.is_whole)
    assert shares == {0.75: 8, 0.25: 8}
    assert sum(p.shape.area for p in pieces) == pytest.approx(4 * 3 - 3.6 * 2.6)


@st.composite
def courts(draw) -> shapely.Polygon:
    """A court of right angles: a room with a corner taken out of it, and now and then with a cover in it; turned."""
    long, deep = draw(st.integers(20, 45)) / 10 + 0.013, draw(st.integers(20, 40)) / 10 + 0.007
    out = shapely.box(long - draw(st.integers(6, 9)) / 10, deep - draw(st.integers(6, 9)) / 10, long, deep)
    court = shapely.box(0, 0, long, deep)
    court = court.difference(out) if draw(st.booleans()) else court
    if draw(st.booleans()):
        court = court.difference(shapely.box(0.8, 0.8, 1.03, 1.11))
    return affinity.rotate(court, draw(st.integers(0, 90)), origin=(0, 0))


@settings(max_examples=40, deadline=None)
@given(
    courts(),
    st.sampled_from(list(BorderCourse)),
    st.sampled_from(list(BorderCorner)),
    st.sampled_from(sorted(patterns())),
)
def test_border_and_field_cover_the_court_once_and_whole(
    court, course: BorderCourse, corner: BorderCorner, key: str
) -> None:
    """Without joints all pieces come to the court; with the small ones shared out they still do."""
    unit = PavingUnit(0.1, 0.1, 0.0) if key in ("three-sizes", "random-sizes") else BLOCK
    (x0, y0), (x1, y1) = (court.exterior.coords[n] for n in (0, 1))
    design = PavingDesign(pattern(key), unit, Border(course, corner), (x0, y0), math.atan2(y1 - y0, x1 - x0), 0.0,
                          0.037, 0.021)  # fmt: skip
    paving = Paving(shapely.geometry.polygon.orient(court), design)
    shapes = np.array([piece.shape for piece in paving.pieces.values()], dtype=object)
    assert paving.covered == pytest.approx(court.area, abs=len(shapes) * 2e-6)
    assert float(shapely.area(shapes).sum()) == pytest.approx(court.area, abs=len(shapes) * 2e-6)
    # What is reckoned many at once is what the pieces come to one by one.
    cut = {name: piece for name, piece in paving.pieces.items() if not piece.is_whole}
    assert {piece.name: piece for piece in paving.cut} == cut and paving.whole == len(shapes) - len(cut)
    for number, row in paving.rows.items():
        reach = shapely.total_bounds([piece.shape for piece in paving.pieces.values() if piece.row == number])
        assert (row.low, row.high) == pytest.approx((reach[0], reach[2]), abs=1e-5)
    one, other = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    shared = shapely.area(shapely.intersection(shapes[one], shapes[other], grid_size=1e-7))[one < other]
    assert shared.sum() < len(shapes) * 1e-6
    again = Paving(paving.area, design, frozenset(piece.name for piece in paving.slivers))
    assert again.covered == pytest.approx(paving.covered, abs=1e-6) and len(again.slivers) <= len(paving.slivers)
    assert list(again.pieces) == list(paving.pieces)


def test_a_border_on_a_circle_has_whole_units_and_none_on_another() -> None:
    round_one = shapely.Point(2, 2).buffer(1.5, quad_segs=40)
    unit = PavingUnit(0.2, 0.1, 0.004)
    design = PavingDesign(pattern("stack"), unit, Border(BorderCourse.ACROSS), (2.0, 0.5), 0.0)
    paving = Paving(round_one, design)
    # Inner faces 1.3 m out: 2π × 1.3 / (100 + 4) = 78.5.
    assert len(paving.border) == 78 and all(piece.is_whole for piece in paving.border)
    shapes = np.array([piece.shape for piece in paving.pieces.values()], dtype=object)
    one, other = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    assert shapely.area(shapely.intersection(shapes[one], shapes[other]))[one < other].sum() < 1e-5


def test_no_border_where_there_is_no_room() -> None:
    with pytest.raises(ValueError, match="no room"):
        Border(BorderCourse.ACROSS).field(shapely.box(0, 0, 4, 0.3), BLOCK)


@settings(max_examples=60, deadline=None)
@given(*(st.integers(-most, most).map(lambda n: n / 1000 + 1e-5) for most in (1000, 1000, 3140, 400, 400)))
def test_a_rectangle_cut_by_a_line_is_what_shapely_cuts(
    x: float, y: float, turned: float, p: float, q: float
) -> None:
    way = np.array([math.cos(turned), math.sin(turned)])
    found = clipped(np.array([[x, y]]), (0.2, 0.1), np.array([[p, q]]), way[None, :])
    left = np.array([-way[1], way[0]])
    half = shapely.Polygon([(p, q) + 9 * way * a + 9 * left * b for a, b in ((-1, 0), (1, 0), (1, 1), (-1, 1))])
    part = shapely.intersection(shapely.box(x, y, x + 0.2, y + 0.1), half)
    assert found.areas[0] == pytest.approx(part.area, abs=1e-9)
    if part.area > 1e-6:
        x0, y0, x1, y1 = part.bounds
        assert found.reach[0] == pytest.approx((x1 - x0, y1 - y0), abs=1e-6)


@pytest.mark.parametrize("seed", [1, 2, 7])
def test_a_random_mix_keeps_its_rules_wherever_one_looks(seed: int) -> None:
    """Laid twice over each way, module by module, against a look at every corner, joint and neighbour."""
    mix = pattern("random-sizes", seed)
    wide = 2 * FIELD
    owner, sizes = np.full((wide, wide), -1), []
    for slot in mix.slots:
        for m, n in product((-1, 0, 1, 2), repeat=2):
            x, y = int(slot.at[0]) + m * FIELD, int(slot.at[1]) + n * FIELD
            w, h = (int(side) for side in slot.size or (0, 0))
            if x + w > 0 and y + h > 0 and x < wide and y < wide:
                there = owner[max(y, 0) : y + h, max(x, 0) : x + w]
                assert (there == -1).all()
                there[:] = len(sizes)
                sizes.append((x, y, w, h))
    assert (owner >= 0).all()
    a, b, c, d = owner[:-1, :-1], owner[:-1, 1:], owner[1:, :-1], owner[1:, 1:]
    assert not ((a != b) & (c != d) & (a != c) & (b != d)).any()
    for joints in (owner[:, :-1] != owner[:, 1:], (owner[:-1] != owner[1:]).T):
        for line in joints.T:
            runs = "".join("x" if each else " " for each in line).split()
            assert max(map(len, runs), default=0) <= LONGEST
    at = {each: sizes.index(each) for each in sizes}
    for x, y, w, h in sizes:
        assert (x + w, y, w, h) not in at and (x, y + h, w, h) not in at
    assert mix.slots != pattern("random-sizes", seed + 1).slots and mix is pattern("random-sizes", seed)


def test_the_first_draw_that_is_kept_is_what_is_drawn() -> None:
    rows = _files()["random-sizes"]["mix"]
    drawn = mixed([(row["long"], row["wide"]) for row in rows], [row["share"] for row in rows], 1)
    assert [(*slot.at, *slot.size) for slot in pattern("random-sizes").slots] == list(drawn)


@pytest.mark.parametrize("seed", [1, 5])
def test_ends_of_random_courses_keep_apart(seed: int) -> None:
    rows: dict[int, list[float]] = {}
    for x, course, long in coursed((0.75, 1.0, 1.25, 1.5), 0.2, seed):
        rows.setdefault(course, []).append(x % PERIOD)
        assert long in (0.75, 1.0, 1.25, 1.5)
    assert len(rows) == COURSES
    for course, ends in rows.items():
        beside = rows[(course + 1) % COURSES]
        assert min(min((a - b) % PERIOD, (b - a) % PERIOD) for a in ends for b in beside) > 0.2 - 1e-9
    with pytest.raises(ValueError, match="no such courses"):
        coursed((1.0,), 0.6, 1)


def test_units_too_large_for_what_is_drawn_by_lot_are_refused() -> None:
    assert "straight joints" in pattern("random-sizes").wrong(PavingUnit(0.4, 0.2, 0.005))
    assert "too near" in pattern("random-courses").wrong(PavingUnit(0.15, 0.1, 0.002))
    assert not pattern("random-sizes").wrong(PavingUnit(0.2, 0.1, 0.002))


def laid(key: str = "running-half", joint: float = 0.002, court=COURT, **more) -> Paving:
    return Paving(court, PavingDesign(pattern(key), PavingUnit(0.2, 0.1, joint), Border(), (0.0, 0.0), 0.0, **more))


def test_rows_by_hand() -> None:
    """100 and 2 of joint: the far face of row 10 tapes 1018 from the string, no joint before row 1. Begun 30 in, the
    string is 30 from the edge, and row 1 is what is cut in behind it."""
    paving = laid()
    assert paving.first_row == 1 and paving.far_face(10) == pytest.approx(1.018)
    moved = laid(ahead=0.030)
    assert moved.first_row == 2 and moved.design.string == pytest.approx(0.030)
    assert moved.far_face(11) == pytest.approx(1.018)
    assert moved.rows[1].low == 0.0 and moved.to_the_edge(1.0) == pytest.approx(2.97)
    # Herringbone at 45°: points of rows lie √2 × 102 apart.
    assert laid("herringbone", turned=math.pi / 4).design.pitch == pytest.approx(0.102 * math.sqrt(2))
    assert laid("herringbone").design.pitch == pytest.approx(0.102)
    assert laid(turned=math.pi / 2).design.pitch == pytest.approx(0.101)  # half of 202: every other unit is half on


def test_what_stands_askew_has_no_rows_to_tape() -> None:
    """Herringbone at 45° has points in line; a running bond at 45°, or a mix drawn by lot, has nothing in line."""
    askew = math.pi / 4
    rows = {key: laid(key, turned=askew).design.has_rows for key in ("herringbone", "running-half", "random-sizes")}
    assert rows == {"herringbone": True, "running-half": False, "random-sizes": False}
    assert laid("running-half", turned=askew).design.pitch == pytest.approx(0.102)
    assert all(laid(key, turned=math.pi / 2).design.has_rows for key in ("herringbone", "running-half", "stack"))
    assert laid("random-sizes").design.has_rows


def test_the_cut_list_by_hand() -> None:
    """Stack bond without joints on 1.06 × 0.6: six pieces of 60. A triangle's slant is half of its sides. And a strip
    of 40 at the far edge is ripped."""
    pieces = cut_list(laid("stack", 0.0, shapely.box(0, 0, 1.06, 0.6)))
    assert [(c.how, round(c.sizes[0], 3)) for c in pieces] == [("square", 0.06)] * 6
    assert [c.piece.row for c in pieces] == [1, 2, 3, 4, 5, 6]
    ripped = cut_list(laid("stack", 0.0, shapely.box(0, 0, 0.6, 0.24)))
    assert [(c.how, round(c.sizes[0], 3)) for c in ripped] == [("rip", 0.04)] * 3
    slope = shapely.Polygon([(0, 0), (0.38, 0), (0.34, 0.1), (0, 0.1)])
    (slant,) = cut_list(laid("stack", 0.0, slope))
    assert slant.how == "slant" and sorted(round(size, 3) for size in slant.sizes) == [0.14, 0.18]
    # Along the unit from end to end; and its corner off, 60 along and 40 across.
    taper = cut_list(laid("stack", 0.0, shapely.Polygon([(0, 0), (0.2, 0), (0.2, 0.06), (0, 0.09)])))
    assert [(c.how, *(round(size, 3) for size in c.sizes)) for c in taper] == [("taper", 0.09, 0.06)]
    corner = cut_list(laid("stack", 0.0, shapely.Polygon([(0, 0), (0.2, 0), (0.2, 0.06), (0.14, 0.1), (0, 0.1)])))
    assert [(c.how, *(round(size, 3) for size in c.sizes)) for c in corner] == [("corner", 0.06, 0.04)]
    notched = shapely.box(0, 0, 0.6, 0.3).difference(shapely.box(0.25, 0.12, 0.33, 0.17))
    assert {c.how for c in cut_list(laid("stack", 0.0, notched))} == {"template"}


def test_walking_order_goes_there_and_back() -> None:
    pieces = cut_list(laid("running-half", 0.0, shapely.box(0, 0, 1.05, 0.2)))
    places = [(c.piece.row, round(c.piece.shape.centroid.x, 3)) for c in pieces]
    assert places == sorted(places, key=lambda each: (each[0], each[1] if each[0] % 2 else -each[1]))


def test_the_days_exposure_at_a_saw() -> None:
    # Directive 2002/44/EC: A(8) = a √(T / 8) reaches 2.5 m/s² at 6 m/s² after 8 × (2.5 / 6)² = 1.39 h.
    assert until_action(6.0) == pytest.approx(1.389, abs=0.001) and until_action(2.5) == 8.0


def test_movement_joints_in_rigid_work() -> None:
    """3.6 m, 11 per million and kelvin, 50 K: 1.98 mm; a sealant that follows a quarter of it wants 8, use 10."""
    assert moves(3.6) * 1000 == pytest.approx(1.98)
    found = movement_joints(7.2, 3.6)
    assert (found.along, found.across) == ((2, 3.6), (1, 3.6)) and found.width == 0.010
    assert movement_joints(7.5, 2.0).along == (3, 2.5)


def test_pallets_and_weight_by_hand() -> None:
    assert packs(26.0, 12.1) == pytest.approx(2.149, abs=0.001)
    (one,) = taken_off({(0.2, 0.1): 1000}, 0.06, 2300.0)
    # 1000 and 2 % are 1020; 20.4 m² of 60 mm at 2300 kg/m³ are 2815 kg.
    assert (one.ordered, round(one.area, 1), round(one.mass)) == (1020, 20.4, 2815)


def test_a_small_piece_and_its_neighbour_become_two_of_130() -> None:
    paving = laid("stack", 0.0, shapely.box(0, 0, 1.06, 0.6))
    assert len(paving.slivers) == 6
    found = {r.how: r for r in remedies(paving, paving.slivers[0].name)}
    assert found["share"].each == pytest.approx(0.13) and found["share"].comes_to.slivers == 5
    # Begun 50 further along, 50 and 10 … : what each way comes to is counted anew.
    assert found["shift over"].comes_to.cuts == 12 and set(found) > {"shift ahead", "border along", "border across"}
    whole = Paving(paving.area, paving.design, frozenset(p.name for p in paving.slivers))
    assert not whole.slivers and sorted({round(p.laid.share, 3) for p in whole.cut}) == [0.65]


JOINTS = Joints(0.003, 0.002, 0.005)


def taped(row: int, left: float, middle: float, right: float, target: float = 2.0) -> RowTaped:
    return RowTaped(row, target, {"left": left, "middle": middle, "right": right})


@pytest.mark.parametrize(("row", "ahead", "good", "says"), [
    # 8.4 mm short on the left, 14 rows to go: 0.6 mm a joint.
    (taped(20, -0.0084, -0.0042, 0.0), 14, 12, ["open 0.6 mm a joint over the next 14 rows on the left"]),
    # As far everywhere: on the whole.
    (taped(20, 0.0084, 0.0084, 0.0084), 14, 12, ["close 0.6 mm a joint over the next 14 rows"]),
    # Too much for the rows that are left at 1 mm a joint, or over 15 mm: lift back to the last good one.
    (taped(20, 0.0, 0.006, 0.012), 5, 12, ["lift back to row 12"]),
    (taped(20, 0.0, 0.011, 0.024), 40, 12, ["lift back to row 12"]),
    (taped(20, 0.0, 0.011, 0.024), 40, 0, ["lift back to the string and begin again"]),
    (taped(20, 0.001, -0.002, 0.002), 14, 12, ["in line: go on"]),
    # 6 mm is not surely off: the last row is not lifted for it, one with rows to go is brought home.
    (taped(43, 0.001, 0.002, 0.006), 0, 22, ["in line: go on"]),
    (taped(20, 0.001, 0.002, 0.006), 14, 12, ["close 0.4 mm a joint over the next 14 rows on the right"]),
    (taped(20, 0.0, 0.0125, 0.0), 30, 12, ["pull the middle of the row back 13 mm, to a string from end to end"]),
])  # fmt: skip
def test_what_to_do_about_a_row(row: RowTaped, ahead: int, good: int, says: list[str]) -> None:
    found = home(row, ahead, JOINTS, good, 0.103)
    assert [words.text(MM) for words in home_words(found, row)] == says


def test_joints_at_their_limit_are_not_closed_further() -> None:
    tight = Joints(0.002, 0.002, 0.005)
    assert home(taped(20, 0.012, 0.012, 0.012), 40, tight, 12, 0.102).back_to == 12
    assert home(taped(20, -0.012, -0.012, -0.012), 40, tight, 12, 0.102).rows == 20


def test_closing_by_hand() -> None:
    """39 rows of 102, a joint and 62 are left: 12 more than a half are 0.3 mm on each of 40 joints."""
    found = closing(39 * 0.102 + 0.002 + 0.062, 0.100, 0.002, Joints(0.002, 0.002, 0.005))
    assert found is not None and found.rows == 39 and found.piece == pytest.approx(0.062)
    assert found.halves == pytest.approx(0.0003, abs=1e-6)
    assert closing(0.001, 0.1, 0.002, JOINTS) is None


def rows_laid(draw: np.random.Generator, fan: float, bow: float) -> RowTaped:
    """PavingRow 20 of joints that wander by 0.2 mm each, with a fan and a bow, taped by a tape as sure as it is."""
    target, off = 2.057, {}
    drift = draw.normal(0, 0.0002) * math.sqrt(20)
    for where, share in (("left", 0.0), ("middle", 0.5), ("right", 1.0)):
        lies = drift + fan * share + (bow if where == "middle" else 0.0) + draw.normal(0, 0.0002) * math.sqrt(20) / 3
        off[where] = lies + draw.normal(0, tape_u(target))
    return RowTaped(20, target, off)


def test_faults_are_found_and_honest_rows_are_not_suspected(capsys) -> None:
    """By simulation: rates are printed."""
    draw = np.random.default_rng(24)
    honest = np.mean([bool(rows_laid(draw, 0, 0).faults) for _n in range(2000)])
    fans = np.mean(["fan" in rows_laid(draw, 0.018, 0).faults for _n in range(2000)])
    bows = np.mean(["bow" in rows_laid(draw, 0, 0.018).faults for _n in range(2000)])
    drifts = np.mean(["drift" in rows_laid(draw, 0.0, 0).faults for _n in range(2000)])
    with capsys.disabled():
        print(f" honest rows suspected {honest:.2%}; fans of 18 mm found {fans:.1%}, bows {bows:.1%}", end="")
    assert honest < 0.02 and drifts < 0.02 and fans > 0.95 and bows > 0.95


def test_actions_bring_the_last_row_home() -> None:
    """A fan of 12 mm over 40 rows to go: laid on as it says, with joints that wander, the row where it ends is in
    line at both ends to a joint's wandering."""
    draw = np.random.default_rng(7)
    ends = []
    for _n in range(300):
        row = taped(20, 0.001, 0.006, 0.012)
        found = home(row, 40, JOINTS, 12, 0.103)
        assert found.by is not None and all(abs(by) <= 0.001 + 1e-9 for by in found.by.values())
        ends += [
            row.off[w] + found.rows * by + draw.normal(0, 0.0002) * math.sqrt(found.rows)
            for w, by in found.by.items()
        ]
    assert np.abs(ends).max() < LINES / 3 and abs(np.mean(ends)) < 0.0003


def test_each_pattern_repeats_by_itself() -> None:
    """Rows lie as far apart as the gauge says: faces of units on their lines, seen from the string."""
    for key in ("herringbone", "stack", "running-third", "three-sizes"):
        unit = PavingUnit(0.1, 0.1, 0.003) if key == "three-sizes" else PavingUnit(0.2, 0.1, 0.003)
        design = PavingDesign(pattern(key), unit, Border(), (0, 0), 0.0)
        faces = {
            round(p.shape.bounds[1] / design.pitch, 6) for p in Paving(COURT, design).pieces.values() if p.is_whole
        }
        assert all(abs(face - round(face)) < 1e-5 for face in faces) and len(faces) > 5
        assert all(b - a < 1.5 for a, b in pairwise(sorted(faces)))
