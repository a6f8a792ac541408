"""Methods, kit and set-out through their addresses."""

import uuid

import pytest
from tests.conftest import World

from groundwork.entries import MeterBase, Reading, TapeDatum
from groundwork.files import dumps, loads
from groundwork.kinds import STORED
from groundwork.laboratory import deformation_modulus, dry_density
from groundwork.measures import Unit, parse_signed
from nivelum.instruments.driver import DeviceError, LineLevel, Rod, StandIn, Trouble
from nivelum.instruments.lines import Garbled, read, written
from nivelum.instruments.probes import ProbePlace, StandInProbe
from nivelum.instruments.standin import Faults, StandInLevel
from nivelum.jobs.models import Entry

HTMX = {"HTTP_HX_REQUEST": "true"}


def url(world: World, rest: str) -> str:
    return f"/jobs/{world.job.id}/{rest}"


def hold(world: World, client, name: str) -> None:
    tool = world.crew.tools.get(name=name)
    assert client.post(url(world, "ground/hold/"), {"tool": tool.id}).status_code == 302


def test_a_line_says_whether_it_is_whole() -> None:
    line = written("L", 42, 14063)
    assert read(line) == ("L", 42, "14063")
    for place in range(len(line)):
        for figure in "07L#":
            harmed = line[:place] + figure + line[place + 1 :]
            if harmed != line:
                with pytest.raises(Garbled):
                    read(harmed)


def test_the_stand_in_over_its_socket_through_lost_and_garbled_lines() -> None:
    with StandInLevel(seed=2, faults=Faults(lost=0.15, garbled=0.15)).serving() as level:
        driver = StandIn("127.0.0.1", level.port, patience=6)
        back = driver.read(Rod("w", 10.0, point="sill", moved=True))
        fore = driver.read(Rod("w", 9.6, at=(3.0, 2.0)))
        assert fore - back == pytest.approx(0.4 - level.world("w").bump(3.0, 2.0), abs=0.004)
        assert driver.read(Rod("w", 55.0, point="sill")) == pytest.approx(back, abs=0.004)


@pytest.mark.parametrize(
    ("faults", "trouble"),
    [(Faults(lost=1), Trouble.SILENT), (Faults(garbled=1, lost=0), Trouble.GARBLED),
     (Faults(slow=5), Trouble.SILENT), (Faults(noise=0.3, lost=0, garbled=0), Trouble.UNSTEADY),
     (Faults(stuck=True, lost=0, garbled=0), Trouble.STUCK)],
    ids=["dead", "garbled", "slow", "lying", "stuck"],
)  # fmt: skip
def test_a_level_that_fails_is_named_within_the_drivers_patience(faults: Faults, trouble: Trouble) -> None:
    with StandInLevel(seed=2, faults=faults).serving() as level, pytest.raises(DeviceError) as caught:
        StandIn("127.0.0.1", level.port, patience=1).read(Rod("w", 10.0, point="sill", moved=True))
    assert caught.value.trouble is trouble


def test_no_level_listening_is_silent() -> None:
    with pytest.raises(DeviceError, match="silent"):
        LineLevel("127.0.0.1", 9, patience=1).read(Rod("w", 10.0))


def test_the_height_meter_reads_up_and_down_from_its_base(world: World) -> None:
    client = world.client("crew")
    hold(world, client, "Height meter")
    data = {"entry_id": uuid.uuid4(), "mark": "sill", "shows": "", "surface": "formation", "station": "A1"}
    assert client.post(url(world, "ground/set-up/"), data, **HTMX).status_code == 200
    # By hand: the base on the sill at 10.200, the formation at A1 at 9.685: 515 mm below it.
    page = client.get(url(world, "ground/?surface=formation&station=A1")).content.decode()
    assert "the meter should show" in page and ">−515<" in page
    (base,) = world.assessment().logbook.of_kind(MeterBase).values()
    data = {"entry_id": uuid.uuid4(), "set_up": base.id, "surface": "formation", "station": "A1", "reading": "-560"}
    assert "A1: over-dug 45 mm" in client.post(url(world, "ground/readings/"), data, **HTMX).content.decode()


