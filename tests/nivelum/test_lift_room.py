"""The Lifts room: every kind of work recorded, bad input kept, two devices at once, a server killed between taps."""

import http.client
import os
import re
import signal
import socket
import subprocess
import sys
import time
import uuid
from datetime import date
from urllib.parse import urlencode

import pytest
from django.db import connection
from django.test import Client
from tests.conftest import PAD, World, make_world
from tests.nivelum.test_record import together

from groundwork.layerwork import Direction, MachineBrought, Passed, Tamped
from groundwork.tools import Machine, MachineKind
from nivelum.jobs.models import Entry

PLATE = Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5, 0.35, vibration=5.0)
PERVIOUS_PAD = (
    PAD.replace('"school": "dense"', '"school": "pervious"')
    .replace('"concrete-sand", "thickness_mm": 30', '"chip", "thickness_mm": 30')
    .replace('{"role": "base", "material": "dense-graded", "thickness_mm": 150}',
             '{"role": "bound base", "material": "pervious-concrete", "thickness_mm": 150}, '
             '{"role": "base", "material": "clean-stone-mid", "thickness_mm": 100}')
)  # fmt: skip


def bring(world: World) -> str:
    return str(world.record(MachineBrought(str(uuid.uuid4()), PLATE)).id)


def send(world: World, kind: str, /, **fields: object):
    data = {"entry_id": uuid.uuid4(), "lift": "base.1"} | fields
    return world.client("crew").post(f"/jobs/{world.job.id}/lifts/{kind}/", data)


def newest(world: World) -> Entry:
    return Entry.objects.filter(job=world.job).order_by("-number")[0]


SENT = {
    "machine": ({"name": "big plate", "kind": "plate", "mass": "330", "width": "450", "length": "400"},
                ("machine", "mass_kg"), 330),
    "spread": ({"station": "A1", "thickness": "94"}, ("thickness", "m"), 0.094),
    "moisture": ({"share": "4,5"}, ("share",), 0.045),
    "tamped": ({"side": "2"}, ("side",), 2),
    "scarified": ({"depth": "60"}, ("depth", "m"), 0.06),
    "topped_up": ({"station": "A1", "thickness": "30", "scarified": "on"}, ("scarified",), True),
    "settling": ({"station": "A1", "after_passes": "4", "before": "1400", "after": "1402"}, ("after", "m"), 1.402),
    "weather": ({"words": "drizzle"}, ("words",), "drizzle"),
    "laboratory": ({"material": "dense-graded", "gravity": "2.7", "points": "4 2050\n5 2110\n6 2130\n7 2100"},
                   ("moistures",), [0.04, 0.05, 0.06, 0.07]),
    "gauge": ({"place": "X", "at": "2 3", "wet": "2250", "moisture": "6"}, ("at_m",), [2.0, 3.0]),
    "sand": ({"place": "X", "at": "2 3", "used": "5.2", "cone": "1.6", "sand": "1400", "wet": "5.7", "moisture": "5"},
             ("used_kg",), 5.2),
    "weight": ({"place": "X", "at": "2 3", "one": "0.51", "two": "0.50", "three": "0.49"}, ("drops_m",),
               [0.00051, 0.0005, 0.00049]),
    "spike": ({"place": "X", "at": "2 3", "sank": "12"}, ("sank", "m"), 0.012),
    "cone": ({"place": "X", "at": "2 3", "log": "0 10\n5 60\n5 110"}, ("blows",), [0, 5, 10]),
    "proof_roll": ({"place": "X", "at": "2 3", "vehicle": "dumper", "rut": "8"}, ("rut", "m"), 0.008),
    "soft_spot": ({"name": "gate", "corners": "1 1\n3 2", "depth": "300"}, ("corners_m",),
                  [[1.0, 1.0], [3.0, 1.0], [3.0, 2.0], [1.0, 2.0]]),
    "fabric": ({"overlap": "300", "up_sides": "150", "with_the_flow": "on"}, ("with_the_flow",), True),
    "delivered": ({"ticket": "4711", "material": "dense-graded", "mass": "8.2"}, ("mass_kg",), 8200),
    "poured": ({"on": "2026-03-05", "volume": "6.5", "degrees": "11", "deflection": "3"}, ("volume_m3",), 6.5),
    "competent": ({"by": "M. Voss", "role": "engineer", "words": "battered"}, ("role",), "engineer"),
}  # fmt: skip


