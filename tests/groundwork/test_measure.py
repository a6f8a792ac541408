"""Lengths as typed and as shown."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from groundwork.measures import (
    FOOT,
    INCH,
    MeasureError,
    Unit,
    format_amount,
    format_fall,
    format_level,
    format_reading,
    parse_fall,
    parse_length,
    parse_rod,
    parse_tape,
)

M, MM, FT, FT_IN = Unit.METRES, Unit.MILLIMETRES, Unit.FEET_TENTHS, Unit.FEET_INCHES


@pytest.mark.parametrize(
    ("typed", "bare", "metres"),
    [
        # International foot and inch, exact since 1959: 0.3048 m, 25.4 mm (published: NIST Handbook 44, from memory).
        ("4' 7 3/8\"", MM, 1.406525),
        ('0.5"', MM, 0.0127),
        ('1/16"', MM, 0.0015875),
        ("4.61'", MM, 4.61 * 0.3048),
        ("4.61", FT, 4.61 * 0.3048),
        ("7-3/8", FT_IN, 7.375 * 0.0254),
        ("4 7 3/8", FT_IN, 1.406525),
        ("4-7-3/8", FT_IN, 1.406525),
        ("4′ 7⅜″", FT_IN, 1.406525),
        ("4'7", FT_IN, 55 * 0.0254),
        ("4 ft 7 3/8 in", M, 1.406525),
        ('55 3/8"', M, 1.406525),
        ("5' 0 1/2''", FT_IN, 60.5 * 0.0254),
        ("1.406", M, 1.406),
        ("1406", MM, 1.406),
        ("1,406 m", MM, 1.406),
        ("140.6cm", FT, 1.406),
        (" 1406 MM ", M, 1.406),
    ],
)
def test_what_people_type(typed: str, bare: Unit, metres: float) -> None:
    measured = parse_length(typed, bare)
    assert measured.metres == pytest.approx(metres, abs=1e-12)
    assert measured.raw == typed.strip()


@pytest.mark.parametrize("bare", [M, MM])
@pytest.mark.parametrize("typed", ["1.406", "1406", "1,406"])
def test_a_metric_rod_reads_the_same_in_metres_and_millimetres(typed: str, bare: Unit) -> None:
    assert parse_rod(typed, bare).metres == pytest.approx(1.406, abs=1e-12)


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("", "Nothing typed"),
        ("   ", "Nothing typed"),
        ("abc", "not a measurement"),
        ("1e9", "not a measurement"),
        ("nan", "not a measurement"),
        ("-3", "below the foot"),
        ("99", None),
        ("7000", "more than any rod"),
        ("4' 13\"", "inches run from 0 to under 12"),
        ("4' 12\"", "inches run from 0 to under 12"),
        ("4.5' 3\"", "decimal point take no inches"),
        ('3/7"', "no 7ths"),
        ('9/8"', "whole inch or more"),
        ("1 . 4", "not a measurement"),
        ("1" * 10_000, "Too long"),
        ("1.4.6", "not a measurement"),
        ("1,406 mm", "1406 mm or 1.406 m"),
        ("\x00", "not a measurement"),
        ("4'' 7'", "not a measurement"),
    ],
)
def test_what_no_rod_reads(typed: str, says: str | None) -> None:
    if says is None:
        assert parse_rod(typed, MM).metres == pytest.approx(0.099)
        return
    with pytest.raises(MeasureError, match=says):
        parse_rod(typed, MM)


@given(st.text(max_size=60), st.sampled_from(Unit))
def test_any_text_is_a_reading_or_refused_with_a_reason(typed: str, bare: Unit) -> None:
    try:
        reading = parse_rod(typed, bare)
    except MeasureError as error:
        assert str(error)
    else:
        assert 0 <= reading.metres <= 6.0


STEP = {M: 0.001, MM: 0.001, FT: 0.01 * FOOT, FT_IN: INCH / 16}


@given(st.floats(0, 5.9), st.sampled_from(Unit))
def test_a_shown_reading_typed_back_is_the_reading_to_the_rods_division(metres: float, unit: Unit) -> None:
    back = parse_rod(format_reading(metres, unit), unit).metres
    assert back == pytest.approx(metres, abs=STEP[unit] / 2 + 1e-6)


@given(st.floats(-900, 900), st.sampled_from(Unit))
def test_a_shown_level_typed_back_is_the_level(metres: float, unit: Unit) -> None:
    bare = M if unit is MM else unit
    back = parse_length(format_level(metres, unit), bare).metres
    assert back == pytest.approx(metres, abs=STEP[unit] / 2 + 1e-6)


@given(st.integers(0, 40), st.integers(0, 11), st.integers(0, 31))
def test_fractions_agree_with_exact_arithmetic(feet: int, inches: int, thirtyseconds: int) -> None:
    typed = f"{feet}' {inches} {thirtyseconds}/32\""
    exact = (Fraction(feet * 12 + inches) + Fraction(thirtyseconds, 32)) * Fraction(254, 10000)
    assert parse_length(typed, MM).metres == pytest.approx(float(exact), abs=1e-12)


def test_amounts_are_in_the_crews_one_system() -> None:
    assert format_amount(0.0142, MM) == "14 mm"
    assert format_amount(-0.0142, M) == "14 mm"
    assert format_amount(1.3125 * INCH, FT_IN) == "1 5/16″"
    assert format_amount(0.05 * FOOT, FT) == "0.05′"
    assert format_level(-0.001, M) == "−0.001"
    assert format_level(-0.0001, FT_IN) == "0″"
    assert format_level(12 * FOOT - 1e-6, FT_IN) == "12′ 0″"
    assert format_level(12 * FOOT + INCH / 4, FT_IN) == "12′ 0 1/4″"
    assert format_fall(1 / 60) == "1:60"
    assert format_fall(0) == "level"


# As people type them: worked by hand, 1 foot = 0.3048 m, 1 inch = 0.0254 m.
@pytest.mark.parametrize(
    ("typed", "metres"),
    [("4ft7in", 1.397), ("4 feet 7", 1.397), ("4ft 7 3/8in", 1.406525), ("1.406 metres", 1.406),
     ("1406 millimetres", 1.406), ("140.6 centimeters", 1.406), ("4,61'", 1.405128), ("3feet", 0.9144),
     ("12in", 0.3048), ("7½ in.", 0.1905)],
)  # fmt: skip
def test_lengths_as_people_type_them(typed: str, metres: float) -> None:
    for unit in Unit:
        assert parse_length(typed, unit).metres == pytest.approx(metres, abs=1e-9)


@pytest.mark.parametrize(
    ("typed", "one_in"),
    [("1in60", 60), ("1 in 60", 60), ("¼\" per foot", 48), ("1/4” per ft", 48), ("17 mm per metre", 1000 / 17),
     ("16,7 mm per meter", 1000 / 16.7), ("1in/ft", 12), ("2 1/2\" per foot", 4.8)],
)  # fmt: skip
def test_falls_as_people_type_them(typed: str, one_in: float) -> None:
    assert 1 / parse_fall(typed) == pytest.approx(one_in)


@pytest.mark.parametrize("typed", ["1in", "in60", "1 in", "m", "4ftx", "1.4 metresque", "1" + " " * 1100 + "x"])
def test_what_only_looks_like_one_is_refused(typed: str) -> None:
    with pytest.raises(MeasureError):
        parse_fall(typed)
    if typed not in ("1in", "1 in"):
        with pytest.raises(MeasureError):
            parse_length(typed, Unit.METRES)


@pytest.mark.parametrize(("typed", "unit", "metres"), [
    ("98.5", Unit.MILLIMETRES, 0.0985), ("99", Unit.MILLIMETRES, 0.099), ("12355", Unit.MILLIMETRES, 12.355),
    ("1.954", Unit.MILLIMETRES, 1.954), ("12.355", Unit.METRES, 12.355), ("1954", Unit.METRES, 1.954),
    ("0.099", Unit.METRES, 0.099), ("40' 6\"", Unit.FEET_INCHES, 40.5 * FOOT),
    ("40.5", Unit.FEET_TENTHS, 40.5 * FOOT),
])  # fmt: skip
def test_lengths_along_a_tape_are_read_as_they_are_shown(typed: str, unit: Unit, metres: float) -> None:
    assert parse_tape(typed, unit).metres == pytest.approx(metres)


@pytest.mark.parametrize("typed", ["101 m", "-3", "far", "", "9" * 50])
def test_what_is_no_length_along_a_tape_is_refused(typed: str) -> None:
    with pytest.raises(MeasureError):
        parse_tape(typed, Unit.METRES)
