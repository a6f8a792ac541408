"""People: invited, given roles, helped back in, gone; nobody gets more than was given, and the log says it all."""

import json
import re
import threading
import uuid
from datetime import timedelta

import pytest
from allauth.usersessions.models import UserSession
from axes.models import AccessLog
from django.db import DatabaseError, connection, transaction
from django.test import Client
from django.utils import timezone
from tests.conftest import PASSWORD, World, make_world
from tests.nivelum.test_proving import PIN, proved, tried

from groundwork.stages import Gate
from nivelum.crews.first import first_code
from nivelum.crews.models import CrewLine, CrewRole, Membership, Person
from nivelum.crews.pins import set_pin
from nivelum.people.links import NotDone, invite, link_for_password
from nivelum.people.members import change_role, end, found_crew
from nivelum.people.models import Handed

NEW = {"name": "Brann Quarrie", "password": "sleeper-and-string"}


def people(world: World) -> str:
    return f"/crews/{world.crew.id}/people/"


def invited(world: World, role: str = "crew", label: str = "Brann") -> str:
    """The way into the crew that a lead is shown."""
    page = world.client("lead").post(people(world), {"label": label, "role": role}).content.decode()
    return re.search(r"/join/[\w-]{20,}/", page)[0]


def done(world: World, what: str, whom: str, by: str = "lead", **more):
    member = Membership.objects.get(crew=world.crew, person=world.people[whom])
    return world.client(by).post(f"{people(world)}{what}/", {"member": member.id} | more)


def deeds(world: World) -> list[str]:
    return list(world.crew.lines.order_by("id").values_list("deed", flat=True))


def test_somebody_new_joins_by_a_link_that_opens_once_and_is_kept_as_a_hash(world: World) -> None:
    way = invited(world)
    link = Handed.objects.get(crew=world.crew)
    assert link.token_hash not in way and way.split("/")[2] not in str(vars(link))
    phone = Client()
    page = phone.get(way)
    assert "Lead Person invites you as crew" in page.content.decode() and page["Referrer-Policy"] == "same-origin"
    assert "measure and record" in page.content.decode() and "sign stages" not in page.content.decode()
    answer = phone.post(way, NEW)
    assert answer.status_code == 302 and phone.get("/").status_code == 200
    person = Person.objects.get(username="brann-quarrie")
    assert person.check_password(NEW["password"]) and Membership.objects.get(person=person).role == "crew"
    assert phone.get(f"/jobs/{world.job.id}/ground/").status_code == 200
    assert Client().get(way).status_code == 410 and Client().post(way, NEW | {"name": "Else"}).status_code == 410
    assert deeds(world) == ["invited", "joined"] and CrewLine.objects.latest("id").about == "Brann Quarrie"


def test_somebody_who_is_here_already_joins_as_who_they_are(world: World) -> None:
    other = make_world(name="Others")
    way = invited(world, "viewer")
    client = other.client("crew")
    assert "Join as Crew Person" in client.get(way).content.decode()
    assert client.post(way, {}).status_code == 302
    assert Membership.objects.get(crew=world.crew, person=other.people["crew"]).role == "viewer"
    assert {"Test pad"} == set(re.findall("Test pad", client.get("/").content.decode()))
    again = client.post(invited(world), {})
    assert again.status_code == 422 and "of this crew already" in again.content.decode()


@pytest.mark.parametrize(
    ("harm", "said"),
    [({"name": ""}, "wrong"), ({"password": "short"}, "too short"), ({"password": "password123"}, "too common"),
     ({"username": "a b"}, "Letters, digits"), ({"name": "‼"}, "Type a name to sign in with")],
)  # fmt: skip
def test_what_is_typed_wrongly_is_said_and_the_link_stays_open(world: World, harm: dict, said: str) -> None:
    way = invited(world)
    answer = Client().post(way, NEW | harm)
    text = answer.content.decode()
    assert answer.status_code == 422 and said in text
    assert (NEW | harm)["name"] in text and NEW["password"] not in text
    assert Client().post(way, NEW).status_code == 302