def test_the_tape_needs_known_ground(world: World) -> None:
    client = world.client("crew")
    hold(world, client, "Tape")
    page = client.get(url(world, "ground/")).content.decode()
    assert "levels of the old ground are not known" in page
    world.record(TapeDatum(str(uuid.uuid4())))
    (datum,) = world.assessment().logbook.of_kind(TapeDatum)
    data = {"entry_id": uuid.uuid4(), "set_up": datum, "surface": "formation", "station": "A1", "reading": "300"}
    assert client.post(url(world, "ground/readings/"), data, **HTMX).status_code == 422


def test_a_fall_by_straightedge_is_judged_and_is_no_level(world: World) -> None:
    client = world.client("crew")
    hold(world, client, "Straightedge")
    page = client.get(url(world, "ground/?surface=formation&station=B1")).content.decode()
    assert "Gap under its far end" in page and 'value="A1" checked' in page
    # By hand: designed 1:50, so 40 mm in 2 m; 12 mm is 1:167, far under four fifths of it; −10 mm runs back.
    for gap, says in (("40", "falls as it should"), ("12", "too flat"), ("-10", "falls the wrong way")):
        data = {"entry_id": uuid.uuid4(), "surface": "formation", "station": "B1", "end": "A1", "length": "2.0"}
        assert says in client.post(url(world, "ground/falls/"), data | {"gap": gap}, **HTMX).content.decode()
    assert world.assessment().surveys.formation.shot_count == 0
    assert "D05" in {f.rule for f in world.assessment().surfaces.findings()}
    bad = client.post(url(world, "ground/falls/"), data | {"length": "40", "gap": "5"}, **HTMX)
    assert bad.status_code == 422 and 'value="40"' in bad.content.decode()


def test_every_surface_has_its_own_tolerance_and_words(world: World) -> None:
    world.set_up()
    keys = [s.key for s in world.assessment().surveys.levelled]
    # 150 mm of dense stone in lifts of at most 75: two; bedding as screeded.
    assert keys == ["formation", "base.1", "base", "screed", "finished"]
    set_up = world.assessment().levels.set_up
    for surface, says in (("base.1", "good"), ("base", "too close: shoot again"), ("screed", "screed off 11 mm"),
                          ("finished", "high by 11 mm: lift, take bedding out, lay again")):  # fmt: skip
        high = 0.011 if surface in ("screed", "finished") else 0.009
        metres = world.assessment().targets.at("A1", surface) - (high if surface != "base.1" else 0.004)
        reading = parse_signed(f"{metres:.4f}", Unit.METRES)
        world.record(Reading(str(uuid.uuid4()), "A1", set_up.id, reading, surface=surface))
        assert world.assessment().surveys.of(surface).answers["A1"].judgement.action.text(Unit.MILLIMETRES) == says
    assert world.assessment().surveys.formation.shot_count == 0


def test_the_kit_is_the_crews_and_its_uncertainty_goes_into_the_record(world: World) -> None:
    lead, crew = world.client("lead"), world.client("crew")
    laser = world.crew.tools.get(name="Laser")
    page = f"/crews/{world.crew.id}/tools/{laser.id}/"
    changed = {"name": "Laser", "method": "laser", "reading_u": "3", "rate": "0.1"}
    assert crew.post(page, changed).status_code == 403
    refused = lead.post(page, changed | {"reading_u": "0"})
    assert refused.status_code == 422 and 'value="0"' in refused.content.decode()
    assert lead.post(page, changed).status_code == 302
    test = {"midway_a": "1.075", "midway_b": "1.247", "near_a": "1.783", "near_b": "1.946", "to_a": "0", "to_b": "60"}
    bad = crew.post(page, test | {"near_b": "9.9"})
    assert bad.status_code == 422 and 'value="9.9"' in bad.content.decode()
    assert crew.post(page, test).status_code == 302
    assert "Reads 15 mm low at 100 m" in crew.get(page).content.decode()
    data = {"entry_id": uuid.uuid4(), "mark": "sill", "backsight": "1300", "surface": "formation", "station": "A1"}
    assert crew.post(url(world, "ground/set-up/"), data, **HTMX).status_code == 200
    kept = Entry.objects.get(job=world.job, kind="set_up").body["instrument"]
    assert kept == {
        "method": "laser",
        "name": "Laser",
        "reading_u_mm": 3.0,
        "rate_mm_m": 0.1,
        "collimation_mm_m": -0.15,
    }


