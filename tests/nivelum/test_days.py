"""The Days room: forecasts as they come, hour by hour what may be done, what sets, when it is done and what moved
it."""

import itertools
import json
import re
import uuid
from datetime import UTC, date, datetime, timedelta
from unittest import mock

import pytest
from django.utils import timezone
from icalendar import Calendar
from tests.conftest import World, make_world
from tests.nivelum.test_instruments import url
from tests.nivelum.test_placing import page, send

from groundwork.layerwork import Poured
from groundwork.measures import Measured
from nivelum.days.models import KeptProgramme
from nivelum.days.weekly import asked_week
from nivelum.days.words import age_words, hours_words, when_words
from nivelum.drawing.days import STONE
from nivelum.jobs.models import Entry
from nivelum.recording.moments import minute_now
from nivelum.weather import services
from nivelum.weather.driver import HttpService, NoForecast
from nivelum.weather.models import DayOff, KeptForecast, WeatherTerms
from nivelum.weather.standin import StandInWeather, WeatherFaults, forecast, weather

MORNING = datetime(2026, 12, 8, 8, 30, tzinfo=UTC)
"""A Tuesday."""


@pytest.fixture(autouse=True)
def on_a_tuesday_morning(request):
    with mock.patch.object(timezone, "now", lambda: MORNING):
        yield


def rows(**at: dict) -> list[dict]:
    """A mild Tuesday and two days after it, hour by hour; `at` says what is otherwise, h14 at two."""
    first = datetime(2026, 12, 8)
    found = [{"time": (first + timedelta(hours=n)).isoformat(), "temperature_c": 9, "humidity_percent": 60,
              "wind_m_s": 3, "rain_mm": 0, "rain_chance_percent": 0} for n in range(72)]  # fmt: skip
    for key, more in at.items():
        found[int(key[1:])] |= more
    return found


def bring(world: World, issued: str = "2026-12-08T06:00", role: str = "crew", **at: dict):
    text = json.dumps({"issued": issued, "source": "the radio", "hours": rows(**at)})
    return world.client(role).post(url(world, "days/forecasts/brought/"), {"text": text})


RAIN = {"rain_mm": 3.0, "rain_chance_percent": 90}


def test_without_a_forecast_everything_works_and_says_so(world: World) -> None:
    assert "No forecast" in page(world, "days/")
    assert "as the weather usually is" in page(world, "days/programme/")
    assert "Nothing is setting" in page(world, "days/setting/")
    assert "Done" in page(world, "days/programme/")


def test_hour_by_hour_with_reasons_and_until_when(world: World) -> None:
    """In hand is the brief; what stands on nothing but it is not open: the dig is begun by shooting."""
    world.set_up()
    world.shoot("A1", 0.0)
    assert bring(world, h12={"rain_mm": 5.0, "rain_chance_percent": 95}).status_code == 302
    shown = page(world, "days/")
    assert "Dig: go until 12:00, then wait" in shown and "rain of 5.0 mm/h" in shown
    assert "Sides come down" in shown and "the radio, 06:00" in shown and "2 hours old" in shown


def test_in_feet_the_weather_is_in_inches_and_fahrenheit(db) -> None:
    world = make_world(rod="ft-in")
    world.crew.region = "en-us"
    world.crew.save()
    world.set_up()
    world.shoot("A1", 0.0)
    bring(world, h12={"rain_mm": 5.08, "rain_chance_percent": 95})
    shown = page(world, "days/")
    assert "rain of 0.20 in/h" in shown and "48 °F" in shown and "mph" in shown
    assert not re.search(r"mm/h|°C|km/h", shown)


def test_a_changed_forecast_shows_before_and_after(world: World) -> None:
    """Yesterday it was fine; today it rains for two days: what was kept then is held against now."""
    with mock.patch.object(timezone, "now", lambda: MORNING - timedelta(days=1)):
        bring(world, issued="2026-12-07T06:00")
        assert "Done" in page(world, "days/programme/")
    assert KeptProgramme.objects.get(job=world.job).on == date(2026, 12, 7)
    bring(world, **{f"h{n}": RAIN for n in range(9, 72)})
    shown = page(world, "days/programme/")
    assert "Since Mon 7 Dec" in shown and "later now" in shown
    why = page(world, "days/programme/why/")
    assert re.search(r"another forecast: \d+ (hours?|days?) later", why)


