"""Maturity and the life of a mortar against hand values."""

from datetime import datetime

import pytest

from groundwork.curing import BESIDE, PLATED, mortar_life, ready_at
from groundwork.curing.maturity import time_to


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