def test_a_name_that_is_taken_is_said_whatever_its_case(world: World) -> None:
    Person.objects.create_user("Brann-Quarrie", name="Another")
    answer = Client().post(invited(world), NEW)
    assert answer.status_code == 422 and "brann-quarrie" in answer.content.decode()


def test_a_link_ends_when_it_is_taken_back_and_by_its_time(world: World) -> None:
    way, late = invited(world), invited(world, label="Late")
    link = Handed.objects.get(label="Brann")
    assert world.client("crew").post(f"{people(world)}links/", {"link": link.id}).status_code == 403
    assert make_world().client("lead").post(f"{people(world)}links/", {"link": link.id}).status_code == 404
    assert world.client("lead").post(f"{people(world)}links/", {"link": "x"}).status_code == 404
    assert world.client("lead").post(f"{people(world)}links/", {"link": link.id}).status_code == 302
    Handed.objects.filter(label="Late").update(expires_at=timezone.now() - timedelta(seconds=1))
    assert [Client().post(each, NEW).status_code for each in (way, late)] == [410, 410]
    assert not Person.objects.filter(name=NEW["name"]).exists() and deeds(world)[-1] == "taken-back"
    assert [Client().get(f"/{kind}/made-up/").status_code for kind in ("join", "password")] == [404, 404]


def test_only_a_lead_changes_people_and_only_of_their_own_crew(world: World) -> None:
    other = make_world(name="Others")
    theirs = Membership.objects.get(crew=other.crew, person=other.people["crew"])
    for role in ("crew", "engineer", "viewer"):
        assert world.client(role).post(people(world), {"label": "x", "role": "lead"}).status_code == 403
        assert done(world, "role", "crew", role, role="lead").status_code == 403
    for what in ("role", "end", "pin", "password"):
        answer = world.client("lead").post(f"{people(world)}{what}/", {"member": theirs.id, "role": "lead"})
        assert answer.status_code == 404
    assert done(world, "role", "crew", role="king").status_code == 404
    assert world.client("lead").post(f"{people(world)}end/", {"member": "²"}).status_code == 404
    assert done(world, "nothing", "crew").status_code == 404 and deeds(world) == []


def test_a_role_is_changed_and_the_last_lead_stays(world: World) -> None:
    assert done(world, "role", "crew", role="lead").status_code == 302
    assert done(world, "role", "lead", role="crew").status_code == 302
    refused = done(world, "role", "crew", by="crew", role="viewer")
    assert refused.status_code == 422 and "A crew needs a lead" in refused.content.decode()
    assert done(world, "end", "crew", by="crew").status_code == 422
    assert CrewLine.objects.filter(deed="role").first().detail == "lead, now crew"


def test_two_leads_who_end_each_other_at_once_leave_one(flushable, transactional_db) -> None:
    world = make_world()
    lead, other = (Membership.objects.get(crew=world.crew, person=world.people[r]) for r in ("lead", "crew"))
    change_role(other, CrewRole.LEAD, world.people["lead"])
    refused = []

    def ends(member: Membership, by: Person) -> None:
        try:
            end(Membership.objects.get(id=member.id), by)
        except NotDone as error:
            refused.append(str(error))
        finally:
            connection.close()

    pairs = ((other, world.people["lead"]), (lead, world.people["crew"]))
    at_once = [threading.Thread(target=ends, args=pair) for pair in pairs]
    for thread in at_once:
        thread.start()
    for thread in at_once:
        thread.join()
    assert len(refused) == 1 and world.crew.memberships.filter(role="lead").count() == 1


def test_whoever_is_ended_is_out_at_once_everywhere_and_their_name_stays(world: World) -> None:
    world.set_up()
    client = world.client("crew")
    assert client.get(f"/jobs/{world.job.id}/ground/").status_code == 200
    assert done(world, "end", "crew").status_code == 302
    assert client.get(f"/jobs/{world.job.id}/ground/").status_code == 404
    sent = client.post(f"/jobs/{world.job.id}/ground/readings/", {}, headers={"Accept": "application/json"})
    assert sent.json()["refused"] == "left"
    assert "Crew Person" in world.client("lead").get(f"/jobs/{world.job.id}/record/").content.decode()
    assert "Test pad" not in client.get("/").content.decode()


