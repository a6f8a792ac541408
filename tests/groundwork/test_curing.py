"""Maturity and the life of a mortar against hand values."""

from datetime import date, datetime, timedelta

import pytest

from groundwork.curing import BESIDE, PLATED, Warmth, days_of_setting, earned, matured_at, mortar_life
from groundwork.curing.maturity import ready_at, time_to


def test_maturity_by_hand() -> None:
    # Nurse and Saul with a datum of −10 °C: 24 h at 20 °C are 720 °C·h; 7 days at 20 °C are 3 360 with a datum of 0
    # and 5 040 with −10, which at 10 °C are 14.0 and 10.5 days.
    assert time_to(BESIDE, 20) == 24 and [time_to(PLATED[w], 20) for w in (False, True)] == [48, 72]
    assert time_to(3360, 20, 0.0) / 24 == 7 and time_to(3360, 10, 0.0) / 24 == 14
    assert time_to(5040, 20) / 24 == 7 and time_to(5040, 10) / 24 == 10.5
    assert time_to(720, 0) == float("inf") and time_to(720, -3) == float("inf")


def test_the_hour_is_never_too_soon() -> None:
    since = datetime(2026, 3, 5, 15, 30)
    assert ready_at(since, 720, 20) == datetime(2026, 3, 6, 15, 30)
    # 720 / 17 = 42 h 21.2 min: on the next minute.
    assert ready_at(since, 720, 7) == datetime(2026, 3, 7, 9, 52)
    assert ready_at(since, 720, 0) is None


@pytest.mark.parametrize(("celsius", "minutes"), [(20, 90), (30, 45), (25, 63.64), (10, 180), (-5, 180)])
def test_mortar_lives_half_as_long_ten_degrees_warmer(celsius: float, minutes: float) -> None:
    assert mortar_life(celsius) == pytest.approx(minutes, abs=0.01)


POURED = datetime(2026, 3, 5, 15, 0)


def test_days_of_setting_are_those_at_twenty_degrees() -> None:
    # A kerb's three days, a bed's one: the same hours by degrees a plate and a layer wait for.
    assert days_of_setting(3) == PLATED[True] == 2160 and days_of_setting(1) == BESIDE == 720


def test_by_how_warm_it_really_was() -> None:
    # Ten hours at 20 °C (300 °C·h) and then 5 °C: 420 / 15 = 28 h more, by hand.
    def told(moment: datetime) -> float:
        return 20.0 if moment < POURED + timedelta(hours=10) else 5.0

    assert matured_at(POURED, 720, Warmth(99.0, else_=told)) == POURED + timedelta(hours=38)

    # A night of frost in between earns nothing: eight hours later, and no other way.
    def frost(moment: datetime) -> float:
        return -1.0 if 10 <= (moment - POURED) / timedelta(hours=1) < 18 else told(moment)

    assert matured_at(POURED, 720, Warmth(99.0, else_=frost)) == POURED + timedelta(hours=46)
    assert earned(POURED, POURED + timedelta(hours=38), Warmth(99.0, else_=told)) == pytest.approx(720)
    # At exactly 0 °C hours earn nothing, a tenth over it they do.
    assert matured_at(POURED, 720, Warmth(0.0)) is None and matured_at(POURED, 720, Warmth(0.1)) is not None


def test_the_concretes_own_temperature_comes_before_the_days_and_the_days_before_the_airs() -> None:
    noon = datetime(2026, 3, 6, 12, 0)
    concrete = ((noon - timedelta(hours=6), 18.0), (noon + timedelta(hours=6), 12.0))
    warm = Warmth(1.0, concrete, ((noon, 30.0),), {date(2026, 3, 6): (4.0, 14.0)}, lambda _moment: 7.0)
    assert warm.at(noon) == pytest.approx(15.0)  # half way between its two readings
    assert warm.at(datetime(2026, 3, 6, 23, 0)) == pytest.approx(4.0 + 10 * 0.3887395, abs=1e-4)  # of the day
    # By hand: eight of the fourteen hours from the warmest to the coldest are gone, (1 + cos(8π/14)) / 2 = 0.38874.
    bare = Warmth(1.0, (), ((noon, 30.0),), {}, lambda _moment: 7.0)
    assert bare.at(noon + timedelta(hours=3)) == 30.0 and bare.at(noon + timedelta(hours=4)) == 7.0
    assert Warmth(1.0).at(noon) == 1.0


def test_seven_days_at_twenty_are_fourteen_at_ten_over_nought() -> None:
    # The design's check: 3 360 °C·h over 0 °C, and 5 040 over −10.
    assert matured_at(POURED, 3360, Warmth(10.0), 0.0) == POURED + timedelta(days=14)
    assert matured_at(POURED, 5040, Warmth(10.0)) == POURED + timedelta(days=10.5)