def test_what_was_known_when(world: World) -> None:
    with mock.patch.object(timezone, "now", lambda: MORNING - timedelta(hours=3)):
        bring(world, issued="2026-12-08T05:00")
    bring(world, issued="2026-12-08T08:00", h14=RAIN)
    assert "3.0 mm/h" in page(world, "days/forecasts/")
    then = page(world, "days/forecasts/?known=2026-12-08T06:00")
    assert "Known then: the radio, 05:00" in then and "3.0 mm/h" not in then.split("As they came")[0]
    assert "No forecast had come by then" in page(world, "days/forecasts/?known=2026-12-08T04:00")
    assert "As they came" in page(world, "days/forecasts/?known=0001-01-01T00:00")
    before = KeptForecast.objects.filter(crew=world.crew).count()
    bring(world, issued="2026-12-08T08:00", h14=RAIN)
    assert KeptForecast.objects.filter(crew=world.crew).count() == before == 2  # the same comes once


@pytest.mark.parametrize(
    ("text", "says"),
    [("", "Choose a file"), ("{", "no JSON"), ("time,temperature_c\nx,1\n", "no time"),
     ('{"hours": [{"time": "2026-12-08T07:00", "temperature_c": 900}]}', "from -60 to 60")],
)  # fmt: skip
def test_a_file_that_is_no_forecast_is_told_and_kept_on_the_page(world: World, text: str, says: str) -> None:
    answer = world.client("crew").post(url(world, "days/forecasts/brought/"), {"text": text})
    shown = answer.content.decode()
    assert answer.status_code == 422 and says in shown and (not text or text[:5].replace('"', "&quot;") in shown)
    assert not KeptForecast.objects.filter(crew=world.crew).exists()


def test_pages_come_without_indentation_and_what_is_typed_keeps_its_own(world: World) -> None:
    shown = world.client("lead").get(url(world, "days/forecasts/")).content.decode()
    assert not re.search(r"\n[ \t]", shown)
    wrong = world.client("lead").post(url(world, "days/forecasts/brought/"), {"text": "hours:\n  - none\n\tat all"})
    assert wrong.status_code == 422 and "hours:\n  - none\n\tat all" in wrong.content.decode().replace("\r", "")


def test_days_as_one_reads_them_in_a_paper(world: World) -> None:
    typed = {"d0-on": "2026-12-08", "d0-least": "1", "d0-most": "7,5", "d0-rain": "6", "d0-chance": "80",
             "d0-rains_from": "14", "d0-rains_to": "17", "d1-on": "2026-12-09", "d1-least": "",
             "d1-most": ""}  # fmt: skip
    assert world.client("crew").post(url(world, "days/forecasts/typed/"), typed).status_code == 302
    kept = KeptForecast.objects.get(crew=world.crew)
    wet = [hour for hour in kept.forecast.hours if hour.rain]
    assert [hour.at.hour for hour in wet] == [14, 15, 16] and wet[0].rain == pytest.approx(2.0)
    wrong = world.client("crew").post(
        url(world, "days/forecasts/typed/"), typed | {"d0-most": "-9", "d0-rains_to": "3"}
    )
    shown = wrong.content.decode()
    assert wrong.status_code == 422 and "no less than the least" in shown and "Later than it begins" in shown
    assert 'value="80"' in shown
    assert world.client("crew").post(url(world, "days/forecasts/typed/"), {}).status_code == 422


def asked(world: World, server: StandInWeather):
    with server.serving(), mock.patch("django.conf.settings.FORECASTS", ("http", server.address)):
        return world.client("viewer").post(url(world, "days/ask/"))