@pytest.mark.parametrize("kind", SENT)
def test_work_is_recorded_as_it_was_sent(world: World, kind: str) -> None:
    fields, path, value = SENT[kind]
    assert send(world, kind, **fields).status_code == 302
    entry = newest(world)
    body = entry.body
    for key in path:
        body = body[key]
    assert entry.kind == kind
    assert body == (pytest.approx(value) if isinstance(value, float) or kind == "weight" else value)


LAB = {"material": "dense-graded", "gravity": "2.7"}
WRONG = [
    ("machine", {"name": "p", "kind": "plate", "mass": "330", "width": "450"}, "give the plate’s length"),
    ("machine", {"name": "p", "kind": "plate", "mass": "heavy", "width": "450", "length": "400"}, "Enter a number"),
    ("spread", {"station": "Z9", "thickness": "94"}, "No station is called “Z9”"),
    ("spread", {"station": "A1", "thickness": "thick"}, "thick"),
    ("moisture", {}, "Squeeze it"),
    ("moisture", {"share": "61"}, "less than or equal to 60"),
    ("tamped", {"side": "9"}, "no such side: it has 4"),
    ("pass", {"machine": str(uuid.uuid4()), "direction": "along"}, "No machine before it"),
    ("laboratory", LAB | {"points": "4 2050\n5"}, "is not a moisture and a"),
    ("laboratory", LAB | {"points": "4 2050\n5 2060\n6 2080\n7 2100"}, "outside"),
    ("laboratory", LAB | {"points": "4 2050\n5 2060\n6 2900\n7 2100"}, "zero air"),
    ("gauge", {"place": "T9", "wet": "2250", "moisture": "6"}, "was not drawn"),
    ("gauge", {"place": "T9", "at": "there", "wet": "2250", "moisture": "6"}, "east and north"),
    ("gauge", {"place": "X", "at": "1 1", "wet": "22500", "moisture": "6"}, "less than or equal to 4000"),
    ("sand", {"place": "X", "at": "2 3", "used": "1", "cone": "1.6", "sand": "1400", "wet": "5", "moisture": "5"},
     "More sand is used"),
    ("weight", {"place": "X", "at": "2 3", "one": "0.5", "two": "", "three": "0.5"}, "required"),
    ("cone", {"place": "X", "at": "2 3", "log": "deep"}, "a log wants at least"),
    ("soft_spot", {"name": "gate", "corners": "1 1", "depth": "300"}, "Three corners"),
    ("delivered", {"ticket": "1", "material": "dense-graded", "mass": "-2"}, "greater than or equal"),
    ("competent", {"by": "", "role": "engineer", "words": "fine"}, "required"),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "fields", "says"), WRONG, ids=[f"{w[0]}-{n}" for n, w in enumerate(WRONG)])
def test_bad_input_is_named_and_nothing_typed_is_lost(world: World, kind: str, fields: dict, says: str) -> None:
    bring(world)
    before = Entry.objects.filter(job=world.job).count()
    response = send(world, kind, **fields)
    page = response.content.decode().replace("&#x27;", "’").replace("&quot;", '"')
    assert response.status_code == 422 and says in page
    shown = [
        v for k, v in fields.items() if k in ("mass", "thickness", "wet", "used", "ticket", "at", "points", "log")
    ]
    assert all(value.replace("\n", "\r\n") in page or value in page for value in shown)
    assert Entry.objects.filter(job=world.job).count() == before


def test_an_unknown_kind_of_work_is_not_there(world: World) -> None:
    assert send(world, "design").status_code == 404 and send(world, "sign_off").status_code == 404


def test_imperial_crews_type_pounds_feet_and_fahrenheit(db) -> None:
    world = make_world(rod="ft-in")
    assert send(world, "gauge", place="X", at="6 9", wet="140", moisture="6").status_code == 302
    assert newest(world).body["wet_kg_m3"] == pytest.approx(140 * 16.018463374)
    assert newest(world).body["at_m"] == pytest.approx([6 * 0.3048, 9 * 0.3048])
    send(world, "delivered", ticket="1", material="dense-graded", mass="9")
    assert newest(world).body["mass_kg"] == pytest.approx(9 * 907.18474)
    send(world, "poured", on="2026-03-05", volume="10", degrees="50", deflection="1/8")
    body = newest(world).body
    assert (body["celsius"], body["volume_m3"]) == (pytest.approx(10), pytest.approx(7.64554858))


def test_a_pass_is_undone_by_striking_it_out(world: World) -> None:
    machine = bring(world)
    send(world, "pass", machine=machine, direction="along")
    made = newest(world)
    strike = {"entry_id": uuid.uuid4(), "strikes": made.id, "kind": "pass", "lift": "base.1"}
    assert world.client("crew").post(f"/jobs/{world.job.id}/lifts/strikes/", strike).status_code == 302
    assert world.assessment().works.lifts["base.1"].coverage[0].passes == 0