def test_one_leaves_by_oneself(world: World) -> None:
    client = world.client("crew")
    mine = Membership.objects.get(person=world.people["crew"])
    theirs = Membership.objects.get(person=world.people["viewer"])
    assert client.post("/you/crews/left/", {"member": theirs.id}).status_code == 404
    assert client.post("/you/crews/left/", {"member": mine.id}).status_code == 302
    assert client.get(people(world)).status_code == 404 and deeds(world) == ["left"]


def test_a_pin_is_taken_away_and_its_owner_sets_another(world: World) -> None:
    set_pin(world.people["engineer"], PIN)
    assert done(world, "pin", "engineer").status_code == 302
    assert not Person.objects.get(id=world.people["engineer"].id).pin
    assert tried(world, "engineer", "x", PIN) != "in" and deeds(world) == ["pin-reset"]


def test_a_forgotten_password_is_set_by_a_link_and_every_device_signed_out(world: World) -> None:
    name, old = world.people["crew"].username, Client()
    assert old.post("/sign-in/", {"login": name, "password": PASSWORD}).status_code == 302
    page = done(world, "password", "crew").content.decode()
    first = re.search(r"/password/[\w-]{20,}/", page)[0]
    way = re.search(r"/password/[\w-]{20,}/", done(world, "password", "crew").content.decode())[0]
    assert Client().get(first).status_code == 410, "a newer link ends the older"
    phone = Client()
    assert f"<strong>{name}</strong>" in phone.get(way).content.decode()
    assert phone.post(way, {"password": "1234"}).status_code == 422
    assert phone.post(way, {"password": "wheel-and-barrow"}).status_code == 302 and phone.get("/").status_code == 200
    assert old.get("/").status_code == 302 and Client().get(way).status_code == 410
    assert Client().post("/sign-in/", {"login": name, "password": PASSWORD}).status_code == 200
    assert deeds(world) == ["link", "link", "password"]


def test_no_lead_becomes_somebody_of_another_crew_by_a_link(world: World) -> None:
    other = make_world(name="Others")
    Membership.objects.create(crew=other.crew, person=world.people["engineer"], role="engineer")
    refused = done(world, "password", "engineer")
    assert refused.status_code == 422 and "of another crew besides" in refused.content.decode()
    with pytest.raises(NotDone):
        link_for_password(other.crew, other.people["lead"], world.people["engineer"])
    Membership.objects.create(crew=other.crew, person=world.people["lead"], role="lead")
    assert done(world, "password", "engineer").status_code == 200


def test_the_log_only_grows(world: World) -> None:
    invited(world)
    with connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
    for harm in ("UPDATE crews_crewline SET about = 'x'", "DELETE FROM crews_crewline", "TRUNCATE crews_crewline"):
        with pytest.raises(DatabaseError, match="only grows"), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(harm)


def test_one_changes_ones_name_words_and_password(world: World) -> None:
    client, name = Client(), world.people["lead"].username
    client.post("/sign-in/", {"login": name, "password": PASSWORD})
    other = Client()
    other.post("/sign-in/", {"login": name, "password": PASSWORD})
    assert client.post("/you/", {"name": "Lead Renamed", "language": "en-us"}).status_code == 302
    assert "Lead Renamed" in client.get("/you/").content.decode()
    assert "slope" in client.get(f"/jobs/{world.job.id}/base/falls/").content.decode().lower()
    assert client.post("/you/", {"name": "", "language": "xx"}).status_code == 422
    wrong = client.post("/you/password/", {"old": "not it", "password": "wheel-and-barrow"})
    assert wrong.status_code == 422 and "That is not your password" in wrong.content.decode()
    right = {"old": PASSWORD, "password": "wheel-and-barrow"}
    assert client.post("/you/password/", right).status_code == 302
    assert client.get("/you/").status_code == 200 and other.get("/you/").status_code == 302


def test_nobody_guesses_a_password_on_a_device_that_was_left_open(world: World) -> None:
    client = Client()
    client.post("/sign-in/", {"login": world.people["lead"].username, "password": PASSWORD})
    tried = [client.post("/you/password/", {"old": f"guess {n}", "password": "x" * 12}).status_code for n in range(7)]
    assert tried[0] == 422 and tried[-1] == 429
    assert client.post("/you/forgotten/", {"old": PASSWORD}).status_code == 429


