"""Weather against published values, hand values and brute force; each limit fires past it and is silent up to it."""

import itertools
import json
import math
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from groundwork.measures import Unit
from groundwork.outdoors import (
    Held,
    Outdoors,
    Says,
    goes_until,
    limits_of,
    may_be,
    minded,
    scale_of,
    worked_hours,
)
from groundwork.outdoors.limits import limits
from groundwork.weather import (
    DayAhead,
    Forecast,
    HourAhead,
    dries_in,
    evaporation,
    evapotranspiration,
    forecast_data,
    of_a_day,
    of_days,
    read_forecast,
    stays_dry,
    stays_dry_through,
    sun_overhead,
    turns_wet,
)

SEVEN = datetime(2026, 3, 9, 7, 0)
MILD = HourAhead(SEVEN, 12.0, 0.6, 2.0)


def hours(*rows: HourAhead, more: int = 60) -> Forecast:
    """Hours in a row from seven on, and mild ones after."""
    given = [*rows, *[MILD] * more]
    at = [SEVEN + timedelta(hours=n) for n in range(len(given))]
    whole = [HourAhead(t, h.celsius, h.humidity, h.wind, h.rain, h.chance, h.thunder)
             for t, h in zip(at, given, strict=True)]  # fmt: skip
    return Forecast(SEVEN, tuple(whole), "a test")


def hour(**said: float) -> HourAhead:
    return HourAhead(SEVEN, **{"celsius": 12.0, "humidity": 0.6, "wind": 2.0} | said)


def judged(work: Outdoors, *rows: HourAhead, dry_for: float = 0.0):  # type: ignore[no-untyped-def]
    return worked_hours(work, hours(*rows), SEVEN, SEVEN + timedelta(hours=12), limits_of({}), dry_for)


def test_evaporation_at_its_check_value() -> None:
    # Uno 1998, from memory: concrete and air at 30 °C, 50 %, 16 km/h at half a metre: 0.80 kg/m² an hour. By hand:
    # 5 (48^2.5 − 0.5 · 48^2.5) (16 + 4) 10⁻⁶ = 5 · 7 981.4 · 20 · 10⁻⁶ = 0.798.
    at_ten_metres = 16 / 3.6 / 0.5
    assert evaporation(30, 30, 0.5, at_ten_metres) == pytest.approx(0.798, abs=0.001)
    assert evaporation(10, 30, 1.0, 5) == 0  # warm damp air over cold concrete gives, and takes nothing


def test_evapotranspiration_at_the_published_example() -> None:
    # FAO-56, example 20: 26.6 and 14.8 °C, Ra 40.55 MJ/m² a day, which is 16.6 mm: 5.0 mm a day.
    assert evapotranspiration(14.8, 26.6, 16.6) == pytest.approx(5.0, abs=0.06)
    # FAO-56, example 8 and table 2.6, from memory: 3 September at 20° south 32.2 MJ/m²; the equator in March 37.9.
    assert sun_overhead(-20, date(2026, 9, 3)) == pytest.approx(32.2, abs=0.1)
    assert sun_overhead(0, date(2026, 3, 15)) == pytest.approx(37.9, abs=0.3)
    assert sun_overhead(75, date(2026, 12, 21)) == 0  # the night of the pole


def test_a_wet_lift_dries_as_reckoned_by_hand() -> None:
    # 2 % over in 75 mm at 2.1 t/m³: 0.02 · 0.075 · 2 100 = 3.15 kg/m², 3.15 mm; at 5.05 mm a day 0.62 of a day.
    assert dries_in(0.02, 0.075, 2100, 5.05) == pytest.approx(0.62, abs=0.005)
    assert dries_in(0.0, 0.075, 2100, 0.0) == 0 and dries_in(0.01, 0.075, 2100, 0.0) == math.inf


def test_hours_of_one_chance_are_as_the_chain_of_two_states_has_them() -> None:
    # 0.05 an hour over 24 h: 0.95 · (1 − 0.05 · 0.3)^23 = 0.67; independent hours would say 0.29.
    assert stays_dry_through([0.05] * 24) == pytest.approx(stays_dry(0.05, 24)) == pytest.approx(0.67, abs=0.005)
    assert pytest.approx(0.29, abs=0.005) == 0.95**24
    assert stays_dry_through([]) == 1 and stays_dry_through([1.0]) == 0 and stays_dry_through([0.3]) == 0.7