def test_every_kind_of_entry_survives_the_job_file_and_the_record(world: World) -> None:
    world.set_up()
    world.shoot("A1")
    job = loads(world.client("lead").get(url(world, "job.json")).content.decode())
    assert loads(dumps(job)) == job
    for entry in world.assessment().job.entries:
        assert STORED.value(entry.KIND, entry.id, STORED.body(entry)) == entry


@pytest.mark.parametrize(
    ("address", "data", "says"),
    [("set-out/lengths/", {"start": "P1", "end": "P1", "length": "5"}, "two different pegs"),
     ("set-out/lengths/", {"start": "P1", "end": "P9", "length": "5"}, "No peg is called “P9”"),
     ("set-out/lengths/", {"start": "P1", "end": "P2", "length": "five"}, "“five” is not a measurement"),
     ("set-out/margins/", {"side": "77", "width": "150"}, "no such side"),
     ("ground/sights/", {"point": "T9", "reading": "1300"}, "")],
)  # fmt: skip
def test_what_cannot_be_is_refused_beside_its_field(world: World, address: str, data: dict, says: str) -> None:
    set_up = world.set_up()
    before = Entry.objects.filter(job=world.job).count()
    sent = data | {"entry_id": uuid.uuid4(), "set_up": set_up.id}
    response = world.client("crew").post(url(world, address), sent, **HTMX)
    assert response.status_code == 422 and says in response.content.decode()
    assert Entry.objects.filter(job=world.job).count() == before


@pytest.mark.parametrize(
    "query",
    ["strings/?height=high", "strings/?height=200&surface=moon", "square/?side_a=3&side_b=4&across=9",
     "square/?chord=30&radius=10&step=1", "square/?chord=4&radius=10&step=0", "square/?chord=4&radius=&rise=&step=1"],
)  # fmt: skip
def test_what_the_set_outs_sums_cannot_do_is_said(world: World, query: str) -> None:
    response = world.client("viewer").get(url(world, "set-out/" + query))
    assert response.status_code == 422 and 'class="wrong' in response.content.decode()


def test_a_crew_adds_a_tool_and_puts_one_away(world: World) -> None:
    lead = world.client("lead")
    new = f"/crews/{world.crew.id}/tools/new/"
    sent = {"name": "Second laser", "method": "laser", "reading_u": "2", "rate": "0.08"}
    assert lead.post(new, sent | {"name": "Laser"}).status_code == 422
    assert lead.post(new, sent).status_code == 302
    page = lead.get(url(world, "ground/")).content.decode()
    assert "Second laser" in page and "Tape" in page
    tape = world.crew.tools.get(name="Tape")
    away = {"name": "Tape", "reading_u": "8", "rate": "0", "retired": "on"}
    assert lead.post(f"/crews/{world.crew.id}/tools/{tape.id}/", away).status_code == 302
    assert ">Tape<" not in lead.get(url(world, "ground/")).content.decode()
    world.crew.tools.exclude(name="Laser").update(retired=True)
    laser = world.crew.tools.get(name="Laser")
    last = {"name": "Laser", "reading_u": "1.5", "rate": "0", "retired": "on"}
    assert lead.post(f"/crews/{world.crew.id}/tools/{laser.id}/", last).status_code == 422


def test_each_person_holds_their_own_tool_and_a_strangers_tool_is_not_there(world: World) -> None:
    lead, crew = world.client("lead"), world.client("crew")
    hold(world, lead, "String")
    assert "Tie a string" in lead.get(url(world, "ground/")).content.decode()
    assert "Set up the level" in crew.get(url(world, "ground/")).content.decode()
    for tool in (uuid.uuid4(), "none"):
        assert crew.post(url(world, "ground/hold/"), {"tool": tool}).status_code == 404


