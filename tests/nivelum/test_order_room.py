"""The Order room: what a job takes is on its page, in the crew's units, and changes with what is shot."""

import csv
import io
import re

import pytest
from tests.conftest import World, make_world
from tests.nivelum.test_instruments import url

from groundwork.measures import Unit
from nivelum.money.things import thing


def shown(world: World, role: str = "crew") -> str:
    answer = world.client(role).get(url(world, "order/"))
    assert answer.status_code == 200
    return answer.content.decode()


def order(page: str, what: str) -> str:
    found = re.search(
        rf">{re.escape(what)}(?: <span[^>]*>changed</span>)?</span><span class=\"figure[^>]*>([^<]*)", page
    )
    return found[1].strip() if found else ""


def test_what_a_pad_takes_by_hand(world: World) -> None:
    """24 m² × 150 mm × 2.2 t/m³ and 5 %: 8.32 t; 24 m² × 25 mm × 1.75 t/m³ and 10 %: 1.16 t; kerbs of 915 mm along
    6, 4 and 4 m: seven, five and five; 24 m² × 255 mm, a quarter more once loose: 7.65 m³."""
    page = shown(world)
    assert order(page, "dense-graded crushed stone, 20 to 40 mm to fines") == "8.5 tonnes"
    assert order(page, "concrete sand") == "1.5 tonnes"
    assert order(page, "kerb") == "17"
    assert order(page, "spoil, loose") == "1 load taken away"
    assert "As designed: nothing that was shot has changed an amount." in page
    assert "24.0 m² covered, 150 mm thick once it is made" in page


def test_a_dig_too_deep_is_on_the_page_at_the_next_look(world: World) -> None:
    world.set_up()
    for station in world.assessment().job.stations:
        world.shoot(station.name, -40.0)
    page = shown(world)
    assert "2 amounts are not as designed any more" in page
    assert "what it lies on is 40 mm too deep, on the whole, over 24.0 m²" in page
    assert order(page, "dense-graded crushed stone, 20 to 40 mm to fines") == "11 tonnes"  # 10.03 t and 5 %
    now = world.client("crew").get(url(world, "order/now/")).content.decode()
    assert 'hx-swap-oob="true"' in now and "40 mm too deep" in now


@pytest.mark.parametrize(("rod", "stone"), [("ft-in", "9.5 short tons"), ("ft", "9.5 short tons")])
def test_in_feet_it_is_ordered_as_it_is_sold_there(db, rod: str, stone: str) -> None:
    """8 316 kg are 18 334 lb."""
    world = make_world(rod=rod)
    world.crew.region = "en-us"
    world.crew.save()
    page = shown(world)
    found = re.findall(r'<span class="figure text-lg">([^<]*)', page)
    assert stone in [each.strip() for each in found]
    assert not re.search(r"\b(?:kg|tonne|m²|m³|mm)\b", re.sub(r"<[^>]*>", " ", page.split('id="needs-told"')[1]))


def test_as_rows(world: World) -> None:
    answer = world.client("viewer").get(url(world, "order.csv"))
    rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    (stone,) = (row for row in rows if row["what"].startswith("dense-graded"))
    assert float(stone["as designed"]) == pytest.approx(24 * 0.15 * 2200, abs=0.01) and stone["in"] == "kg"
    assert float(stone["with waste"]) == pytest.approx(24 * 0.15 * 2200 * 1.05, abs=0.01)


SIDES = {Unit.MILLIMETRES: "200 mm × 100 mm", Unit.FEET_INCHES: "7 7/8″ × 3 15/16″"}


@pytest.mark.parametrize("unit", SIDES)
def test_units_of_several_sizes_are_told_apart_in_the_crews_unit(unit: Unit) -> None:
    assert thing("concrete-block 200 x 100", unit) == f"concrete block, {SIDES[unit]}"
