"""Surfaces measured with every instrument, as people do it."""

import re

import pytest
from playwright.sync_api import Page, expect

from nivelum.instruments.standin import Faults, StandInLevel
from tests.browser.conftest import go_to, see_all
from tests.browser.test_dig import read, set_up, station, target

pytestmark = pytest.mark.browser


@pytest.fixture
def stand_in(settings):
    """The level that ships with Nivelum, under the name `stand-in`."""
    with StandInLevel(seed=4).serving() as level:
        settings.LEVELS = {"stand-in": ("stand-in", "127.0.0.1", str(level.port))}
        yield level


def with_digital_level(world):
    from nivelum.crews.models import Tool, ToolMethod

    tool = Tool.usual(world.crew, ToolMethod.OPTICAL, "Digital level")
    tool.driver = "stand-in"
    tool.save()
    return tool


def take(page: Page, name: str) -> None:
    page.click(".hand summary")
    page.click(f".hand button:has-text('{name}')")
    expect(page.locator(".hand[open]")).to_have_count(0)
    expect(page.locator(".hand summary strong")).to_have_text(name)


def ask_the_level(page: Page) -> str:
    """One key, and what the level reads stands in the field."""
    page.locator("#entry").focus()
    page.keyboard.press("+")
    expect(page.locator("#entry")).to_have_value(re.compile(r"\d"))
    return page.input_value("#entry")


def test_a_surface_shot_with_the_simulated_level_through_a_set_up_move(field_world, person, stand_in) -> None:
    world = field_world()
    with_digital_level(world)
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?surface=formation")
    take(page, "Digital level")
    ask_the_level(page)
    page.keyboard.press("Enter")
    page.wait_for_selector("#target")
    count = len(world.assessment().job.stations)
    for shot in range(count):
        if shot == count // 2:
            page.click("text=Turning point or closing sight")
            page.wait_for_selector("[name=point]")
            ask_the_level(page)
            page.click("#pad .press:has-text('Sighted')")
            expect(page.locator("#pad h2")).to_have_text("Set up the level")
            assert page.is_checked("[name=mark][value=T1]")
            ask_the_level(page)
            page.click("#pad .press:has-text('Level is set up')")
            expect(page.locator("#pad")).to_contain_text("2 set-ups, not closed yet")
        assert abs(float(ask_the_level(page)) - target(page)) < 60
        was = station(page)
        page.keyboard.press("Enter")
        expect(page.locator(".verdict")).to_contain_text(f"{was}:")
    page.click("text=Turning point or closing sight")
    page.check("[name=point][value=sill]")
    ask_the_level(page)
    page.click("#pad .press:has-text('Sighted')")
    expect(page.locator("#pad")).to_contain_text("Closed on sill")
    found = world.assessment()
    runs = found.levels.runs
    assert found.surveys.formation.shot_count == count and len(runs.set_ups) == 2 and runs.closings[0].closes
    page.click("#pad >> text=Level book")
    expect(page.locator("main")).to_contain_text("Arithmetic checks")


@pytest.mark.parametrize(
    "faults",
    [Faults(lost=1), Faults(garbled=1), Faults(slow=9), Faults(noise=0.2), Faults(stuck=True)],
    ids=["silent", "garbled", "slow", "lying", "stuck"],
)
def test_whatever_the_level_does_one_goes_on_typing(field_world, person, stand_in, faults) -> None:
    world = field_world()
    with_digital_level(world)
    world.set_up()
    stand_in.faults = faults
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    take(page, "Digital level")
    page.keyboard.press("+")
    page.fill("#entry", "1300")
    page.keyboard.press("Enter")
    page.wait_for_selector("#target", timeout=3000)
    page.keyboard.press("+")
    page.keyboard.type(str(target(page)))
    expect(page.locator(".device [role=status]")).to_contain_text(re.compile("ype what you read"), timeout=6000)
    page.keyboard.press("Enter")
    expect(page.locator(".verdict")).to_contain_text("A1: good")


def test_a_surface_dipped_from_a_string_in_fractions(field_world, person) -> None:
    world = field_world(rod="ft-in")
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/ground/?surface=base&station=A1")
    take(page, "String")
    expect(page.locator("#pad h2")).to_have_text("Tie a string")
    assert (page.input_value("[name=start]"), page.input_value("[name=end]")) == ("A1", "A3")
    page.fill("#entry", "8")
    page.click("text=String is tied")
    # By hand: the base lies 4 1/8″ (105 mm) under the finished surface, the string 8″ over it: 12 1/8″ down.
    spoken = "e => [...e.childNodes].map(n => n.ariaLabel ?? n.textContent).join('')"
    assert page.locator("#target").evaluate(spoken).replace("  ", " ") == "1′ 0 1/8″"
    for typed, verdict in (("12 1/8", "A1: good"), ('12 3/8"', "A2: too close"), ("1' 1 1/4\"", "A3: low by")):
        page.fill("#entry", typed)
        page.keyboard.press("Enter")
        expect(page.locator(".verdict")).to_contain_text(verdict)
    page.goto(f"/jobs/{world.job.id}/ground/?surface=base&station=B1")
    expect(page.locator("#pad")).to_contain_text("This string does not pass here")