def test_the_service_that_ships_with_it_answers_and_is_out_at_times(world: World) -> None:
    assert asked(world, StandInWeather(faults=WeatherFaults(now=MORNING))).status_code == 302
    kept = KeptForecast.objects.get(crew=world.crew)
    assert kept.way == "service" and kept.issued == datetime(2026, 12, 8, 6, tzinfo=UTC)
    assert len(kept.forecast.hours) == 240
    # Asked again within a minute nobody is asked; later it is out: the one that holds stays, with its age.
    out = StandInWeather(faults=WeatherFaults(out=1.0))
    with out.serving(), mock.patch("django.conf.settings.FORECASTS", ("http", out.address)):
        world.client("crew").post(url(world, "days/ask/"))
        assert "The service does not answer" not in page(world, "days/")
        with mock.patch.object(timezone, "now", lambda: MORNING + timedelta(minutes=10)):
            world.client("crew").post(url(world, "days/ask/"))
            shown = page(world, "days/")
    assert "The service does not answer" in shown and "3 hours old" in shown
    assert not WeatherTerms.objects.get(crew=world.crew).answered
    # Late: it answers with the one before, which holds no longer than the newer one that came first.
    asked(world, StandInWeather(faults=WeatherFaults(now=MORNING, late=1.0)))
    assert KeptForecast.objects.filter(crew=world.crew).count() == 2
    assert services.newest(world.crew) == kept


def test_a_service_that_is_slow_or_is_none_keeps_nobody_waiting(world: World) -> None:
    with StandInWeather(faults=WeatherFaults(slow=2.0)).serving() as server, pytest.raises(NoForecast):
        HttpService(server.address, patience=0.2).ask("")
    with pytest.raises(NoForecast):
        HttpService("http://127.0.0.1:1", patience=0.2).ask("")
    with StandInWeather().serving() as server, pytest.raises(NoForecast, match="404"):
        HttpService(f"{server.address}/elsewhere", patience=2).ask("")
    assert services.ask(world.crew) is None  # where an installation has none


def test_made_up_weather_is_the_same_for_a_seed_and_forecasts_of_it_come_nearer() -> None:
    noon = datetime(2026, 12, 12, 12, tzinfo=UTC)
    assert weather("1", noon) == weather("1", noon) and weather("1", noon) != weather("2", noon)

    def off(days: int) -> float:
        errors = []
        for n in range(40):
            at = noon + timedelta(hours=7 * n)
            issued = at - timedelta(days=days)
            row = forecast("1", issued)["hours"][days * 24]
            errors.append(abs(row["temperature_c"] - weather("1", at)["temperature_c"]))
        return sum(errors) / len(errors)

    assert off(0) < off(4)


def test_a_new_jobs_today_is_of_what_comes_after_its_brief(world: World) -> None:
    assert bring(world).status_code == 302
    assert "Dig: go" in page(world, "days/")  # whose pegs nobody has asked for