@pytest.mark.parametrize(
    "harm",
    [{"start_height": ""}, {"start_height": "3 m"}, {"start_height": "-20"}, {"end": "A1"}, {"end": "Z9"}],
)
def test_a_string_that_cannot_be_tied_is_refused(world: World, harm: dict) -> None:
    client = world.client("crew")
    hold(world, client, "String")
    sent = {"entry_id": uuid.uuid4(), "start": "A1", "end": "A3", "start_height": "200", "station": "A1"} | harm
    response = client.post(url(world, "ground/set-up/"), sent, **HTMX)
    assert response.status_code == 422 and 'class="wrong' in response.content.decode()
    assert not Entry.objects.filter(job=world.job, kind="string").exists()


def test_a_string_pulled_level_dips_deeper_up_the_fall(world: World) -> None:
    client = world.client("crew")
    hold(world, client, "String")
    # By hand: from A1, finished 9.940, 300 over it, level to B1, finished 9.980: 260 over that one.
    sent = {"entry_id": uuid.uuid4(), "start": "A1", "end": "B1", "start_height": "300", "level": "true",
            "station": "B1", "surface": "formation"}  # fmt: skip
    page = client.post(url(world, "ground/set-up/"), sent, **HTMX).content.decode()
    assert ">515<" in page and "300 mm over finished level at A1" in page


def test_the_gauge_and_the_falling_weight_over_their_socket_through_lost_and_garbled_lines() -> None:
    with StandInLevel(seed=2, faults=Faults(lost=0.15, garbled=0.15)).serving() as server:
        ground = server.world("w")
        device = StandInProbe("127.0.0.1", server.port, patience=6)
        far = max(((x / 2, y / 2) for x in range(26) for y in range(18)), key=lambda at: -ground.soft(*at))
        soft = ground.spots[0][:2]
        # Firm ground holds 25 MPa by 22.5/s, the hidden soft spots do not; the more it was compacted the denser.
        firm, gives = (
            [deformation_modulus(s) for s in device.drops(ProbePlace("w", at, done=-1.0))] for at in (far, soft)
        )
        assert min(firm) > 25 > max(gives)
        loose, tight = (device.density(ProbePlace("w", far, 2200.0, done)) for done in (0.2, 1.0))
        ratios = [dry_density(*each) / 2200 for each in (loose, tight)]
        assert ratios[0] < 0.95 and ratios[1] == pytest.approx(1.0, abs=0.02)


@pytest.mark.parametrize(
    ("faults", "trouble"),
    [(Faults(lost=1), Trouble.SILENT), (Faults(garbled=1, lost=0), Trouble.GARBLED),
     (Faults(stuck=True, lost=0, garbled=0), Trouble.STUCK)],
    ids=["dead", "garbled", "stuck"],
)  # fmt: skip
def test_a_probe_that_fails_is_named(faults: Faults, trouble: Trouble) -> None:
    with StandInLevel(seed=2, faults=faults).serving() as server, pytest.raises(DeviceError) as caught:
        StandInProbe("127.0.0.1", server.port, patience=1).density(ProbePlace("w", (1.0, 1.0)))
    assert caught.value.trouble is trouble


def test_the_tests_leaf_takes_what_the_device_shows(world: World, settings) -> None:
    where = url(world, "lifts/probe/")
    client = world.client("crew")
    asked = {"what": "gauge", "lift": "base.1", "place": "X", "at": "2 3"}
    assert "does not answer" in client.get(where, asked).json()["trouble"]
    assert "which place" in client.get(where, {"what": "gauge", "lift": "base.1", "place": "T1"}).json()["trouble"]
    with StandInLevel(seed=3, faults=Faults(lost=0, garbled=0)).serving() as server:
        settings.PROBES = dict.fromkeys(("gauge", "weight"), ("stand-in", "127.0.0.1", str(server.port)))
        fields = client.get(where, asked).json()["fields"]
        assert 1500 < float(fields["wet"]) < 2400 and 3 < float(fields["moisture"]) < 8
        drops = client.get(where, asked | {"what": "weight"}).json()["fields"]
        assert all(0.2 < float(drops[name]) < 8 for name in ("one", "two", "three"))
        assert "Take it from the device" in client.get(url(world, "lifts/tests/?lift=base.1")).content.decode()
    assert world.client("viewer").get(where, asked).status_code == 403