def test_one_sees_ones_devices_and_signs_them_out(world: World) -> None:
    name = world.people["lead"].username
    phone = {"HTTP_USER_AGENT": "Mozilla/5.0 (Linux; Android 15) Mobile"}
    clients = [Client(), Client(**phone), Client(HTTP_USER_AGENT="Mozilla/5.0 (iPad)")]
    for client in clients:
        client.post("/sign-in/", {"login": name, "password": PASSWORD})
    page = clients[0].get("/you/").content.decode()
    assert all(each in page for each in ("this one", "a phone", "a tablet"))
    theirs = UserSession.objects.get(user_agent=phone["HTTP_USER_AGENT"])
    assert world.client("crew").post("/you/devices/", {"session": theirs.pk}).status_code == 404
    assert clients[0].post("/you/devices/", {"session": theirs.pk}).status_code == 302
    assert [c.get("/you/").status_code for c in clients] == [200, 302, 200]
    assert clients[0].post("/you/devices/", {"session": "others"}).status_code == 302
    assert [c.get("/you/").status_code for c in clients] == [200, 302, 302]
    assert clients[0].post("/you/devices/", {"session": "x"}).status_code == 404


def test_one_takes_ones_data_and_only_ones_own(world: World) -> None:
    world.set_up()
    data = json.loads(world.client("crew").get("/you/data.json").content)
    assert data["name"] == "Crew Person" and data["crews"] == [{"crew": world.crew.name, "role": "crew"}]
    assert {each["kind"] for each in data["recorded"]} >= {"set_up"}
    assert len(data["recorded"]) == world.people["crew"].entries.count()
    assert "Lead Person" not in json.dumps([{k: v for k, v in e.items() if k != "body"} for e in data["recorded"]])


def test_whoever_is_forgotten_leaves_a_name_and_nothing_else(world: World) -> None:
    world.set_up()
    person, client = world.people["crew"], Client()
    set_pin(person, PIN)
    client.post("/sign-in/", {"login": person.username, "password": PASSWORD})
    assert client.post("/you/forgotten/", {"old": "no"}).status_code == 422
    assert client.post("/you/forgotten/", {"old": PASSWORD}).status_code == 302
    left = Person.objects.get(id=person.id)
    assert (left.name, left.pin, left.is_active, left.email) == ("Crew Person", "", False, "")
    assert person.username not in str(vars(left)) and not left.memberships.exists() and not left.has_usable_password()
    assert not AccessLog.objects.filter(username=person.username).exists()
    assert not UserSession.objects.filter(user=left).exists() and client.get("/you/").status_code == 302
    viewer = world.people["viewer"]
    assert world.client("viewer").post("/you/forgotten/", {"old": PASSWORD}).status_code == 302
    assert not Person.objects.filter(id=viewer.id).exists(), "nothing stands under that name"
    alone = world.client("lead").post("/you/forgotten/", {"old": PASSWORD})
    assert alone.status_code == 422 and "A crew needs a lead" in alone.content.decode()


def test_the_first_of_a_server_comes_in_by_the_code_alone(db, monkeypatch) -> None:
    monkeypatch.setattr("nivelum.people.views.joining.is_empty", lambda: True)
    sent = {"code": "aaaa-bbbb-cccc-dddd", "crew-name": "Sand & Setting", "crew-rod": "mm", "crew-region": "en-gb",
            "crew-time_zone": "Europe/Dublin", **NEW}  # fmt: skip
    assert Client().get("/sign-in/")["Location"] == "/first/"
    wrong = Client().post("/first/", sent)
    assert wrong.status_code == 422 and "That is not the code" in wrong.content.decode()
    assert "Sand &amp; Setting" in wrong.content.decode() and not Person.objects.filter(name=NEW["name"]).exists()
    client = Client()
    assert client.post("/first/", sent | {"code": first_code().upper().replace("-", " ")}).status_code == 302
    lead = Membership.objects.get(crew__name="Sand & Setting")
    assert (lead.role, lead.person.name, lead.crew.time_zone) == ("lead", NEW["name"], "Europe/Dublin")
    assert client.get("/").status_code == 200


