"""Every screen, at a desk and on a phone: nothing spills over, nothing shuts anyone out."""

from pathlib import Path

import pytest

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parents[2] / "node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")
SIZES = {"desk": (1280, 800), "phone": (390, 844)}


@pytest.fixture(scope="module")
def dug(site: str):
    """A job with every kind of trouble in it."""
    from groundwork.entries import Fill
    from groundwork.layerwork import Direction, GaugeTest, LaboratoryTest, MachineBrought, Passed, SoftSpot
    from groundwork.measures import Measured
    from groundwork.tools import Machine, MachineKind
    from tests.conftest import DRAINED_PAD, make_world

    world = make_world(rod="ft-in", job_file=DRAINED_PAD)
    world.set_up()
    for station, high in [("A1", 34), ("A2", -60), ("A3", 19.5), ("B1", -48), ("B2", -90), ("X3", 0), ("X4", 0)]:
        world.shoot(station, high)
    world.record(Fill("6a3f9d7e-1111-4222-8333-444455556666", "B1", "soil"))
    world.shoot("B1")
    machine = MachineBrought(
        "6a3f9d7e-2222-4222-8333-444455556666", Machine("plate", MachineKind.PLATE, 90, 0.45, 0.5)
    )
    lab = LaboratoryTest("6a3f9d7e-3333-4222-8333-444455556666", "dense-graded", (0.04, 0.05, 0.06, 0.07),
                         (2050.0, 2110.0, 2130.0, 2100.0), 2.7)  # fmt: skip
    square = ((1.0, 1.0), (3.0, 1.0), (3.0, 3.0))
    spot = SoftSpot("6a3f9d7e-4444-4222-8333-444455556666", "gate", square, Measured("12", 0.3048))
    passed = Passed("6a3f9d7e-5555-4222-8333-444455556666", "base.1", machine.id, Direction.ALONG)
    gauge = GaugeTest("6a3f9d7e-6666-4222-8333-444455556666", "base.1", "T1", (2.0, 2.0), 2200.0, 0.05)
    for entry in (machine, lab, spot, passed, gauge):
        world.record(entry)
    return world


PLACES = [
    "/",
    "crew",
    "new",
    "base/",
    "base/falls/?layout=one&least=1:60&most=1:20&where=",
    "base/schools/?one=dense&other=open",
    "base/ground/",
    "base/brief/",
    "sign-offs/?stage=brief",
    "ground/",
    "ground/?station=A2",
    "ground/?pane=anew",
    "ground/?pane=sight",
    "ground/?pane=mend",
    "ground/?surface=base.1",
    "ground/book/?by=rise",
    "ground/targets/",
    "ground/surface/",
    "ground/surface/?show=falls&start=X1&end=X3",
    "ground/surface/?show=coverage",
    "ground/surface/?surface=base&show=thickness",
    "water/",
    "water/?of=mended",
    "water/?surface=base&of=designed&beside=1",
    "lifts/?lift=base.1",
    "lifts/?lift=formation",
    "lifts/spread-targets/?lift=base.1",
    "lifts/tests/?lift=base.1",
    "lifts/tests/?lift=formation",
    "lifts/ground/",
    "lifts/deliveries/",
    "set-out/",
    "set-out/services/",
    "set-out/strings/?height=200mm&surface=base",
    "set-out/square/?side_a=3&side_b=4&across=5.02",
    "tool",
    "sign-offs/",
    "sign-offs/?stage=subgrade",
    "sign-offs/?stage=laying",
    "sign-offs/?stage=handover",
    "record/",
    "shares/",
]


RULES = "axe.run(document, {resultTypes: ['violations'], rules: {'color-contrast': {enabled: %s}}})"
IN_COLOUR = "axe.run(document, {runOnly: ['color-contrast', 'link-in-text-block'], resultTypes: ['violations']})"


@pytest.mark.parametrize("half", [0, 1])
def test_axe_finds_no_serious_fault_and_nothing_spills_sideways(dug, person, half: int) -> None:
    """Colours do not change with the size: they are looked at on the desk, by day and at dusk."""
    page = person(dug, "lead", color_scheme="light")
    for place in PLACES[half::2]:
        where = {
            "/": "/",
            "new": "/jobs/new/",
            "crew": f"/crews/{dug.crew.id}/",
            "tool": f"/crews/{dug.crew.id}/tools/{dug.crew.tools.get(name='Laser').id}/",
        }.get(place, f"/jobs/{dug.job.id}/{place}")
        found = []
        for size, (width, height) in SIZES.items():
            page.set_viewport_size({"width": width, "height": height})
            if size == "desk":
                page.goto(where)
                page.evaluate(AXE)
            found += page.evaluate(RULES % str(size == "desk").lower())["violations"]
            assert page.evaluate("document.documentElement.scrollWidth") <= width, (place, size)
        page.emulate_media(color_scheme="dark")
        page.set_viewport_size(dict(zip(("width", "height"), SIZES["desk"], strict=True)))
        found += page.evaluate(IN_COLOUR)["violations"]
        page.emulate_media(color_scheme="light")
        serious = [
            (v["id"], [n["html"][:120] for n in v["nodes"]][:3])
            for v in found
            if v["impact"] in ("serious", "critical")
        ]
        assert serious == [], place


def test_axe_on_the_way_in(site: str, browser) -> None:
    page = browser.new_page(base_url=site)
    page.goto("/sign-in/")
    page.evaluate(AXE)
    found = page.evaluate("axe.run()")
    assert [v["id"] for v in found["violations"] if v["impact"] in ("serious", "critical")] == []
    page.close()


def test_the_pads_targets_are_as_large_as_a_glove(dug, person) -> None:
    page = person(dug, "crew", has_touch=True)
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{dug.job.id}/ground/?station=B3")
    for box in (
        page.locator(".keys button:visible, #pad form .press:visible, #entry").nth(n).bounding_box() for n in range(6)
    ):
        assert box["height"] >= 56


def test_a_first_view_is_light(dug, person, site: str, browser) -> None:
    page = person(dug, "crew")
    sent = 0
    session = page.context.new_cdp_session(page)
    session.send("Network.enable")
    session.send("Network.clearBrowserCache")

    def count(event) -> None:
        nonlocal sent
        sent += event["encodedDataLength"]

    session.on("Network.loadingFinished", count)
    page.goto(f"/jobs/{dug.job.id}/ground/")
    page.wait_for_load_state("networkidle")
    assert 20_000 < sent <= 200_000
    first, sent = sent, 0
    page.reload()
    page.wait_for_load_state("networkidle")
    assert sent <= 30_000 < first