@given(st.lists(st.floats(0, 1), min_size=1, max_size=12))
def test_every_hour_keeps_its_own_chance(chances: list[float]) -> None:
    """Followed through as probabilities, hour by hour, whatever went before."""
    wet = chances[0]
    for before, chance in itertools.pairwise(chances):
        after_dry, after_wet = turns_wet(before, chance)
        assert 0 <= after_dry <= 1 and 0 <= after_wet <= 1
        wet = (1 - wet) * after_dry + wet * after_wet
        assert wet == pytest.approx(chance, abs=1e-6)


def test_dry_spells_against_a_simulation() -> None:
    chances = [0.02, 0.1, 0.6, 0.6, 0.2, 0.05, 0.4]
    draws = np.random.default_rng(3).random((60_000, len(chances)))
    wet = draws[:, 0] < chances[0]
    dry = ~wet
    for n in range(1, len(chances)):
        after_dry, after_wet = turns_wet(chances[n - 1], chances[n])
        wet = np.where(wet, draws[:, n] < after_wet, draws[:, n] < after_dry)
        dry &= ~wet
    assert dry.mean() == pytest.approx(stays_dry_through(chances), abs=0.008)


AT_THE_LIMIT = [
    # Each with a value that is past it and one that is not.
    ("fines-rain", Outdoors.FINES, {"rain": 0.51}, {"rain": 0.5}, Says.WAIT),
    ("fines-frost", Outdoors.FINES, {"celsius": 0.0}, {"celsius": 0.1}, Says.WAIT),
    ("clean-frost", Outdoors.CLEAN, {"celsius": -3.1}, {"celsius": -3.0, "rain": 9.0}, Says.WAIT),
    ("dig-rain", Outdoors.DIG, {"rain": 4.1}, {"rain": 4.0}, Says.WAIT),
    ("dig-frost", Outdoors.DIG, {"celsius": -5.1}, {"celsius": -5.0}, Says.WAIT),
    ("fabric-wind", Outdoors.FABRIC, {"wind": 10.1}, {"wind": 10.0}, Says.WAIT),
    ("concrete-cold", Outdoors.CONCRETE, {"celsius": 4.9}, {"celsius": 5.0}, Says.WAIT),
    ("concrete-rain", Outdoors.CONCRETE, {"rain": 2.1}, {"rain": 0.2}, Says.WAIT),
    ("concrete-drizzle", Outdoors.CONCRETE, {"rain": 0.3}, {"rain": 0.2}, Says.WITH),
    ("concrete-heat", Outdoors.CONCRETE, {"celsius": 32.1, "humidity": 0.9, "wind": 0.0},
     {"celsius": 32.0, "humidity": 0.9, "wind": 0.0}, Says.WITH),
    ("mortar-rain", Outdoors.MORTAR, {"rain": 2.1}, {"rain": 0.0}, Says.WAIT),
    ("mortar-drizzle", Outdoors.MORTAR, {"rain": 0.1}, {"rain": 0.0}, Says.WITH),
    ("bond-cold", Outdoors.BOND, {"celsius": 4.9}, {"celsius": 5.0}, Says.WAIT),
    ("bond-heat", Outdoors.BOND, {"celsius": 30.1}, {"celsius": 30.0}, Says.WAIT),
    ("bed-rain", Outdoors.BED, {"rain": 2.1}, {"rain": 0.0}, Says.WAIT),
    ("bed-shower", Outdoors.UNITS, {"rain": 2.0}, {"rain": 0.0}, Says.WITH),
    ("bed-drizzle", Outdoors.UNITS, {"rain": 0.49}, {"rain": 0.0}, Says.WITH),
    ("bed-frost", Outdoors.BED, {"celsius": 0.0}, {"celsius": 0.1}, Says.WAIT),
    ("bonded-cold", Outdoors.BONDED, {"celsius": 4.9}, {"celsius": 5.0}, Says.WAIT),
    ("bonded-heat", Outdoors.BONDED, {"celsius": 35.1, "humidity": 0.4},
     {"celsius": 35.0, "humidity": 0.4}, Says.WAIT),
    ("bonded-rain", Outdoors.BONDED, {"rain": 0.1}, {"rain": 0.0}, Says.WAIT),
    # At 12 °C the dew point is 3 K lower at 82 % (Magnus: 9.0 °C at 82.0 %).
    ("bonded-dew", Outdoors.BONDED, {"humidity": 0.83}, {"humidity": 0.81}, Says.WAIT),
    ("sweeping-rain", Outdoors.SWEEPING, {"rain": 0.1}, {"rain": 0.0}, Says.WAIT),
    ("thunder", Outdoors.ANY, {"thunder": True}, {"thunder": False}, Says.WAIT),
]  # fmt: skip