def test_one_goes_on_where_one_wanted_to_once_signed_in(world: World) -> None:
    way = invited(world)
    where = f"/sign-in/?next={way}"
    assert f'name="next" value="{way}"' in Client().get(where).content.decode()
    other = make_world(name="Others").people["crew"].username
    sent = {"login": other, "password": PASSWORD, "next": way}
    assert Client().post("/sign-in/", sent)["Location"] == way
    assert Client().post("/sign-in/", sent | {"next": "https://else.example/"})["Location"] == "/"


def test_a_lead_founds_another_crew_and_a_crew_member_does_not(world: World) -> None:
    data = {"name": "Second", "rod": "ft", "region": "en-us", "time_zone": "America/Chicago"}
    assert world.client("crew").post("/you/crews/new/", data).status_code == 404
    wrong = world.client("lead").post("/you/crews/new/", data | {"time_zone": "Chicago"})
    assert wrong.status_code == 422 and "Europe/London" in wrong.content.decode()
    assert world.client("lead").post("/you/crews/new/", data).status_code == 302
    page = world.client("lead").get("/jobs/new/").content.decode()
    assert "Second" in page and "Flint &amp; Fall" in page


def test_a_crew_tells_the_time_by_the_clock_on_its_sites(world: World) -> None:
    """Kiritimati is 14 hours before Greenwich, by the tz database (Etc/GMT-14): never the same hour."""
    world.set_up()
    at = world.job.entries.last().at
    for zone, hours in (("Pacific/Kiritimati", 14), ("UTC", 0)):
        world.crew.time_zone = zone
        world.crew.save()
        page = world.client("lead").get(f"/jobs/{world.job.id}/record/").content.decode()
        assert f"<time>{at + timedelta(hours=hours):%H:%M}</time>" in page


def test_a_lead_alone_accepts_that_nobody_else_looked(flushable, transactional_db) -> None:
    world = make_world()
    proved(world)
    world.sign("base-proof")
    where = f"/jobs/{world.job.id}/sign-offs/?stage=base-proof"
    finding = "G11: nobody but the lead looked at it"
    sent = {"stage": "base-proof", "finding": finding, "reason": "two of us, one is ill"}

    def accept():
        way = f"/jobs/{world.job.id}/sign-offs/accept/"
        return world.client("lead").post(way, sent | {"entry_id": str(uuid.uuid4())})

    assert "or say that nobody did" not in world.client("lead").get(where).content.decode()
    assert accept().status_code in (409, 422), "somebody else can look"
    for role in ("crew", "engineer"):
        assert done(world, "end", role).status_code == 302
    assert "or say that nobody did" in world.client("lead").get(where).content.decode()
    assert accept().status_code == 302
    answer = world.assessment().stages.of("base-proof")
    assert answer.gate is Gate.SIGNED_ACCEPTED and answer.awaits == ()
    page = world.client("lead").get(f"/jobs/{world.job.id}/record/").content.decode()
    assert "two of us, one is ill" in page and "nobody but the lead looked" in page
    withdrawn = world.client("lead").post(
        f"/jobs/{world.job.id}/sign-offs/take-back/",
        {"stage": "base-proof", "withdraws": answer.acceptances[0].id, "reason": "she is back",
         "entry_id": "00000000-0000-4000-8000-000000000001"},
    )  # fmt: skip
    assert withdrawn.status_code == 302
    assert [str(each) for each in world.assessment().stages.of("base-proof").awaits] == ["second look"]


def test_more_invitations_than_anybody_needs_are_not_made(world: World) -> None:
    for n in range(50):
        invite(world.crew, world.people["lead"], CrewRole.CREW, f"n{n}")
    answer = world.client("lead").post(people(world), {"label": "one more", "role": "crew"})
    assert answer.status_code == 422 and "one more" in answer.content.decode()


def test_the_page_of_the_first_is_not_there_once_somebody_is(world: World) -> None:
    assert Client().get("/first/").status_code == 404
    assert Client().post("/first/", {"code": first_code()}).status_code == 404
    assert found_crew("x", world.people["lead"]).lines.get().deed == "founded"