def test_a_machine_of_another_job_is_brought_again(world: World) -> None:
    from groundwork.files import loads
    from nivelum.exchange.services import import_job

    bring(world)
    other = import_job(world.crew, loads(PAD), [world.people["lead"]])
    client = world.client("crew")
    page = client.get(f"/jobs/{other.id}/lifts/").content.decode()
    assert "Bring the plate" in page
    client.post(f"/jobs/{other.id}/lifts/machine/", {"entry_id": uuid.uuid4(), "again": "0"})
    assert Entry.objects.filter(job=other, kind="machine").count() == 1
    assert "Bring the plate" not in client.get(f"/jobs/{other.id}/lifts/").content.decode()


def test_the_number_of_lifts_is_chosen_before_work_begins_and_overtakes_nothing(world: World) -> None:
    light = Machine("light plate", MachineKind.PLATE, 90, 0.45, 0.5)
    world.record(MachineBrought(str(uuid.uuid4()), light))
    lead = world.client("lead")
    assert "Lay it in 3 lifts" in lead.get(f"/jobs/{world.job.id}/lifts/?lift=base.1").content.decode()
    where, three = f"/jobs/{world.job.id}/lifts/number/", {"role": "base", "number": "3"}
    assert lead.post(where, three).status_code == 302
    assert list(world.assessment().works.lifts) == ["formation", "base.1", "base.2", "base"]
    assert world.assessment().stages.of("brief").gate == "signed"
    world.record(Tamped(str(uuid.uuid4()), "base.1", 0))
    refused = lead.post(where, {"role": "base", "number": "2"})
    assert refused.status_code == 422 and "has begun" in refused.content.decode()
    assert lead.post(where, {"role": "paving", "number": "2"}).status_code == 404


def test_every_leaf_shows_a_job_with_a_pour(db) -> None:
    world = make_world(job_file=PERVIOUS_PAD, brief_signed=False)
    send(world, "poured", on=str(date.today()), volume="4", degrees="12", deflection="3")
    for leaf in ("", "tests/", "tests/?lift=formation", "ground/", "pour/", "deliveries/", "now/"):
        for role in ("crew", "viewer"):
            assert world.client(role).get(f"/jobs/{world.job.id}/lifts/{leaf}").status_code == 200
    page = world.client("crew").get(f"/jobs/{world.job.id}/lifts/pour/").content.decode()
    # 6 by 4 m with its margin is wider than 4.5 m one way at least: joints are drawn.
    assert page.count('class="joint"') >= 1
    # A week at 20 °C under its sheet, 5 040 °C·h, at 12 °C: 229.1 h from five today, six in the morning ten days on.
    assert "days of curing left: 10" in page and "Fibre in the mix" in page


LEAVES = ("?lift=base.1", "?lift=formation", "tests/?lift=base.1", "tests/?lift=formation", "ground/", "deliveries/")


def told(html: str) -> str:
    """What a page says, without its marks, scripts and hints of what may be typed."""
    html = re.sub(r"<(script|style).*?</\1>|placeholder=\"[^\"]*\"", " ", html, flags=re.DOTALL)
    return " ".join(re.sub(r"<[^>]+>", " ", html).split())


def test_a_crew_that_reads_feet_sees_no_metric_number_on_any_leaf(db) -> None:
    world = make_world(rod="ft-in")
    machine = bring(world)
    send(world, "pass", machine=machine, direction="along")
    send(world, "moisture", feel="dry")
    send(world, "gauge", place="X", at="6 9", wet="140", moisture="6")
    send(world, "soft_spot", name="gate", corners="1 1\n9 7", depth="12")
    send(world, "delivered", ticket="1", material="dense-graded", mass="9")
    for leaf in LEAVES:
        page = told(world.client("crew").get(f"/jobs/{world.job.id}/lifts/{leaf}").content.decode())
        # The catalogue names stones by their usual sizes; a spike or a rut is compared in the crew's own.
        page = page.replace("20 to 40 mm", "").replace("6 to 10 mm", "").replace("8 to 14 mm", "")
        page = page.replace("6 to 14 mm", "").replace("20 mm clean", "").replace("drop, mm", "").replace("in mm", "")
        assert not re.findall(r"\d (?:mm|m²|m³|kg|kg/m³|l|t)\b", page), leaf