def test_a_misread_is_asked_about_before_it_counts_and_the_person_decides(field_world, person) -> None:
    world = field_world()
    world.set_up()
    for name in ("A1", "A2", "A3", "B1", "B2"):
        world.shoot(name, high_mm=3)
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?surface=formation&station=B3")
    wrong = str(target(page) - 100)
    page.fill("#entry", wrong)
    page.keyboard.press("Enter")
    expect(page.locator("#doubt")).to_contain_text("off what lies around")
    assert page.input_value("#entry") == wrong and world.assessment().surveys.formation.shot_count == 5
    # The same key again, and the same press again, ask again: keeping is an act of its own.
    for again in (lambda: page.keyboard.press("Enter"), lambda: page.click("text=Read at B3")):
        with page.expect_response("**/readings/") as answer:
            again()
        assert answer.value.status == 422
        expect(page.locator("#doubt button")).to_be_disabled()
        assert world.assessment().surveys.formation.shot_count == 5
    page.keyboard.type("9")  # what stands there is typed over at once
    assert page.input_value("#entry") == "9"
    page.fill("#entry", wrong)
    page.click("#doubt button")
    expect(page.locator(".verdict")).to_contain_text("B3: dig 100 mm")
    assert world.assessment().surveys.suspected() == ()


def test_a_struck_set_up_leaves_everything_unknown_and_a_corrected_one_moves_it(field_world, person) -> None:
    world = field_world()
    world.shoot_all()
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/ground/?surface=formation&station=A1")
    page.click("text=Correct a sight")
    page.click("summary:has-text('Backsight 1300 on sill')")
    page.fill("#pad [name=reading]", "1340")
    page.click("text=Correct it; everything read from it follows")
    expect(page.locator(".verdict")).to_contain_text("A1: dig 40 mm")
    expect(page.locator("#plan a[data-station='B2']")).to_have_attribute("aria-label", re.compile("40 mm, dig"))
    page.click("text=Correct a sight")
    page.click("summary:has-text('Backsight 1340 on sill')")
    page.on("dialog", lambda dialog: dialog.accept())
    page.click("text=Or strike it out")
    expect(page.locator("#plan a[data-station='B2']")).to_have_attribute("aria-label", "B2, not known any more")
    expect(page.locator("#pad h2")).to_have_text("Set up the level")


def test_two_people_with_two_levels_on_one_surface(field_world, person) -> None:
    world = field_world()
    one, two = person(world, "lead"), person(world, "crew")
    for page, tool, backsight in ((one, "Laser", "1300"), (two, "Optical level", "1100")):
        page.goto(f"/jobs/{world.job.id}/ground/?surface=formation&station=A1")
        take(page, tool)
        set_up(page, backsight)
    assert target(one) - target(two) == 200
    read(one, str(target(one)))
    expect(one.locator(".verdict")).to_contain_text("A1: good")
    two.goto(f"/jobs/{world.job.id}/ground/?surface=formation&station=A2")
    read(two, str(target(two) - 34))
    expect(two.locator(".verdict")).to_contain_text("A2: dig 34 mm")
    expect(one.locator("#plan a[data-station='A2']")).to_have_attribute("aria-label", "A2 34 mm, dig")
    expect(one.locator("#set-up-news")).to_be_empty()


def test_a_set_out_squared(field_world, person) -> None:
    world = field_world(brief_signed=False)
    world.sign("brief")
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/set-out/services/")
    page.fill("[name=ticket]", "T-9")
    page.fill("[name=by]", "The locators")
    page.click("text=Services are located")
    expect(page.locator(".verdict")).to_contain_text("holds 14 days more")
    page.click("nav >> text=Pegs")

    def tape(lengths: dict[str, str]) -> None:
        for pair, typed in lengths.items():
            start, end = pair.split()
            page.select_option("[name=start]", start)
            page.select_option("[name=end]", end)
            page.fill("#entry", typed)
            page.keyboard.press("Enter")
            expect(page.locator(f".ledger tr:has-text('{start} – {end}')").first).to_contain_text(typed)

    # P3 of a pad of 6 by 4 m stands 50 mm too far out along the side: by hand P2–P3 4.000, P3–P4 6.050, P1–P3 7.253.
    tape({"P1 P2": "6.000", "P2 P3": "4.000", "P3 P4": "6.050", "P4 P1": "4.000", "P1 P3": "7.253", "P2 P4": "7.211"})
    expect(page.locator("#pegs-taped")).to_contain_text("Not square yet")
    moves = page.locator("#pegs-taped li:has-text('P3')").inner_text()
    assert re.search(r"P3 move (0 mm|1 mm)? ?.*(49|50|51) mm in", moves), moves
    expect(page.locator("#course")).to_contain_text("3 things to clear")
    page.click("#pegs-taped li:has-text('P3') >> text=Moved")
    expect(page.locator("#pegs-taped")).to_contain_text("not taped")
    tape({"P2 P3": "4.001", "P3 P4": "6.000", "P1 P3": "7.211"})
    expect(page.locator("#pegs-taped")).to_contain_text("Square: every peg stands right")
    go_to(page, "Sign-offs")
    see_all(page)
    page.click("button:has-text('Sign the set-out')")
    expect(page.locator("#stage")).to_contain_text("Signed. Go on.")


def test_a_length_being_typed_stays_while_others_record(field_world, person) -> None:
    world = field_world(brief_signed=False)
    world.sign("brief")
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/set-out/")
    page.fill("#entry", "6.0")
    world.square()
    expect(page.locator("#company")).to_contain_text("Crew Person: Taped")
    expect(page.locator("#entry")).to_have_value("6.0")
    page.fill("#entry", "")
    expect(page.locator("#pegs-taped")).to_contain_text("Square: every peg stands right")
