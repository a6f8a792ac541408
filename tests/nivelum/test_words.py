"""What every page says: one system of units, the words of one region, no key that only the program knows, no gap left
unfilled."""

import re
from pathlib import Path

import pytest
from django.test import Client
from django.urls import reverse
from lxml import html
from tests.places import PLACES, address, dug_world

from groundwork.base import catalogue
from groundwork.schools import schools, stagebook
from nivelum.crews.models import Region, RodUnit
from nivelum.jobs.rooms import ROOMS
from nivelum.records.page import Part
from nivelum.sharing.models import For
from nivelum.sharing.services import make_share

METRIC = re.compile(
    r"\d ?(?:[mck]?m[²³]?|kg|t|g|kPa|MPa|kN|°C|km/h|ml|l)(?![\w′’])"
    r"|\b(?:(?:milli|centi|kilo)?met(?:re|er)s?|kilograms?|tonnes?|litres?|liters?)\b"
    r"|[,(±] ?(?:mm|cm|m|kg|kN|kPa|MPa|m/s|mm/h|°C|m³|m²|l|t)(?![\w′’/²])",
    re.IGNORECASE,
)
IMPERIAL = re.compile(
    r"\d ?[″′]|\d ?(?:ft|lbs?|psi|pcf|cu yd|cu ft|sq ft|°F|gal|tons?|mph|kip)\b"
    r"|\b(?:inches|inch|feet(?! only)|yards|pounds|gallons)\b"
    r"|[,(±] ?(?:lbf?|°F|psi)\b",
    re.IGNORECASE,
)
OF_BOTH = re.compile(
    r"height meter|m/s²|cone penetrometer|4' 7 3/8\", 4\.61', 1406 mm|files are in met(?:re|er)s"
    r"|^(?:metres|meters|millimetres|millimeters|feet and tenths|feet, inches and fractions)$",
    re.IGNORECASE,
)
"""Names of tools, vibration (measured in m/s² everywhere), the choice of a rod itself, files in metres."""
BRITISH = (
    r"kerbs?|metres?|litres?|colours?|fibre|neighbours?|levell\w+|galvanised|plough\w*|grey|towards|formation"
    r"|bedding(?! sand)|sub-base|gull(?:y|ies)|thresholds?|falls?(?! weight)|falling(?! weight)"
)
AMERICAN = (
    r"curbs?|meters?|liters?|colors?|fiber|neighbors?|level(?:ing|ed)|galvanized|plows?|gray|toward|inlets?"
    r"|subbase|setting bed"
)
FOREIGN = {
    Region.BRITAIN_AND_IRELAND: AMERICAN + r"|door step|bedding layer",
    Region.NORTH_AMERICA: BRITISH + r"|door step|bedding layer",
    Region.AUSTRALIA_AND_NEW_ZEALAND: AMERICAN.replace("|subbase", "") + r"|sub-base|thresholds?",
}
"""Words of other regions: common practice, no published source."""
OF_ALL = re.compile(
    r"height meter|rise and fall|rises less falls|falls? apart|(?:light )?falling[ -]weight|Flint & Fall"
    r"|rain falls|falls on it|falls through|three fall within",
    re.IGNORECASE,
)
ISO = re.compile(r"(?<![\w-])20\d\d-[01]\d-[0-3]\d(?![\w-])")
"""A day as programs write it, which nobody says."""
HOURS = re.compile(r"\b[0-2]\d:[0-5]\d\b(?! [ap]\.m\.)")
DAY_FIRST = re.compile(r"\b[0-3]?\d (?:Jan|Feb|Mar|Apr|May|June?|July?|Aug|Sept?|Oct|Nov|Dec)[a-z]*\b")
_TOLD = " ".join(each.title for each in (*catalogue().values(), *schools().values(), *stagebook().values())).lower()
_RAW = [key for key in (*catalogue(), *schools(), *stagebook()) if re.search("[-_]", key) and key not in _TOLD]
_LIFTS = [rf"{surface}.{n}" for surface in ("base", "sub-base", "bound base") for n in (1, 2, 3)]
KEYS = re.compile(
    "|".join(rf"(?<![\w/-]){re.escape(key)}(?![\w-])" for key in (*_RAW, *_LIFTS))
    + r"|[{}]|%\(\w+\)|\bNone\b(?! yet)|\bnan\b"
)


def said(page: bytes) -> list[str]:
    """The texts of a page as one reads or hears them, each with where it stands."""
    root = html.fromstring(page)
    for each in root.xpath("//script|//style|//template|//svg//style"):
        each.drop_tree()
    texts = [
        " ".join(each.text_content().split())
        for each in root.iter()
        if (isinstance(each.tag, str) and (each.text or "").strip()) or each.tag in ("p", "li", "td", "th", "label")
    ]
    for name in ("aria-label", "title", "alt", "placeholder"):
        texts += root.xpath(f"//@{name}")
    return list(dict.fromkeys(texts))