@pytest.mark.parametrize(("key", "work", "past", "up_to", "says"), AT_THE_LIMIT, ids=[row[0] for row in AT_THE_LIMIT])
def test_each_limit_fires_past_it_and_is_silent_up_to_it(
    key: str, work: Outdoors, past: dict, up_to: dict, says: Says
) -> None:
    fired = judged(work, hour(**past))[0]
    assert fired.says is says and [reason.limit.key for reason in fired.reasons if reason.limit.key == key] == [key]
    silent = judged(work, hour(**up_to))[0]
    assert silent.says is Says.GO and silent.reasons == ()
    assert fired.reasons[0].words.text(Unit.MILLIMETRES) and fired.reasons[0].words.text(Unit.FEET_INCHES)


def test_the_limits_on_what_is_to_come() -> None:
    def cold(celsius: float, after: int) -> list[HourAhead]:
        return [MILD] * after + [hour(celsius=celsius)]

    # Under 4 °C within the next day: cover; under 2: more than a sheet. The 24th hour from now counts, the 25th not.
    assert judged(Outdoors.CONCRETE, *cold(3.9, 23))[0].beside == ("cover",)
    assert judged(Outdoors.CONCRETE, *cold(4.0, 23))[0].says is Says.GO
    assert judged(Outdoors.CONCRETE, *cold(1.9, 23))[0].beside == ("insulate",)
    assert judged(Outdoors.CONCRETE, *cold(-5, 24))[0].says is Says.GO
    assert judged(Outdoors.MORTAR, *cold(1.9, 47))[0].beside == ("cover",)
    assert judged(Outdoors.MORTAR, *cold(2.0, 47))[0].says is Says.GO
    assert judged(Outdoors.MORTAR, *cold(-5, 48))[0].says is Says.GO


def test_mortar_at_three_degrees_goes_by_which_way_it_goes() -> None:
    rising = judged(Outdoors.MORTAR, hour(celsius=2.9), hour(celsius=3.0), hour(celsius=6.0))
    assert [each.says for each in rising[:2]] == [Says.WAIT, Says.GO]
    falling = judged(Outdoors.MORTAR, hour(celsius=6.0), hour(celsius=3.0), hour(celsius=2.5), hour(celsius=6.0))
    assert [each.says for each in falling[:3]] == [Says.GO, Says.WAIT, Says.WAIT]


def test_fast_drying_asks_for_shade_and_then_for_more() -> None:
    # The check value's 0.80 lies between 0.5 and 1.0; with half as much wind again and 40 % it is over 1.0.
    shade = hour(celsius=30, humidity=0.5, wind=16 / 3.6 / 0.5)
    assert judged(Outdoors.CONCRETE, shade)[0].beside == ("shade",)
    assert judged(Outdoors.CONCRETE, hour(celsius=30, humidity=0.4, wind=14))[0].beside == ("windbreak",)


def test_a_bonded_filling_wants_its_dry_day() -> None:
    # 0.67 for a day of 5 % an hour is under 0.7; 0.04 an hour: 0.96 · 0.988^23 = 0.727 is not.
    doubtful = [hour(chance=0.05)] * 40
    assert judged(Outdoors.BONDED, *doubtful, dry_for=24)[0].says is Says.WAIT
    assert judged(Outdoors.BONDED, *[hour(chance=0.04)] * 40, dry_for=24)[0].says is Says.GO
    # Where the forecast ends sooner nobody can say, and nothing is said.
    short = Forecast(SEVEN, hours(*doubtful).hours[:20], "")
    limits_ = limits_of({})
    assert worked_hours(Outdoors.BONDED, short, SEVEN, SEVEN + timedelta(hours=1), limits_, 24)[0].says is Says.GO


def test_half_an_hour_after_the_last_thunder() -> None:
    rows = judged(Outdoors.ANY, hour(thunder=True), MILD, MILD)
    assert [each.says for each in rows[:3]] == [Says.WAIT, Says.WAIT, Says.GO]
    assert rows[0].until == rows[1].until == SEVEN + timedelta(hours=1, minutes=30)


