"""Levels reduced from a level book."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from groundwork.levels import Booking, reduce_by_height_of_instrument, reduce_by_rise_and_fall
from groundwork.levels.levelling import (
    height_of_instrument,
    reduced_level,
    target_reading,
)

# B. C. Punmia, "Surveying", vol. 1, chapter on levelling, the first worked example: ten readings, the level moved
# after the third, sixth and eighth, from a bench mark at 432.384 m. Quoted from memory.
BOOK = [
    Booking(backsight=2.228),
    Booking(intermediate=1.606),
    Booking(foresight=0.988, backsight=2.090),
    Booking(intermediate=2.864),
    Booking(foresight=1.262, backsight=0.602),
    Booking(foresight=1.982, backsight=1.044),
    Booking(foresight=2.684),
]
LEVELS = [432.384, 433.006, 433.624, 432.850, 434.452, 433.072, 431.432]


@pytest.mark.parametrize("reduce", [reduce_by_height_of_instrument, reduce_by_rise_and_fall])
def test_a_textbook_level_book(reduce) -> None:
    reduction = reduce(432.384, BOOK)
    assert reduction.levels == pytest.approx(LEVELS, abs=1e-9)
    assert reduction.backsights == pytest.approx(5.964)
    assert reduction.foresights == pytest.approx(6.916)
    assert reduction.backsights - reduction.foresights == pytest.approx(-0.952)
    assert reduction.checks


def test_rise_and_fall_has_its_own_sums() -> None:
    reduction = reduce_by_rise_and_fall(432.384, BOOK)
    assert reduction.rises - reduction.falls == pytest.approx(-0.952)


readings = st.floats(0, 5)
books = st.lists(st.tuples(readings, st.lists(readings, max_size=3), readings), min_size=1, max_size=8)


@given(st.floats(-100, 1000), books)
def test_both_methods_agree_and_both_check(first: float, set_ups) -> None:
    bookings: list[Booking] = []
    foresight = None
    for back, between, fore in set_ups:
        bookings += [
            Booking(backsight=back, foresight=foresight),
            *(Booking(intermediate=r) for r in between),
        ]
        foresight = fore
    bookings.append(Booking(foresight=foresight))
    by_height = reduce_by_height_of_instrument(first, bookings)
    by_rise = reduce_by_rise_and_fall(first, bookings)
    assert by_height.levels == pytest.approx(by_rise.levels, abs=1e-9)
    assert by_height.checks and by_rise.checks


@given(st.floats(-100, 1000), readings, st.floats(-100, 1000))
def test_a_rod_on_its_target_stands_on_the_design(mark: float, back: float, design: float) -> None:
    height = height_of_instrument(mark, back)
    assert reduced_level(height, target_reading(height, design)) == pytest.approx(design)


@pytest.mark.parametrize(
    ("bookings", "says"),
    [
        ([Booking(backsight=1.0)], "at least one more line"),
        ([Booking(intermediate=1.0), Booking(foresight=1.0)], "starts with a backsight"),
        ([Booking(backsight=1.0), Booking(), Booking(foresight=1.0)], "line 2"),
        (
            [Booking(backsight=1.0), Booking(intermediate=1.0, backsight=2.0), Booking(foresight=1.0)],
            "foresight",
        ),
        ([Booking(backsight=1.0), Booking(intermediate=1.0)], "last line"),
    ],
)
def test_a_book_that_cannot_be_read_says_where(bookings: list[Booking], says: str) -> None:
    for reduce in (reduce_by_height_of_instrument, reduce_by_rise_and_fall):
        with pytest.raises(ValueError, match=says):
            reduce(100.0, bookings)