def page_of(client, world, place: str) -> bytes:
    answer = client.get(address(world, place), follow=True)
    assert answer.status_code == 200, place
    return b"".join(answer.streaming_content) if answer.streaming else answer.content


@pytest.fixture(scope="module")
def worlds(django_db_setup, django_db_blocker):
    with django_db_blocker.unblock():
        yield {rod: dug_world(rod) for rod in RodUnit.values}


CHOOSING = {"crew", "you"}
"""Where one chooses a crew's rod and words: all of them stand there."""


PAIRS = [("m", "en-gb"), ("mm", "en-gb"), ("mm", "en-au"), ("mm", "en-us"), ("ft", "en-us"), ("ft-in", "en-us"),
         ("ft-in", "en-au")]  # fmt: skip
"""Every rod and every region, and each region in both systems: what a page says hangs on one or the other."""


@pytest.mark.parametrize(("rod", "region"), PAIRS)
def test_one_system_of_units_the_words_of_one_region_and_no_key_on_a_page(worlds, db, rod: str, region: str) -> None:
    world = worlds[rod]
    world.crew.region = region
    world.crew.save()
    client = world.client("lead")
    system = IMPERIAL if world.crew.unit.is_metric else METRIC
    words = re.compile(rf"(?<![\w-])(?:{FOREIGN[Region(region)]})(?![\w-])", re.IGNORECASE)
    found = {}
    for place in PLACES:
        texts = said(page_of(client, world, place))
        wrong = [text for text in texts if place != "you" and system.search(OF_BOTH.sub("", text))]
        plain = [OF_ALL.sub("", text) for text in texts]
        wrong += [text for text in plain if KEYS.search(text) or ISO.search(text)]
        wrong += [text for text in plain if place not in CHOOSING and words.search(text)]
        if region != Region.BRITAIN_AND_IRELAND:
            wrong += [text for text in plain if HOURS.search(text)]
        if region == Region.NORTH_AMERICA:
            wrong += [text for text in plain if DAY_FIRST.search(text)]
        if wrong:
            found[place] = [w[:200] for w in wrong]
    assert not found, "\n".join(f"{place}: {text}" for place, texts in found.items() for text in texts)


def test_every_page_of_every_room_is_walked(worlds, db) -> None:
    """A new room is in these checks, and in those that measure its screens, by being in the table of rooms."""
    world = worlds["mm"]
    paths = {address(world, place).partition("?")[0] for place in PLACES}
    leaves = {leaf.name for room in ROOMS for leaf in room.leaves if leaf.where(world.assessment())}
    missing = {name for name in leaves if reverse(name, args=[world.job.id]) not in paths}
    assert missing == set()


@pytest.mark.parametrize("region", Region.values)
def test_a_link_speaks_the_crews_words_and_units(worlds, db, region: str) -> None:
    world = worlds["ft-in" if region == Region.NORTH_AMERICA else "mm"]
    world.crew.region = region
    world.crew.save()
    _share, token = make_share(world.visit("lead"), For.CLIENT, "the office", tuple(Part), 30, None)
    shown = Client().get(f"/shared/{token}/")
    assert shown.status_code == 200
    texts = [OF_BOTH.sub("", OF_ALL.sub("", text)) for text in said(shown.content)]
    other = re.compile(rf"(?<![\w-])(?:{FOREIGN[Region(region)]})(?![\w-])", re.IGNORECASE)
    system = METRIC if region == Region.NORTH_AMERICA else IMPERIAL
    assert [text for text in texts if other.search(text) or system.search(text) or KEYS.search(text)] == []


def test_what_the_readme_and_its_guide_call_by_name_is_on_a_screen() -> None:
    """In slanted letters stand the names of presses, pages, jobs and people's own things, as the screen has them."""
    root = Path(__file__).parents[2]
    source = "".join(
        path.read_text(encoding="utf-8")
        for ending in ("html", "py", "toml", "json", "js")
        for path in (root / "src").rglob(f"*.{ending}")
    ).lower()
    named = {
        re.sub(r"\s+", " ", name)
        for page in ("README.md", "docs/use.md")
        for name in re.findall(r"(?<![*\w])\*([A-Za-z][^*]{1,60})\*(?!\*)", (root / page).read_text(encoding="utf-8"))
    }
    assert len(named) > 30
    told = {"dig 34 mm", "over-dug 61 mm: fill with stone, compact"}  # figures of the demo
    assert sorted(name for name in named - told if name.lower() not in source) == []
