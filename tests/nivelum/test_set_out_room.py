"""Set-out and the level's book through their addresses, and what is drawn of them."""

import math
import re
import uuid
from datetime import timedelta

import pytest
from django.utils import timezone
from lxml import etree
from tests.conftest import World, make_world

from groundwork.entries import Foresight, PegDistance, ServicesLocated, SetUp
from groundwork.measures import Measured, Unit, parse_rod
from nivelum.instruments.standin import Faults, StandInLevel
from nivelum.instruments.standin import World as Ground
from nivelum.jobs.models import Entry

HTMX = {"HTTP_HX_REQUEST": "true"}


def url(world: World, rest: str) -> str:
    return f"/jobs/{world.job.id}/{rest}"


@pytest.fixture
def open_world(db) -> World:
    """A job whose brief is signed and whose set-out is not begun."""
    world = make_world(brief_signed=False)
    world.sign("brief")
    return world


def located(world: World, days_ago: int, life: int = 14) -> None:
    on = timezone.localdate() - timedelta(days=days_ago)
    world.record(ServicesLocated(str(uuid.uuid4()), "T-7", on, life, "the locators", "red is power", "cable at P2"))


def test_nobody_digs_on_a_location_that_has_run_out(open_world: World) -> None:
    page = url(open_world, "set-out/services/")
    viewer = open_world.client("viewer")
    assert "Not located: nobody digs" in viewer.get(page).content.decode()
    located(open_world, 15)
    assert "Expired: locate again" in viewer.get(page).content.decode()
    assert "D01" in {f.rule for f in open_world.assessment().stages.of("excavation").stops}
    located(open_world, 14)
    shown = viewer.get(page).content.decode()
    assert "holds 0 days more" in shown and "cable at P2" in shown and "red is power" in shown
    assert "D01" not in {f.rule for f in open_world.assessment().stages.of("excavation").findings}


@pytest.mark.parametrize(
    "harm",
    [{"ticket": ""}, {"located_on": "2999-01-01"}, {"located_on": "soon"}, {"life_days": "-1"}, {"by": ""},
     {"found": "x" * 2001}],
)  # fmt: skip
def test_a_location_that_cannot_be_is_refused_and_keeps_what_was_typed(open_world: World, harm: dict) -> None:
    sent = {"entry_id": uuid.uuid4(), "ticket": "T-8", "located_on": "2026-01-02", "life_days": "14", "by": "Them",
            "found": "gas at the gate", "scheme": ""} | harm  # fmt: skip
    response = open_world.client("crew").post(url(open_world, "set-out/services/"), sent)
    page = response.content.decode()
    assert response.status_code == 422 and 'class="wrong' in page
    assert not Entry.objects.filter(job=open_world.job, kind="services").exists()
    kept = {"ticket": "T-8", "by": "Them"} | {k: v for k, v in harm.items() if v and k in ("ticket", "by")}
    assert all(f'value="{value}"' in page for name, value in kept.items() if name not in harm)


def test_only_those_who_measure_log_services_and_lengths(open_world: World) -> None:
    viewer = open_world.client("viewer")
    sent = {"entry_id": uuid.uuid4(), "start": "P1", "end": "P2", "length": "6"}
    assert viewer.post(url(open_world, "set-out/lengths/"), sent).status_code == 403
    viewer.post(url(open_world, "set-out/services/"), {"ticket": "T", "by": "x"})
    assert not Entry.objects.filter(job=open_world.job, kind__in=("services", "distance")).exists()


def tape(world: World, lengths: dict[str, float]) -> None:
    for pair, metres in lengths.items():
        start, end = pair.split()
        world.record(PegDistance(str(uuid.uuid4()), start, end, Measured(f"{metres} m", metres)))


LEANING = {"P1 P2": 6.0, "P2 P3": 4.0, "P3 P4": 6.0, "P4 P1": 4.0, "P1 P3": 7.277, "P2 P4": 7.144}


