"""Help inside: hints that one puts away, the words, the keys."""

import re
from pathlib import Path

from django.contrib.staticfiles import finders
from django.urls import reverse
from tests.conftest import World

from nivelum.people.hints import HINTS, WORDS

GLOSSARY = Path(__file__).parents[2] / "docs/glossary.md"


def test_hints_stand_on_the_pages_of_a_first_job_until_they_are_put_away(world: World) -> None:
    person, client = world.people["lead"], world.client("lead")
    where = {"yard": "/", "new-job": "/jobs/new/"} | {
        name: f"/jobs/{world.job.id}/{path}"
        for name, path in (("base", "base/"), ("set-out", "set-out/"), ("ground", "ground/"), ("lifts", "lifts/"),
                           ("sign-offs", "sign-offs/"), ("record-page", "record/"))
    }  # fmt: skip
    assert set(where) == set(HINTS)
    for path in where.values():
        assert "Got it" not in client.get(path).content.decode()
    person.hints = list(HINTS)
    person.save()
    for name, path in where.items():
        assert str(HINTS[name]).split(".")[0][:20] in client.get(path).content.decode(), name
    assert client.post("/you/hints/", {"hint": "ground"}, headers={"HX-Request": "true"}).status_code == 200
    assert "Got it" not in client.get(where["ground"]).content.decode()
    assert "Got it" in client.get(where["lifts"]).content.decode()
    assert client.post("/you/hints/", {"hint": "all"}).status_code == 302
    assert not any("Got it" in client.get(path).content.decode() for path in where.values())


def test_the_words_on_the_page_are_those_of_the_glossary_in_the_crews_own(world: World) -> None:
    known = {row.split("|")[1].strip() for row in GLOSSARY.read_text().splitlines() if row.startswith("| ")}
    known = {word for words in known for word in re.split(", ", words)}
    assert {str(word) for _title, rows in WORDS for word, _means in rows} <= known
    page = world.client("crew").get("/help/").content.decode()
    assert "how much a surface drops" in page and "<dt" in page
    world.crew.region = "en-us"
    world.crew.save()
    assert "slope" in world.client("crew").get("/help/").content.decode()


def test_the_keys_are_where_the_page_asks_for_them(world: World) -> None:
    script = Path(finders.find("nivelum/nivelum.js")).read_text()
    assert f'const KEYS = "{reverse("keys")}";' in script
    listed = world.client("crew").get(reverse("keys")).content.decode()
    assert listed.startswith('<div id="keys" popover') and "closes what hangs open" in listed