def test_words_at_the_stakes_of_one_day_stand_one_over_the_other(world: World) -> None:
    """What is promised for the day on which it is likely done."""
    send(world, "days/programme/said/promised/", day="2026-12-09", to="the owner")
    drawn = world.client("crew").get(url(world, "days/programme/")).content.decode()
    at = re.findall(r'class="end (\w+)" x="([\d.]+)" y="([\d.]+)"', drawn)
    assert {css for css, _x, _y in at} == {"late", "likely", "promised"}
    stone = [(float(x) // STONE, float(y)) for _css, x, y in at]
    of_a_day = [(one, other) for one, other in itertools.combinations(stone, 2) if one[0] == other[0]]
    assert of_a_day and all(abs(one[1] - other[1]) > 8 for one, other in of_a_day), at


def test_a_task_is_moved_and_what_follows_is_shown_first(world: World) -> None:
    bring(world)
    tried = page(world, "days/programme/tried/?task=laying&not_before=2026-12-21")
    assert "Then done Tue 22 Dec" in tried and "later" in tried and "Joints" in tried
    assert not Entry.objects.filter(job=world.job, kind="task_moved").exists()
    moved = send(
        world, "days/programme/said/moved/", task="laying", not_before="2026-12-21", because="the client is away"
    )
    assert moved.status_code == 302
    shown = page(world, "days/programme/")
    assert "Done Tue 22 Dec" in shown and "not before Mon 21 Dec" in shown
    assert send(world, "days/programme/said/moved/", task="laying", not_before="").status_code == 302
    assert "Done Tue 22 Dec" not in page(world, "days/programme/")
    assert send(world, "days/programme/said/moved/", task="moonwalk", not_before="2026-12-21").status_code == 422
    assert "wrong" in world.client("crew").get(url(world, "days/programme/tried/?task=moonwalk")).content.decode()
    assert send(world, "days/programme/said/sung/", task="laying").status_code == 404


def test_a_promise_that_cannot_be_held(world: World) -> None:
    bring(world)
    assert send(world, "days/programme/said/promised/", day="2026-12-08", to="the owner").status_code == 302
    assert "Promised by Tue 8 Dec: 0 times in a hundred" in page(world, "days/programme/")
    assert send(world, "days/programme/said/promised/", day="2027-06-01", to="the owner").status_code == 302
    assert "100 times in a hundred" in page(world, "days/programme/")
    assert send(world, "days/programme/said/promised/", day="0900-01-01").status_code == 422
    send(world, "days/programme/said/promised/", day="")
    assert "Promised by" not in page(world, "days/programme/")


def test_the_programme_goes_into_a_calendar(world: World) -> None:
    answer = world.client("viewer").get(url(world, "days/programme.ics"))
    events = Calendar.from_ical(answer.content).walk("VEVENT")
    assert any("likely done" in event["summary"] for event in events) and len(events) > 8
    assert all(event["dtend"].dt >= event["dtstart"].dt for event in events)


def test_what_sets_goes_by_what_was_recorded(db) -> None:
    """3 360 °C·h over 0 from noon at 10 °C are 14 days; a day at 2 °C in between costs 24 h × 8 of them: 19.2 h."""
    world = make_world(job_file=SLAB, brief_signed=False)
    world.record(Poured(str(uuid.uuid4()), date(2026, 12, 6), 4.0, 10.0, Measured("2", 0.002), "",
                        datetime(2026, 12, 6, 12, 0)))  # fmt: skip
    WeatherTerms.objects.create(crew=world.crew, least=10, most=10)
    assert "drive on it from Sun 20 Dec, 12:00 on" in page(world, "days/setting/")
    assert send(world, "days/setting/was/", on="2026-12-07", least="2", most="2").status_code == 302
    assert "drive on it from Mon 21 Dec, 07:15 on" in page(world, "days/setting/")
    assert send(world, "days/setting/read/", degrees="6", of="concrete", at="").status_code == 302
    for wrong in ({"degrees": "abc"}, {"degrees": "6", "of": "the sky"}, {"degrees": "6", "at": "2027-01-01T10:00"}):
        assert send(world, "days/setting/read/", **{"of": "air", "at": ""} | wrong).status_code == 422
    assert send(world, "days/setting/was/", on="2026-12-09", least="2", most="3").status_code == 422
    assert send(world, "days/setting/was/", on="2026-12-07", least="3", most="2").status_code == 422
    said = Entry.objects.filter(job=world.job, kind="day_was").get()
    assert send(world, "days/setting/strike/", strikes=str(said.id)).status_code == 302


SLAB = """{
 "format": "nivelum-job/1", "name": "Slab", "units": "mm",
 "area": {"outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]]}, "station_spacing_m": 2,
 "marks": [{"name": "sill", "at_m": [0, 4.1], "level_m": 10.2}],
 "facets": [{"name": "all", "outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]], "at_m": [0, 4], "level_m": 10.0,
             "bearing_deg": 180, "fall_1_in": 50}],
 "brief": {"traffic": "drive", "soil": "gravel", "dust_control": "water"},
 "specification": {"school": "slab", "layers": [
   {"role": "paving", "material": "natural-stone", "thickness_mm": 50},
   {"role": "bedding", "material": "mortar", "thickness_mm": 25},
   {"role": "bound base", "material": "concrete", "thickness_mm": 150},
   {"role": "sub-base", "material": "clean-stone", "thickness_mm": 100}]}
}"""


def test_days_off_hours_and_limits_are_the_crews_own(world: World) -> None:
    def post(role: str = "lead", **fields: str):
        return world.client(role).post(f"/crews/{world.crew.id}/weather/", fields)

    usual = {"begins": "6.5", "place": "Marrow Lock", "latitude": "52.4", "chance": "8", "least": "-1", "most": "6"}
    assert post("crew", **usual).status_code == 403
    assert post(**usual, **{"fines-rain": "1.5"}).status_code == 302
    weather = WeatherTerms.objects.get(crew=world.crew)
    assert (weather.begins, weather.limits, weather.chance) == (6.5, {"fines-rain": 1.5}, 0.08)
    for wrong in ({"begins": "30"}, {"latitude": "91"}, {"most": "-5"}, {"fines-rain": "-1"}, {"bonded-dry": "200"}):
        assert post(**usual | wrong).status_code == 422
    before = page(world, "days/programme/")
    assert post(who="", on="2026-12-08", until="2026-12-18", why="the yard is shut").status_code == 302
    assert DayOff.objects.filter(crew=world.crew).count() == 11
    assert page(world, "days/programme/").split("Done")[1][:14] != before.split("Done")[1][:14]
    assert post(who="", on="2026-12-08", until="2027-12-18").status_code == 422
    off = DayOff.objects.filter(crew=world.crew).first()
    assert post(gone=str(off.pk)).status_code == 302 and DayOff.objects.filter(crew=world.crew).count() == 10
    assert post(gone="x").status_code == 404


def test_how_many_machines_there_are_is_the_crews_own(world: World) -> None:
    def post(**fields: str):
        typed = {"begins": "7", "chance": "6", "least": "1", "most": "10"} | fields
        return world.client("lead").post(f"/crews/{world.crew.id}/weather/", typed)

    asked = asked_week(world.crew, minute_now())
    assert asked.question.machines["plate"] == 1
    assert post(**{"many-plate": "2"}).status_code == 302
    assert WeatherTerms.objects.get(crew=world.crew).machines == {"plate": 2}
    assert asked_week(world.crew, minute_now()).question.machines == asked.question.machines | {"plate": 2}
    for wrong in ("0", "10", "a few"):
        answer = post(**{"many-plate": wrong})
        assert answer.status_code == 422 and f'value="{wrong}"' in answer.content.decode()
    assert post().status_code == 302 and WeatherTerms.objects.get(crew=world.crew).machines == {}


def test_a_limit_in_feet_saved_again_as_it_is_shown_stays_where_it_was(db) -> None:
    world = make_world(rod="ft-in")
    path = f"/crews/{world.crew.id}/weather/"
    typed = {"begins": "7", "chance": "6", "least": "34", "most": "50", "fines-rain": "0.021", "wind": ""}
    assert world.client("lead").post(path, typed).status_code == 302
    WeatherTerms.objects.filter(crew=world.crew).update(limits={"fines-rain": 0.5334001})
    again = re.search(r'name="fines-rain"[^>]*value="([\d.]+)"', world.client("lead").get(path).content.decode())
    assert again and again[1] == "0.021"
    assert world.client("lead").post(path, typed).status_code == 302
    assert WeatherTerms.objects.get(crew=world.crew).limits == {"fines-rain": 0.5334001}


def test_nobody_brings_a_forecast_to_anothers_crew_and_a_viewer_to_none(world: World) -> None:
    assert bring(world, role="viewer").status_code == 403
    stranger = make_world()
    answer = stranger.client("lead").post(url(world, "days/forecasts/brought/"), {"text": "{}"})
    assert answer.status_code == 404


def test_words_of_hours_and_ages() -> None:
    assert hours_words(timedelta(hours=1)) == "1 hour" and hours_words(timedelta(hours=-30)) == "1 day"
    assert hours_words(timedelta(days=5)) == "5 days" and age_words(timedelta(minutes=20)) == "new"
    # A time is never told as sooner than it is: on to the next quarter.
    assert when_words(datetime(2026, 12, 20, 11, 46)) == "Sun 20 Dec, 12:00"


def test_days_that_are_all_off_and_a_task_put_off_for_good_break_no_page(world: World) -> None:
    send(world, "days/programme/said/moved/", task="laying", not_before="2099-12-31")
    shown = page(world, "days/programme/")
    assert "Not within the days looked at" in shown and "—" in shown
    assert world.client("crew").get(url(world, "days/programme.ics")).status_code == 200
    tried = page(world, "days/programme/tried/?task=laying&not_before=")
    assert "Then done" in tried
    first = date(2026, 12, 8)
    DayOff.objects.bulk_create(DayOff(crew=world.crew, on=first + timedelta(days=n)) for n in range(400))
    assert "Not within the days looked at" in page(world, "days/programme/")
    assert page(world, "days/")
