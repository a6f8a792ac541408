"""No text of a drawing lies on another, on a mark, or over the edge, however small the screen: over jobs at random,
and over the demo's own."""

import os
from pathlib import Path

import pytest
from django.templatetags.static import static

from groundwork.assess import Assessment, assess
from groundwork.files import loads
from groundwork.surfaces import NoSurface
from nivelum.drawing.lifts import lift_plan
from nivelum.drawing.pegs import peg_plan
from nivelum.drawing.plan import plan
from nivelum.drawing.site import SiteLayers, site_plan
from nivelum.drawing.surfaces import View, surface_plan
from nivelum.drawing.water import water_plan
from nivelum.jobs.templatetags.measures import standing_word
from tests.at_random import assessed
from tests.browser.test_screens import SIZES

pytestmark = pytest.mark.browser

DEMO = sorted((Path(__file__).parents[2] / "src/nivelum/demo/jobs").glob("*.json"))
HOW_MANY = int(os.environ.get("JOBS_AT_RANDOM", "30"))
FRAMES = "(async () => { for (let n = 0; n < 5; n++) await new Promise(requestAnimationFrame); })()"
PANES = {"desk": (690, 590), "phone": (374, 420), "small": (344, 330), "side": (520, 280), "tablet": (800, 620)}
"""px: what a drawing has of each screen."""
# Boxes of letters without the room above and below them; what a pool's number stands in is its own.
OVERLAPS = """() => {
  const shown = (e) => e.checkVisibility({ visibilityProperty: true, opacityProperty: true });
  const box = (e, up, down) => { const r = e.getBoundingClientRect(), h = r.height;
    return { l: r.left, r: r.right, t: r.top + h * up, b: r.bottom - h * down, e }; };
  const meet = (a, b) => Math.min(a.r, b.r) - Math.max(a.l, b.l) > 1 && Math.min(a.b, b.b) - Math.max(a.t, b.t) > 1;
  const own = (a, b) => a.e.parentNode === b.e.parentNode && a.e.matches(".pool-number text:not(.pool-depth)");
  return [...document.querySelectorAll("main svg")].flatMap((svg) => {
    const frame = svg.getBoundingClientRect();
    const all = (of) => [...svg.querySelectorAll(of)].filter(shown);
    const texts = all("text").filter((t) => t.textContent.trim()).map((t) => box(t, 0.2, 0.22));
    const marks = all("use, .sight, .mark-point > path, .instrument > path, .peg, .pool-number > circle")
      .map((m) => box(m, 0, 0));
    const of = svg.closest("div").dataset.of;
    const says = (a, what) => `${of}: ${a.e.textContent} (${a.e.getAttribute("class")}) ${what}`;
    return texts.flatMap((a, n) => [
      ...texts.slice(n + 1).filter((b) => meet(a, b)).map((b) => says(a, `over ${b.e.textContent}`)),
      ...marks.filter((b) => meet(a, b) && !own(a, b)).map((b) => says(a, `over ${b.e.outerHTML.slice(0, 40)}`)),
      ...(a.l < frame.left - 1 || a.r > frame.right + 1 ? [says(a, "over the edge")] : [])
        .filter(() => !svg.matches(".moves")),
    ]);
  });
}"""


def drawings(assessment: Assessment, station: str) -> dict[str, str]:
    unit, job = assessment.job.unit, assessment.job
    made = {
        "plan": plan(
            assessment, "formation", unit, station, standing_word, next(iter(assessment.levels.references), None)
        ),
        "pegs": peg_plan(assessment, unit),
        "falls": site_plan(job, unit, SiteLayers(levels=True, names=True)),
        "lifts": lift_plan(assessment, assessment.works.in_hand, unit, ""),
    }
    built = assessment.surfaces.built("formation")
    if not isinstance(built, NoSurface):
        made["levels"] = surface_plan(assessment, "formation", View.LEVELS, unit).drawing
        made["slopes"] = surface_plan(assessment, "formation", View.FALLS, unit).drawing
        made["water"] = water_plan(built, unit)
    return made


@pytest.mark.parametrize("size", SIZES)
def test_labels_keep_clear_of_each_other_and_of_marks(site, browser, size: str) -> None:
    width, height = SIZES[size]
    page = browser.new_page(viewport={"width": width, "height": height}, has_touch=size != "desk", bypass_csp=True)
    page.goto(f"{site}/sign-in/")
    page.add_script_tag(url=static("nivelum/plan.js"))
    page.evaluate("document.fonts.ready")
    wide, high = PANES[size]
    turn = list(SIZES).index(size)
    jobs = [(f"seed {seed}", assessed(seed)) for seed in range(turn, HOW_MANY, len(SIZES))]
    jobs += [(path.stem, assess(loads(path.read_text(encoding="utf-8")))) for path in DEMO]
    found = []
    for name, assessment in jobs:
        station = list(assessment.surveys.ground)[turn]
        panes = "".join(
            f'<div id="{"plan" if kind == "plan" else ""}"><div class="plan-pane" data-of="{name}, {kind}"'
            f' style="width: {wide}px; height: {high}px; position: relative">{drawing}</div></div>'
            for kind, drawing in drawings(assessment, station).items()
        )
        page.evaluate(
            "(panes) => { document.querySelector('main').innerHTML = panes;"
            " document.dispatchEvent(new Event('shown')); }", panes
        )  # fmt: skip
        page.evaluate(FRAMES)
        found += page.evaluate(OVERLAPS)
    page.close()
    assert not found, "\n".join(found)
