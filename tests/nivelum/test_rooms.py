"""One table of rooms: every room in it opens, leads to every other, is taken along, and has its picture."""

from pathlib import Path

import pytest
from django.urls import reverse
from tests.conftest import World

from nivelum.jobs.rooms import ROOMS, Taken

pytestmark = pytest.mark.django_db
PICTURES = Path(__file__).parents[2] / "docs/screenshots"


@pytest.mark.parametrize("room", ROOMS, ids=lambda room: room.key)
def test_a_room_opens_says_where_it_is_and_leads_to_every_other(world: World, room) -> None:
    page = world.client("viewer").get(reverse(room.opens, args=[world.job.id])).content.decode()
    for other in ROOMS:
        assert reverse(other.opens, args=[world.job.id]) in page
    assert page.count(f'aria-current="page">{room.title}</a>') == 1


@pytest.mark.parametrize("room", ROOMS, ids=lambda room: room.key)
def test_a_room_is_one_of_its_own_leaves_and_has_a_picture(room) -> None:
    assert room.opens in {leaf.name for leaf in room.leaves}
    assert (PICTURES / f"{room.key}.png").exists()
    assert f"screenshots/{room.key}.png" in (PICTURES.parents[1] / "README.md").read_text(encoding="utf-8")


def test_every_leaf_opens_and_is_taken_along(world: World) -> None:
    client = world.client("lead")
    told = client.get(reverse("rooms", args=[world.job.id])).json()
    along = [*told["rooms"], *told["all"]]
    assert len(set(along)) == len(along)
    for address in along:
        assert client.get(address).status_code == 200, address
    for room in ROOMS:
        for leaf in room.leaves:
            at = reverse(leaf.name, args=[world.job.id])
            assert any(address.split("?")[0] == at for address in along), leaf.name
            if leaf.taken is not Taken.ALONG:
                assert any(address.split("?")[0] == at for address in told["rooms"]), leaf.name


def test_what_one_looks_at_goes_along_to_the_next_room(world: World) -> None:
    page = world.client("lead").get(f"/jobs/{world.job.id}/ground/?surface=base&station=A2").content.decode()
    assert f'href="/jobs/{world.job.id}/base/?at=A2"' in page
    assert f'href="/jobs/{world.job.id}/water/?surface=base"' in page
    assert f'href="/jobs/{world.job.id}/ground/?surface=base&amp;station=A2"' in page
