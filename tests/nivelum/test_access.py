"""Who gets where: every address in the URLconf, walked."""

import uuid

import pytest
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver, reverse
from tests.conftest import World, make_world

from nivelum.crews.models import CrewRole
from nivelum.crews.policy import MAY, Verb

OPEN = {
    "sign-in", "sign-out", "shared", "shared-pdf", "shared-dates", "shared-drawing", "shared-photo", "shared-sign",
    "shared-accept", "worker", "manifest", "signal", "first", "join", "new-password", "account_login",
    "mfa_login_webauthn", "health-live", "health-ready", "metrics",
}  # fmt: skip


def routes(patterns, inherited: frozenset = frozenset()) -> list[tuple[str, frozenset]]:
    found = []
    for pattern in patterns:
        names = inherited | set(pattern.pattern.converters)
        if isinstance(pattern, URLResolver):
            found += routes(pattern.url_patterns, names)
        elif isinstance(pattern, URLPattern):
            found.append((pattern.name, names))
    return found


ROUTES = routes(get_resolver().url_patterns)
OWNED = [(name, names) for name, names in ROUTES if names - {"token", "pk"} and "token" not in names]


def address(name: str, names: frozenset, world: World) -> str:
    known = {
        "job_id": world.job.id,
        "crew_id": world.crew.id,
        "ending": "csv",
        "kind": "pass",
        "what": "checked",
        "photo": "0" * 64,
        "tool_id": uuid.uuid4(),
        "token": "made-up",
        "number": 1,
        "pk": 1,
        "person_id": 1,
    }
    return reverse(name, kwargs={key: known[key] for key in names})


def test_the_walk_finds_the_routes() -> None:
    assert {"ground", "sign", "record", "crew", "base"} <= {name for name, _ in OWNED}


CREWS = [(name, names) for name, names in OWNED if "job_id" not in names]


@pytest.mark.parametrize(("name", "names"), CREWS, ids=[name for name, _ in CREWS])
def test_another_crews_addresses_are_not_there(world: World, name: str, names: frozenset) -> None:
    """A crew's own; those of its jobs are walked with every role in `test_sharing`."""
    stranger = make_world(name="Others").client("lead")
    for method in ("get", "post", "put", "delete"):
        response = getattr(stranger, method)(address(name, names, world))
        assert response.status_code in (404, 405), (method, response.status_code)
        assert b"Test pad" not in response.content and b"Flint" not in response.content
    statuses = {getattr(stranger, m)(address(name, names, world)).status_code for m in ("get", "post")}
    assert 404 in statuses


def test_nobody_gets_in_without_signing_in(world: World) -> None:
    for name, names in ROUTES:
        where = address(name, names, world)
        for method in ("get", "post"):
            response = getattr(Client(), method)(where)
            if name in OPEN:
                assert response.status_code in ((404, 405) if "token" in names else (200, 204, 302, 404, 405)), name
                continue
            assert response.status_code in (302, 405), name
            if response.status_code == 302:
                assert response["Location"].startswith("/sign-in/"), name


@pytest.mark.parametrize("role", CrewRole.values)
@pytest.mark.parametrize(
    ("route", "verb"),
    [("reading", Verb.MEASURE), ("set-up", Verb.MEASURE), ("fill", Verb.MEASURE), ("strike", Verb.MEASURE),
     ("strike-work", Verb.MEASURE), ("choose-lifts", Verb.DESIGN), ("lifts", Verb.SEE), ("deliveries", Verb.SEE),
     ("sign-offs", Verb.SEE), ("base-news", Verb.SEE), ("ground", Verb.SEE), ("base", Verb.SEE),
     ("record-page", Verb.SEE), ("shares", Verb.SHARE), ("look", Verb.MEASURE), ("sign", Verb.MEASURE)],
)  # fmt: skip
def test_a_role_may_do_what_the_policy_says_and_no_more(world: World, role: str, route: str, verb: Verb) -> None:
    client = world.client(role)
    where = reverse(route, args=[world.job.id])
    response = client.get(where) if verb is Verb.SEE else client.post(where, {})
    assert (response.status_code == 403) == (verb not in MAY[CrewRole(role)])


def test_an_unknown_job_is_not_there(world: World) -> None:
    assert world.client("lead").get(f"/jobs/{uuid.uuid4()}/ground/").status_code == 404


def test_the_yard_shows_only_ones_own_jobs(world: World) -> None:
    other = make_world(rod="ft")
    page = world.client("lead").get("/").content.decode()
    assert str(world.job.id) in page and str(other.job.id) not in page


def test_a_name_is_locked_out_after_a_few_wrong_passwords_and_others_are_not(world: World) -> None:
    name, other = world.people["lead"].username, world.people["crew"].username
    statuses = [Client().post("/sign-in/", {"login": name, "password": "wrong"}).status_code for _ in range(7)]
    assert statuses[0] == 200 and statuses[-1] == 429
    assert Client().post("/sign-in/", {"login": name, "password": "limestone"}).status_code == 429
    assert Client().post("/sign-in/", {"login": other, "password": "limestone"}).status_code == 302
