"""Jobs of every kind, begun from nothing through their addresses: what the brief asks is kept and asked again as it
was typed, every page of each opens, and the crew's own small tools are good for what they are good for."""

import itertools
import re
import uuid

import pytest
from django.test import Client
from tests.conftest import World, make_world
from tests.nivelum.test_access import address
from tests.nivelum.test_bases import keep, sheet_data, start, started
from tests.nivelum.test_instruments import HTMX, hold, url
from tests.nivelum.test_lift_room import send
from tests.nivelum.test_sharing import JOB_ROUTES, READS

from groundwork.entries import FallCheck
from groundwork.files import dumps, loads
from groundwork.schools import schools
from nivelum.crews.models import Region

PAVER = {"paver": "porcelain", "paver_thickness": "20", "joint": "4"}


def begun(world: World, **typed) -> World:
    assert start(world, **typed).status_code == 302
    (world.job,) = started(world)
    return world


def test_the_brief_asks_for_the_paver_and_gives_back_what_was_typed(world: World) -> None:
    brief = begun(world, **PAVER).assessment().job.brief
    assert (brief.paver, round(brief.paver_thickness, 6), round(brief.joint, 6)) == ("porcelain", 0.02, 0.004)
    shown = sheet_data(world)
    assert (shown["paver"], float(shown["paver_thickness"]), float(shown["joint"])) == ("porcelain", 20, 4)
    before = world.assessment().job
    assert keep(world, "brief/", shown).status_code == 302 and world.assessment().job == before
    # A school that is built with them gets them; the others say that they are not.
    assert keep(world, "schools/take/", {"school": "rigid"}).status_code == 302
    paving = world.assessment().job.specification.layers[0]
    assert paving.material == "porcelain" and paving.thickness == pytest.approx(0.02)
    page = world.client("lead").get(url(world, "base/schools/")).content.decode()
    assert "Made for porcelain" in page and "Not a base for porcelain" in page


@pytest.mark.parametrize(
    ("field", "typed"),
    [("paver_thickness", "thick"), ("paver_thickness", "-20"), ("joint", "2 m"), ("paver", "gold")],
)
def test_a_paver_that_cannot_be_is_said_beside_its_field(world: World, field: str, typed: str) -> None:
    answer = start(world, **PAVER | {field: typed})
    page = answer.content.decode()
    assert answer.status_code == 422 and not started(world)
    assert re.search(rf'id="wrong-{field}"[^>]*>[^<]+<', page)
    assert field == "paver" or f'value="{typed}"' in page


def test_a_crew_that_reads_feet_is_told_its_limits_in_feet(db) -> None:
    world = make_world(rod="ft-in")
    wrong = {"paver_thickness": "20", "joint": "3", "spacing": "200"}
    page = start(world, **{"side-0-along": "free edge"} | wrong).content.decode()
    said = {field: re.search(rf'id="wrong-{field}"[^>]*>([^<]*)<', page)[1] for field in wrong}
    # 10 and 300 mm are 3/8″ and 12″ of a unit, 50 mm is 2″; 2′ to 164′ lie within 0.5 to 50 m (1.64′ to 164.04′).
    assert "3/8″ to 12″" in said["paver_thickness"] and "2″" in said["joint"]
    assert said["spacing"] == "Between 2 and 164 feet."
    # What is typed as a limit is shown is inside, and comes back out of the job's own file.
    for n, thick in enumerate(('3/8"', '12"')):
        typed = {"name": f"At the limit {n}", "paver": "porcelain", "paver_thickness": thick, "joint": '2"'}
        assert start(world, **{"side-0-along": "free edge", "spacing": "8"} | typed).status_code == 302
    for job in started(world):
        world.job = job
        assert loads(dumps(world.assessment().job)).brief == world.assessment().job.brief


OTHERS = {"by_others": "on"}
KINDS = [
    *((school, {}) for school in schools() if school != "overlay"),
    ("overlay", {"sound_slab": "on"}),
    ("dense", OTHERS),
    ("open", OTHERS | {"side-0-along": "building", "side-0-name": "barn"}),
]