def test_until_when_and_how_long_it_goes() -> None:
    rows = judged(Outdoors.BED, MILD, MILD, hour(rain=3.0), hour(rain=3.0), MILD)
    assert rows[0].until == SEVEN + timedelta(hours=2) and rows[2].until == SEVEN + timedelta(hours=4)
    assert goes_until(rows, SEVEN + timedelta(minutes=40)) == SEVEN + timedelta(hours=2)
    assert goes_until(rows, SEVEN + timedelta(hours=2, minutes=10)) == SEVEN + timedelta(hours=2, minutes=10)
    assert goes_until(rows[4:], SEVEN + timedelta(hours=4)) is None


def test_a_crew_may_set_a_limit_its_own_way() -> None:
    own = limits_of({"fines-rain": 1.0})
    rows = worked_hours(Outdoors.FINES, hours(hour(rain=0.8)), SEVEN, SEVEN + timedelta(hours=1), own)
    assert rows[0].says is Says.GO and judged(Outdoors.FINES, hour(rain=0.8))[0].says is Says.WAIT
    assert all(limit.why.endswith(".") and limit.works for limit in limits().values())


@pytest.mark.parametrize(
    ("of", "at", "metric", "feet"),
    [  # by hand: 25.4 mm an inch, 1 609.344 m a mile, 0.4536 kg a pound, 0.3048 m a foot
        (Held.RAIN, 0.508, ("0.508", "mm/h"), ("0.02", "in/h")),
        (Held.WIND, 10.0, ("36", "km/h"), ("22.369", "mph")),
        (Held.EVAPORATION, 1.0, ("1", "kg/m²"), ("0.205", "lb/ft²")),
        (Held.CELSIUS, 35.0, ("35", "°C"), ("95", "°F")),
        (Held.COMING_24, -40.0, ("-40", "°C"), ("-40", "°F")),
        (Held.DRY, 0.7, ("70", ""), ("70", "")),
        (Held.OVER_DEW, 3.0, ("3", ""), ("3", "")),
    ],
)
def test_a_limit_as_a_crew_writes_it(of: Held, at: float, metric: tuple, feet: tuple) -> None:
    for unit, (shown, sign) in ((Unit.METRES, metric), (Unit.FEET_INCHES, feet)):
        scale = scale_of(of, unit)
        assert (scale.shown(at), scale.sign) == (shown, sign)
        assert scale.read(float(shown)) == pytest.approx(at, rel=0.003)


def test_what_no_limit_can_be() -> None:
    assert may_be(Held.RAIN, 0.0) and not may_be(Held.RAIN, -0.1) and not may_be(Held.RAIN, 100.1)
    assert may_be(Held.CELSIUS, -40.0) and not may_be(Held.WARMING, -41.0) and not may_be(Held.COMING_48, 61.0)
    assert may_be(Held.DRY, 1.0) and not may_be(Held.DRY, 1.01) and not may_be(Held.WIND, float("inf"))


ZONE = ZoneInfo("Europe/Dublin")
NOW = datetime(2026, 3, 9, 6, 0)


def test_a_forecast_goes_out_and_comes_back() -> None:
    there = hours(hour(rain=1.25, chance=0.4, thunder=True), hour(celsius=-2.5))
    again = read_forecast(json.dumps(forecast_data(there)), ZONE, SEVEN)
    assert again == there


def test_times_of_another_clock_are_told_by_the_sites() -> None:
    # Summer time in Dublin is an hour ahead of UTC.
    text = json.dumps(
        {"issued": "2026-06-01T05:00:00Z", "hours": [{"time": "2026-06-01T11:00Z", "temperature_c": 9}]}
    )
    read = read_forecast(text, ZONE, datetime(2026, 6, 1, 7), "a file")
    assert read.issued == datetime(2026, 6, 1, 6) and read.begins == datetime(2026, 6, 1, 12)
    assert read.source == "a file" and read.hours[0].rain == 0 and UTC


