"""Anything sent to any address by anyone: nothing of it is our fault. FUZZ_REQUESTS says how many, FUZZ_SEED what."""

import os
import random
import re
import uuid
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from lxml import html
from tests.conftest import World
from tests.nivelum.test_access import ROUTES, address
from tests.nivelum.test_proving import jpeg
from tests.nivelum.test_sharing import JOB_ROUTES, READS, link

from nivelum.recording.kinds import FACES

REQUESTS = int(os.environ.get("FUZZ_REQUESTS", "400"))
SEED = int(os.environ.get("FUZZ_SEED", "18"))
FIELD = r'name="([a-z][\w-]+)"|^    (?:self\.fields\[")?([a-z]\w+)(?:"\])? = '
TEXTS = [*Path("src/nivelum/templates").rglob("*.html"), *Path("src/nivelum").rglob("forms.py")]
NAMES = sorted({
    name for path in TEXTS
    for found in re.findall(FIELD, path.read_text(), re.M)
    for name in found if name
})  # fmt: skip
POOL = [
    "", " ", "0", "1", "-1", "1.4", "1,4", "1400", "4' 7 3/8\"", "1e308", "NaN", "inf", "9" * 400, "²", "½", "yes",
    "no", "on", "A1", "X2", "side 3", "3.2 1.8", "X1; X2", "X1", "base", "base.1", "formation", "finished",
    "excavation", "brief", "lead", "engineer", "stone", "dense-graded", "concrete-sand", "laser", "along",
    "2026-11-27", "2026-11-27T08:00:00Z", "0001-01-01T00:00:00Z", "9999-12-31T23:59:59+00:00", "1:60", "1:0",
    "level", "6\n4\n6", "0 0\n6 0\n6 4\n0 4", "0 0\n" * 600, "{}", "[]", "%s{0}", "<b>",
    "'; DROP TABLE jobs_entry; --", "../../etc/passwd", "\u202e", "\ud7ff", "🧱", "a" * 5000, "drain", "building",
    "threshold", "gauge", "5 32\n5 60\n5 90\n5 120\n5 150", "dense", "rigid", "cells", "10 1900\n12 2000\n14 1950",
]  # fmt: skip


KINDS = sorted(kind for kind, face in FACES.items() if face.form)


def test_nothing_that_is_sent_anywhere_is_our_fault(world: World) -> None:
    chance = random.Random(SEED)
    world.set_up()
    world.shoot("A1")
    known = [str(entry.id) for entry in world.job.entries.all()]
    token = link(world)
    clients = [world.client(role) for role in world.people] + [Client()]
    for client in clients:
        client.raise_request_exception = False
    shown: dict[str, list[str]] = {}
    for _n in range(REQUESTS):
        name, names = chance.choice(ROUTES)
        where = address(name, names, world).replace("made-up", token)
        where = where.replace("/lifts/pass/", f"/lifts/{chance.choice(KINDS)}/")
        client = chance.choice(clients)
        pool = [*POOL, *known, str(uuid.uuid4()), str(world.people["lead"].pk), str(world.crew.id)]
        asked = {*chance.sample(NAMES, chance.randrange(0, 14)), *chance.sample(shown.get(name) or [""], 1)}
        data = {key: chance.choice(pool) for key in asked if key}
        data |= {"entry_id": str(uuid.uuid4())} if chance.random() < 0.8 else {}
        # Most of what a form of ours would send, spoilt in a place or two, goes deeper than noise.
        if chance.random() < 0.3:
            data |= {"photo": jpeg(), "area_file": SimpleUploadedFile("a.dxf", chance.randbytes(200))}
        headers = {"HX-Request": "true"} if chance.random() < 0.4 else {}
        headers |= {"Accept": "application/json"} if chance.random() < 0.2 else {}
        method = chance.choice(("get", "post", "post", "post"))
        if name == "live":
            continue
        answer = getattr(client, method)(where, data, headers=headers)
        assert answer.status_code < 500 or answer.status_code == 503, (method, where, data, headers)
        if answer.status_code in (200, 422) and not answer.streaming and "html" in answer.get("Content-Type", ""):
            found = re.findall(r'name="([\w-]+)"', answer.content.decode())
            shown.setdefault(name, []).extend(found[:60])
    for room in ("", "base/", "ground/", "lifts/", "sign-offs/", "record/", "water/", "set-out/"):
        assert world.client("lead").get(f"/jobs/{world.job.id}/{room}", follow=True).status_code == 200, room


def test_no_form_of_ours_spoilt_in_a_place_or_two_is_our_fault(world: World) -> None:
    chance = random.Random(SEED)
    world.set_up()
    world.shoot("A1")
    clients = [world.client(role) for role in ("lead", "engineer", "crew")]
    pages = [address(name, names, world) for name, names in JOB_ROUTES if name in READS]
    job, crew = f"/jobs/{world.job.id}", f"/crews/{world.crew.id}"
    pages += [f"{job}/lifts/?lift=base.1", f"{crew}/", f"{crew}/tools/new/", "/jobs/new/", f"{job}/shares/",
              f"{job}/sign-offs/?stage=laying", f"{job}/sign-offs/?stage=brief"]  # fmt: skip
    sent = 0
    for _n in range(REQUESTS // 4):
        client = chance.choice(clients)
        client.raise_request_exception = False
        page = chance.choice(pages)
        answer = client.get(page, follow=True)
        assert answer.status_code < 500, page
        if answer.streaming or "html" not in answer.get("Content-Type", ""):
            continue
        forms = [form for form in html.fromstring(answer.content.decode()).forms if form.fields]
        for form in chance.sample(forms, min(len(forms), 3)):
            data = {key: value or chance.choice(POOL) for key, value in form.form_values()}
            for key in chance.sample(
                sorted(form.fields.keys()), min(len(form.fields.keys()), chance.randrange(0, 3))
            ):
                data[key] = chance.choice(POOL)
            data |= {"entry_id": str(uuid.uuid4())} if "entry_id" in data and chance.random() < 0.9 else {}
            for upload in form.xpath(".//input[@type='file']/@name"):
                data[upload] = jpeg() if chance.random() < 0.7 else SimpleUploadedFile("a.dxf", chance.randbytes(99))
            where, how = form.get("action") or page, (form.method or "GET").lower()
            headers = {"HX-Request": "true"} if chance.random() < 0.4 else {}
            done = getattr(client, how)(where, data, headers=headers)
            assert done.status_code < 500 or done.status_code == 503, (how, where, data)
            sent += 1
    assert sent > REQUESTS // 10
    for room in ("", "base/", "ground/", "lifts/", "sign-offs/", "record/", "water/", "set-out/"):
        assert world.client("lead").get(f"/jobs/{world.job.id}/{room}", follow=True).status_code == 200, room