def test_the_plan_of_the_pegs_shows_lengths_and_which_way_to_go(open_world: World) -> None:
    tape(open_world, LEANING)
    page = open_world.client("viewer").get(url(open_world, "set-out/")).content.decode()
    plan = etree.fromstring(re.search(r'<svg [^>]*class="plan pegs".*?</svg>', page, re.S)[0])
    assert len(plan.findall(".//{*}path[@class='move']")) == 2
    texts = {t.text for t in plan.iter("{*}text")}
    assert {"P1", "P2", "P3", "P4", "7.277", "7.144", "6.000"} <= texts
    assert "Not square yet" in page and "80 mm away from P3" in page
    # The lengths run along the edges of the drawing, never off it.
    width = float(plan.get("viewBox").split()[2])
    places = re.findall(r"translate\(([-\d.]+) ", etree.tostring(plan).decode())
    assert all(-1 <= float(x) <= width + 1 for x in places)


def test_a_length_is_undone_by_who_taped_it_and_asked_for_again(open_world: World) -> None:
    tape(open_world, LEANING)
    entry = Entry.objects.filter(job=open_world.job, kind="distance").last()
    strike = {"entry_id": uuid.uuid4(), "strikes": entry.id}
    assert open_world.client("crew").post(url(open_world, "set-out/dropped/"), strike, **HTMX).status_code == 200
    assert open_world.assessment().setting_out.pegs.still_to_tape == [("P2", "P4")]
    assert [f.rule for f in open_world.assessment().setting_out.findings] == ["D01", "P02", "P03"]


def test_a_signed_set_out_is_overtaken_when_a_peg_goes_out_of_place(world: World) -> None:
    assert world.assessment().stages.of("set-out").gate == "signed"
    tape(world, {"P1 P3": 7.215})
    assert world.assessment().stages.of("set-out").gate == "signed"
    tape(world, LEANING)
    assert world.assessment().stages.of("set-out").gate == "overtaken"
    assert "G01" in {f.rule for f in world.assessment().stages.of("excavation").stops}


def test_margins_are_judged_side_by_side(open_world: World) -> None:
    client = open_world.client("crew")
    for side, width in ((0, "150"), (1, "40")):
        sent = {"entry_id": uuid.uuid4(), "side": side, "width": width}
        assert client.post(url(open_world, "set-out/margins/"), sent, **HTMX).status_code == 200
    assert {n: m.width.raw for n, m in open_world.assessment().setting_out.margins.items()} == {0: "150", 1: "40"}


def test_the_string_table_gives_the_rod_at_each_string_while_a_level_stands(world: World) -> None:
    page = url(world, "set-out/strings/?height=200&surface=base")
    client = world.client("viewer")
    assert "Rod at the string reads" not in client.get(page).content.decode()
    world.set_up()
    shown = client.get(page).content.decode()
    # By hand: P3 is on the wall, finished 10.000, string 10.200: 1300 below the line of sight at 11.500.
    assert "305 mm" in shown and re.search(r"P3</th>.*?10\.200.*?1300", shown, re.S)


def test_the_level_book_and_the_target_table(world: World) -> None:
    world.set_up()
    world.shoot("A1")
    first = world.assessment().levels.set_up.id
    world.record(Foresight(str(uuid.uuid4()), first, "T1", parse_rod("1400", Unit.MILLIMETRES)))
    world.record(SetUp(str(uuid.uuid4()), "T1", parse_rod("1450", Unit.MILLIMETRES)))
    client = world.client("viewer")
    for way, column in (("height", "Height of instrument"), ("rise", "Rise")):
        page = client.get(url(world, f"ground/book/?by={way}")).content.decode()
        assert column in page and "From sill, " in page and "Not closed" in page
    page = client.get(url(world, "ground/targets/?surface=formation")).content.decode()
    assert "void" in page and len(re.findall(r"<tr><th scope=\"row\" class=\"figure", page)) == len(
        world.assessment().job.stations
    )


def test_a_long_level_book_comes_in_pages_that_leave_nothing_out(world: World, monkeypatch) -> None:
    for _run in range(2):
        world.set_up()
        world.shoot_all()
    client = world.client("viewer")

    def page(number: str) -> tuple[str, list[str]]:
        shown = client.get(url(world, f"ground/book/?by=rise&page={number}")).content.decode()
        return shown, re.findall(r"<tr><th scope=\"row\">.*?</tr>", shown.split("</header>")[-1], re.S)

    short, every = page("1")
    assert len(every) > 20
    assert 'aria-label="Pages"' not in short and short.count("Sums") == 2
    monkeypatch.setattr("nivelum.readings.views.book.ON_A_PAGE", 7)
    pages = [page(str(number)) for number in range(1, math.ceil((len(every) - 2) / 7) + 1)]
    assert [row for _shown, rows in pages for row in rows] == every and page("all")[1] == every
    assert sum(shown.count("Arithmetic checks") for shown, _rows in pages) == 2 and "continued" in pages[1][0]
    assert client.get(url(world, "ground/book/?by=rise")).content.decode().count("Sums") == 1  # opens at its end
    assert page("9999")[1] == pages[-1][1] and page("x")[1] == pages[0][1]


