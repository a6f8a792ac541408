"""What stays with a job of its pages is what the pages would say anew: after whatever is recorded, every page is held
against the same page of a process that has just begun."""

import re
import uuid

import pytest
from django.core.cache import cache
from django.template import Context, Template
from tests.conftest import DRAINED_PAD, World, make_world

from groundwork.entries import Strike
from groundwork.layerwork import Direction, MachineBrought, Passed
from groundwork.tools import Machine, MachineKind
from nivelum.jobs import services

PAGES = (
    "ground/?station=A1", "ground/surface/", "base/", "base/?at=B2", "base/schools/", "base/falls/", "set-out/",
    "lifts/", "lifts/?lift=base.1", "lifts/tests/?lift=base.1", "water/", "sign-offs/", "sign-offs/?stage=excavation",
    "sign-offs/?stage=brief", "record/", "ground/sheet.json", "order/", "order/work/", "order/costs/", "joints/",
)  # fmt: skip
EACH_TIME = re.compile(
    r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}|csrfmiddlewaretoken\" value=\"\w+|X-CSRFToken\": \"\w+"
    r"|data-at=\"[^\"]+|begun=\w+|Printed [^<·]+"
)


def pages(world: World, role: str) -> dict[str, str]:
    client = world.client(role)
    where = {"/": "/"} | {page: f"/jobs/{world.job.id}/{page}" for page in PAGES}
    return {page: EACH_TIME.sub("", client.get(at).content.decode()) for page, at in where.items()}


def anew(world: World, role: str) -> dict[str, str]:
    """The pages of a process that knows nothing yet."""
    kept = services._newest.copy()
    services._newest.clear()
    cache.clear()
    try:
        return pages(world, role)
    finally:
        services._newest.update(kept)


def differing(world: World, *roles: str) -> list[str]:
    found = []
    for role in roles or ("lead",):
        kept, fresh = pages(world, role), anew(world, role)
        found += [f"{role} {page}" for page, said in kept.items() if said != fresh[page]]
    return found


@pytest.mark.parametrize("rod", ["mm", "ft-in"])
def test_every_page_says_what_it_would_say_anew(db, rod: str) -> None:
    world = make_world(rod=rod, job_file=DRAINED_PAD)
    assert differing(world) == []
    world.set_up()
    world.shoot("A1", 34)
    assert differing(world) == []
    shot = world.shoot("B2", -60)
    assert differing(world) == []
    world.record(Strike(str(uuid.uuid4()), str(shot.id)))
    assert differing(world) == []
    plate = Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5)
    world.write([MachineBrought("3b5f0f6a-0000-4000-8000-000000000001", plate)])
    world.write([Passed(str(uuid.uuid4()), "base.1", "3b5f0f6a-0000-4000-8000-000000000001", Direction.ALONG, "")])
    assert differing(world) == []
    world.shoot_all()
    world.sign("excavation")
    assert differing(world) == []
    world.shoot("A2", 80)
    assert differing(world) == []
    lead = world.client("lead")
    page = lead.get(f"/jobs/{world.job.id}/base/schools/").content.decode()
    form = re.search(r'<form method="post"[^>]*take[^>]*>.*?</form>', page, re.S)[0]
    lead.post(f"/jobs/{world.job.id}/base/schools/take/", dict(re.findall(r'name="(\w+)" value="([^"]*)"', form)))
    assert world.assessment().job.version == 2
    assert differing(world, "lead", "viewer") == []


def test_a_part_is_written_anew_where_anything_it_shows_is_another() -> None:
    template = Template("{% load kept %}{% kept part one two %}{{ one.0 }}{{ two }}{{ beside }}{% endkept %}")
    first, parts = ["a"], dict[object, object]()

    def shown(**given: object) -> str:
        return template.render(Context({"kept_parts": parts, "unit": "mm", **given}))

    assert shown(one=first, two=1, beside="x") == "a1x"
    assert shown(one=first, two=1, beside="not given, not looked at") == "a1x"
    assert [shown(one=["a"], two=1, beside="y"), shown(one=first, two=2, beside="z")] == ["a1y", "a2z"]
    assert [shown(one=first, two=True, beside="w"), shown(one=first, two=1, beside="v", unit="ft")] == [
        "aTruew",
        "a1v",
    ]
    assert Template("{% load kept %}{% kept part one %}{{ one }}{% endkept %}").render(Context({"one": 3})) == "3"


def test_no_more_parts_are_kept_than_there_is_room_for() -> None:
    template, parts = Template("{% load kept %}{% kept part n %}{{ n }}{% endkept %}"), dict[object, object]()
    said = [template.render(Context({"kept_parts": parts, "unit": "mm", "n": n})) for n in range(1000)]
    assert said == [str(n) for n in range(1000)] and len(parts) <= 300