def test_a_sheet_of_rows_is_read_too_and_short_gaps_stay_as_they_were() -> None:
    text = ("time,temperature_c,rain_mm,rain_chance_percent,humidity_percent,wind_m_s,thunder\n"
            "2026-03-09T07:00,11,,80,,,no\n2026-03-09T09:00,12,0.4,,55,3,yes\n")  # fmt: skip
    read = read_forecast(text, ZONE, NOW)
    assert [h.at.hour for h in read.hours] == [7, 8, 9] and read.issued == NOW
    assert (read.hours[0].rain, read.hours[0].chance) == (1.0, 0.8) and read.hours[1].celsius == 11
    assert (read.hours[2].chance, read.hours[2].humidity, read.hours[2].thunder) == (1.0, 0.55, True)
    assert read.at(datetime(2026, 3, 9, 8, 59)) == read.hours[1] and read.at(datetime(2026, 3, 9, 10)) is None


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('{"hours": [{"time": "2026-03-09T07:00", "temperature_c": ' + "9" * 400 + "}]}", "from -60 to 60"),
        ('{"issued": "2099-01-01T00:00", "hours": [{"time": "2026-03-09T07:00", "temperature_c": 5}]}',
        "later than now"),
        ("", "nothing in it"), ("{", "no JSON"), ("{}", "“hours” is missing"), ('{"hours": []}', "no hour"),
        ('{"hours": [3]}', "hour 1 is no row"),
        ('{"hours": [{"time": "x", "temperature_c": 3}]}', "“time” is no time"),
        ('{"hours": [{"time": "2026-03-09T07:00"}]}', "“temperature_c” is missing"),
        ('{"hours": [{"time": "2026-03-09T07:00", "temperature_c": "1e999"}]}', "from -60 to 60"),
        ('{"hours": [{"time": "2026-03-09T07:00", "temperature_c": NaN}]}', "from -60 to 60"),
        ('{"hours": [{"time": "0001-01-01T00:00", "temperature_c": 5}]}', "no time"),
        ('{"hours": [{"time": "2026-03-09T07:00", "temperature_c": 5, "rain_chance_percent": 101}]}',
         "from 0 to 100"),
        ('{"hours": [{"time": "2026-03-09T07:00", "temperature_c": 5, "thunder": "maybe"}]}', "yes or no"),
        ('{"hours": [{"time": "2026-03-09T07:00", "temperature_c": 5}, '
         '{"time": "2026-03-09T12:00", "temperature_c": 5}]}',
         "nothing is said between"),
        ("time,temperature_c\n" + "2026-03-09T07:00,5\n" * 800, "at most 744 hours"),
        ("x" * 1_000_001, "too large"), ("[" * 5000, "“time” is no time"), ("{" + '"a":{' * 20_000, "no JSON"),
    ],
)  # fmt: skip
def test_what_is_no_forecast_is_told_where(text: str, says: str) -> None:
    with pytest.raises(ValueError, match="|".join([says, "no hour in it"]) if text[:1] == "[" else says):
        read_forecast(text, ZONE, NOW)


def test_a_day_as_one_reads_it_in_a_paper() -> None:
    day = DayAhead(date(2026, 3, 9), 4.0, 14.0, rain=6.0, chance=0.8, rains_from=14, rains_to=17)
    read = of_days([day, DayAhead(date(2026, 3, 10), 2.0, 8.0)], NOW, "typed")
    assert len(read.hours) == 48 and min(h.celsius for h in read.hours) == 2.0
    assert [h.at.hour for h in read.hours if h.rain] == [14, 15, 16] and read.hours[14].rain == pytest.approx(2.0)
    assert [of_a_day(4, 14, n) for n in (5, 15, 29)] == [4, 14, 4]
    with pytest.raises(ValueError, match="twice"):
        of_days([day, day], NOW, "typed")
    with pytest.raises(ValueError, match="nothing is said"):
        of_days([day, DayAhead(date(2026, 3, 12), 2.0, 8.0)], NOW, "typed")


def test_what_people_mind_at_its_limits() -> None:
    # 27 °C and 3 °C count, a tenth inside them does not; the sun burns from May to August, south from November on.
    assert minded([hour(celsius=27.0)], 3, 52.0) == ("heat",) and minded([hour(celsius=26.9)], 3, 52.0) == ()
    assert minded([hour(celsius=3.0, thunder=True)], 3, 52.0) == ("lightning", "cold")
    assert minded([hour(celsius=3.1)], 3, 52.0) == ()
    assert [month for month in range(1, 13) if minded([], month, 52.0)] == [5, 6, 7, 8]
    assert [month for month in range(1, 13) if minded([], month, -35.0)] == [1, 2, 11, 12]