def rooms_open(world: World, client: Client) -> None:
    """Every room of a job opens at every surface, stage and lift it has."""
    assessment = world.assessment()
    for surface in (s.key for s in assessment.surveys.levelled):
        for room in ("ground", "water", "ground/surface", "ground/book", "ground/targets"):
            assert client.get(url(world, f"{room}/?surface={surface}")).status_code == 200, (room, surface)
        for ending in ("csv", "svg", "xml", "dxf", "geojson"):
            assert client.get(url(world, f"surface.{ending}?surface={surface}")).status_code in (200, 404, 409)
    for stage in assessment.stages.line:
        assert client.get(url(world, f"sign-offs/?stage={stage.step.stage.key}")).status_code == 200, stage.key
    for lift in assessment.works.lifts:
        for room in ("lifts", "lifts/tests", "lifts/spread-targets"):
            assert client.get(url(world, f"{room}/?lift={lift}")).status_code == 200, (room, lift)


@pytest.mark.parametrize(
    ("school", "typed", "region"),
    [(*kind, region) for kind, region in zip(KINDS, itertools.cycle(Region.values), strict=False)],
    ids=[f"{k}{'-only' * bool(t)}" for k, t in KINDS],
)
def test_every_page_of_every_kind_of_job_opens(world: World, school: str, typed: dict, region: str) -> None:
    """In the words of each region in turn."""
    world.crew.region = region
    world.crew.save()
    begun(world, **typed)
    assert keep(world, "schools/take/", {"school": school}).status_code == 302
    assessment = world.assessment()
    assert assessment.job.specification.school == school
    surfaces = [s.key for s in assessment.surveys.levelled]
    assert ("finished" in surfaces) == ("by_others" not in typed)
    client = world.client("lead")
    for name, names in JOB_ROUTES:
        if name in READS | {"shares"}:
            status = client.get(address(name, names, world), follow=True).status_code
            assert status in (200, 404, 409), (name, status)
    rooms_open(world, client)


def test_a_density_test_far_from_the_job_is_refused_beside_its_field(world: World) -> None:
    answer = send(world, "gauge", place="X", at="10000 2", wet="2250", moisture="6")
    page = answer.content.decode()
    assert answer.status_code == 422 and "not on this area" in page and 'value="10000 2"' in page


def test_the_slab_walk_takes_the_hand_tamper_it_asks_for(world: World) -> None:
    begun(world)
    keep(world, "schools/take/", {"school": "slab-walk"})
    sent = {"name": "tamper", "kind": "hand tamper", "mass": "8", "width": "250", "length": "250"}
    assert send(world, "machine", **sent).status_code == 302
    (machine,) = world.assessment().works.machines
    lift = next(iter(world.assessment().works.lifts))
    assert send(world, "pass", machine=machine, direction="along", lift=lift).status_code == 302
    assert "L01" not in {f.rule for f in world.assessment().surfaces.findings()}


def test_a_fall_is_read_by_the_bubble_of_a_level_once_it_was_laid_on_a_known_fall(world: World) -> None:
    client, lead = world.client("crew"), world.client("lead")
    hold(world, client, "Straightedge")
    data = {"surface": "formation", "station": "B1", "end": "A1", "length": "2.0", "gap": "", "bubble": "half out"}

    def laid(**more):
        return client.post(url(world, "ground/falls/"), {"entry_id": uuid.uuid4()} | data | more, **HTMX)

    asked = laid()
    assert asked.status_code == 422 and "known fall first" in asked.content.decode()
    tool = world.crew.tools.get(name="Straightedge")
    page = f"/crews/{world.crew.id}/tools/{tool.id}/"
    known = {"name": "Straightedge", "reading_u": "1", "rate": "0"}
    upside_down = lead.post(page, known | {"touching": "1:40", "half_out": "1:80"})
    assert upside_down.status_code == 422 and 'value="1:40"' in upside_down.content.decode()
    assert lead.post(page, known | {"touching": "1:100", "half_out": "1:40"}).status_code == 302
    # By hand: designed 1:50; half out is 1:40, 50 mm in 2 m; touching is 1:100, 20 mm, well under 1:62.5.
    assert "falls as it should" in laid().content.decode()
    assert "too flat" in laid(bubble="touching").content.decode()
    checks = list(world.assessment().logbook.of_kind(FallCheck).values())
    assert [round(check.gap.metres, 6) for check in checks] == [0.05, 0.02]
    assert all(check.instrument.reading_u > 0.001 for check in checks)  # a bubble is read more coarsely than a wedge