def test_a_turning_point_is_offered_to_look_back_on(world: World) -> None:
    world.set_up()
    client = world.client("crew")
    first = world.assessment().levels.set_up.id
    sent = {"entry_id": uuid.uuid4(), "set_up": first, "point": "T1", "reading": "1420", "station": "A1",
            "surface": "formation"}  # fmt: skip
    page = client.post(url(world, "ground/sights/"), sent, **HTMX).content.decode()
    assert 'name="mark" value="T1" checked' in page and "10.080" in page
    again = client.post(url(world, "ground/sights/"), sent | {"entry_id": uuid.uuid4()}, **HTMX)
    assert again.status_code == 422
    world.record(Foresight(str(uuid.uuid4()), first, "sill", parse_rod("1309", Unit.MILLIMETRES)))
    page = client.get(url(world, "ground/?surface=formation&station=A1")).content.decode()
    assert "Set up the level" in page  # the run misses by 9 mm: nothing stands any more


def test_a_knocked_mark_is_not_offered_again(world: World) -> None:
    world.set_up()
    world.shoot("A1")
    client = world.client("crew")
    sent = {"entry_id": uuid.uuid4(), "point": "sill", "since": "", "station": "A1", "surface": "formation"}
    page = client.post(url(world, "ground/knocks/"), sent, **HTMX).content.decode()
    assert 'value="bolt"' in page and 'value="sill"' not in page
    assert world.assessment().surveys.ground["A1"].judgement.standing == "unknown"
    bad = client.post(url(world, "ground/knocks/"), sent | {"entry_id": uuid.uuid4(), "point": "moon"}, **HTMX)
    assert bad.status_code == 422


def test_only_what_one_read_oneself_is_corrected_by_the_crew(world: World) -> None:
    world.record(SetUp(str(uuid.uuid4()), "sill", parse_rod("1300", Unit.MILLIMETRES)), "lead")
    named = world.assessment().levels.set_up.id
    sent = {"entry_id": uuid.uuid4(), "corrects": named, "reading": "1310", "station": "A1", "surface": "formation"}
    assert world.client("crew").post(url(world, "ground/corrections/"), sent, **HTMX).status_code == 403
    bad = world.client("engineer").post(url(world, "ground/corrections/"), sent | {"reading": "high"}, **HTMX)
    assert bad.status_code == 422 and "high" in bad.content.decode()
    assert world.client("engineer").post(url(world, "ground/corrections/"), sent, **HTMX).status_code == 200
    assert world.assessment().levels.instrument_height(world.assessment().levels.set_up) == pytest.approx(11.510)


def test_the_made_up_ground_is_the_same_every_time_and_never_far_off() -> None:
    one, two = Ground(5, Faults()), Ground(5, Faults())
    bumps = [one.bump(x / 3, y / 3) for x in range(60) for y in range(60)]
    assert bumps == [two.bump(x / 3, y / 3) for x in range(60) for y in range(60)]
    assert 0.008 < max(bumps) < 0.045 and -0.045 < min(bumps) < -0.008


def test_the_stand_in_answers_what_it_does_not_know_and_goes_on() -> None:
    import socket

    from nivelum.instruments.lines import read

    with (
        StandInLevel(seed=3, faults=Faults(lost=0, garbled=0)).serving() as level,
        socket.create_connection(("127.0.0.1", level.port), timeout=5) as line,
    ):
        heard = line.makefile("r", encoding="ascii")
        line.sendall(b"HELLO\n!ROD a b c\n!POINT sill 10.0\n!MOVE\nREAD\n\xff\xfe\n" + b"x" * 300 + b"\nREAD\n")
        assert read(heard.readline())[2] == "WHAT"
        kind, _number, reading = read(heard.readline())
        assert kind == "L" and 11_000 < int(reading) < 17_000
        for text in heard:
            if read(text)[0] == "L":
                break
        line.sendall(b"!POINT low 2.0\nREAD\n")
        assert read(heard.readline())[2] == "NOROD"