def test_who_only_looks_finds_nothing_to_press(world: World) -> None:
    machine = bring(world)
    send(world, "pass", machine=machine, direction="along")
    for leaf in LEAVES:
        crew, viewer = (
            world.client(role).get(f"/jobs/{world.job.id}/lifts/{leaf}").content.decode()
            for role in ("crew", "viewer")
        )
        assert f"/jobs/{world.job.id}/lifts/" in viewer
        assert crew.count("<form") > viewer.count("<form")
        assert not re.search(r'action="[^"]*/lifts/', viewer)


def test_what_others_did_comes_without_what_is_being_typed(world: World) -> None:
    machine = bring(world)
    send(world, "pass", machine=machine, direction="across")
    news = world.client("lead").get(f"/jobs/{world.job.id}/lifts/now/?lift=base.1").content.decode()
    for part in ("ladder", "lift-plan", "lift-says", "course"):
        assert re.search(rf'id="{part}"[^>]*hx-swap-oob="true"', news), part
    assert 'name="thickness"' not in news and 'name="share"' not in news


@pytest.fixture
def shared_world(flushable, transactional_db) -> World:
    return make_world()


def test_passes_of_two_devices_at_once_are_both_there_once(shared_world: World) -> None:
    machine = bring(shared_world)
    ids = [str(uuid.uuid4()) for _ in range(4)]

    def tap(role: str, which: int):
        client = shared_world.client(role)
        way = "along" if which % 2 else "across"
        data = {"entry_id": ids[which], "lift": "base.1", "machine": machine, "direction": way}
        # Each device sends each of its taps twice, as one does whose answer was lost.
        where = f"/jobs/{shared_world.job.id}/lifts/pass/"
        return lambda: [client.post(where, data).status_code for _again in range(2)]

    taps = [tap("crew", 0), tap("lead", 1), tap("crew", 2), tap("lead", 3)]
    assert together(*taps) == [[302, 302]] * 4
    lift = shared_world.assessment().works.lifts["base.1"]
    assert (lift.coverage[0].along, lift.coverage[0].across) == (2, 2)
    kept = Entry.objects.filter(job=shared_world.job, kind="pass").values_list("id", flat=True)
    assert sorted(map(str, kept)) == sorted(ids)


class Server:
    """The application in a process of its own, on the tests' database."""

    def __init__(self) -> None:
        with socket.socket() as door:
            door.bind(("127.0.0.1", 0))
            self.port = door.getsockname()[1]
        settings = connection.settings_dict
        where = f"{settings['USER']}:{settings['PASSWORD']}@{settings['HOST']}:{settings['PORT']}"
        url = f"postgres://{where}/{settings['NAME']}"
        self.process = subprocess.Popen(
            [sys.executable, "-m", "nivelum.manage", "serve", "--port", str(self.port), "--log-level", "error"],
            env=os.environ | {"DATABASE_URL": url}, start_new_session=True,
        )  # fmt: skip
        for _try in range(300):
            with socket.socket() as knock:
                if knock.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.1)
        raise TimeoutError("the server does not answer")

    def post(self, path: str, data: dict, session: str) -> int:
        token = "t" * 32
        headers = {"Content-Type": "application/x-www-form-urlencoded", "X-CSRFToken": token,
                   "Cookie": f"sessionid={session}; csrftoken={token}"}  # fmt: skip
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=20)
        line.request("POST", path, urlencode(data), headers)
        return line.getresponse().status

    def kill(self) -> None:
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()


def test_a_lifts_record_survives_the_server_being_killed_between_two_taps(shared_world: World) -> None:
    machine = bring(shared_world)
    client: Client = shared_world.client("crew")
    session = client.cookies["sessionid"].value
    where = f"/jobs/{shared_world.job.id}/lifts/pass/"
    taps = [{"entry_id": str(uuid.uuid4()), "lift": "base.1", "machine": machine, "direction": way}
            for way in ("along", "across", "along")]  # fmt: skip
    for tap in taps:
        server = Server()
        try:
            assert server.post(where, tap, session) == 302
        finally:
            server.kill()
    # The answer to the last tap may have been lost with the server: it is sent again.
    server = Server()
    try:
        assert server.post(where, taps[-1], session) == 302
    finally:
        server.kill()
    kept = Entry.objects.filter(job=shared_world.job, kind="pass").order_by("number")
    assert [str(entry.id) for entry in kept] == [tap["entry_id"] for tap in taps]
    lift = shared_world.assessment().works.lifts["base.1"]
    assert isinstance(lift.work[0], Passed) and lift.coverage[0].along == 2
    assert lift.work[1].direction is Direction.ACROSS
