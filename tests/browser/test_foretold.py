"""What the page foretells while one types is what the core says once it is sent: thousands of cases, edges too."""

import json
import random
import subprocess
import uuid
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace

import pytest
from playwright.sync_api import expect

from groundwork.assess import Assessment, assess
from groundwork.entries import kinds as e
from groundwork.files import loads
from groundwork.levels import Reference, tied
from groundwork.measures import (
    FOOT,
    INCH,
    Measured,
    MeasureError,
    Unit,
    format_amount,
    format_reading,
    parse_rod,
)
from groundwork.tools import LASER, STRING, Instrument, Method
from groundwork.tools.kit import (
    OPTICAL,
)
from nivelum.jobs.templatetags.measures import standing_css
from nivelum.readings.hand import Hand
from nivelum.readings.pad import table_data
from nivelum.readings.sheet import field_sheet
from tests.conftest import DRAINED_PAD, World
from tests.walking import Crew, mm, name

ROOT = Path(__file__).parents[2]
SCRIPT = ROOT / "src/nivelum/static/nivelum/foretell.js"
SHEET = ROOT / "src/nivelum/scripts/sheet.js"


@pytest.fixture(scope="module")
def script(browser, tmp_path_factory):
    bundled = tmp_path_factory.mktemp("scripts") / "sheet.js"
    esbuild = str(ROOT / "node_modules/.bin/esbuild")
    subprocess.run([esbuild, str(SHEET), "--format=iife", "--global-name=sheets", f"--outfile={bundled}"], check=True,
                   capture_output=True)  # fmt: skip
    page = browser.new_page()
    page.set_content("<p></p>")
    for path in (SCRIPT, bundled):
        page.add_script_tag(path=str(path))
    yield page
    page.close()


def typed(metres: float, chance: random.Random) -> str:
    """A length as somebody might type it."""
    sixteenths = round(metres / INCH * 16)
    feet, left = divmod(sixteenths, 192)
    inches, part = divmod(left, 16)
    forms = (
        f"{metres * 1000:.0f}", f"{metres:.3f}", f"{metres:.4f} m", f"{metres * 1000:.1f} mm",
        f"{metres * 100:.2f} cm", f"{metres:.3f}".replace(".", ","), f"{metres / FOOT:.3f}'", f" {metres:.2f} ",
        f"{feet}' {inches} {part}/16\"", f"{feet}-{inches}", f"{feet} ft {inches}\"", f"{inches} {part}/16″",
        f"{metres / INCH:.2f}\"", f"{feet}′{inches}½", f"{feet}ft{inches}in", f"{feet} feet {inches}",
        f"{metres:.3f} metres", f"{metres * 1000:.0f} millimeters", f"{metres / FOOT:.2f}'".replace(".", ","),
        "", "wet", f"-{metres:.3f}", f"{metres:.3f} km", "13/8\"", "4' 13\"", "1,406 mm",
    )  # fmt: skip
    return chance.choice(forms)


def pad() -> tuple[Assessment, list[tuple]]:
    """A pad with stations in every state that changes what a reading comes to, and what it can be read against."""
    crew = Crew(replace(loads(DRAINED_PAD), today=None))
    level = e.SetUp(name(), "sill", mm(1300), at=(3.0, -3.0))
    row = [a.station for a in crew.now.surveys.ground.values() if a.station.name.startswith("B")]
    string = tied(name(), crew.job.design, row[0], row[-1], mm(200), mm(200), Instrument(Method.STRING))
    crew.record(level, string)
    target = {
        a: crew.now.targets.at(a, "formation", crew.now.levels.references[level.id]) for a in crew.now.surveys.ground
    }

    def read(station: str, low_mm: float, same: bool = False) -> None:
        crew.record(e.Reading(name(), station, level.id, mm(target[station] * 1000 + low_mm), same))

    read("A1", 28)
    read("A2", 60)
    read("A3", 190)
    crew.record(e.Fill(name(), "A3", "stone", 1))
    read("B1", 70)
    crew.record(e.Fill(name(), "B1", "soil", 1))
    read("B2", 60)
    crew.record(e.Fill(name(), "B2", "stone", 1))
    read("B3", 29)
    read("B3", 30, same=True)
    return crew.now, [crew.now.levels.references[level.id], crew.now.levels.references[string.id]]


TOLD = "((...given) => { const v = foretell.verdict(...given); return v && { css: v.css, says: v.says } })"
"""What the script tells, without what it draws it with."""


def test_what_is_foretold_is_what_the_core_says(script) -> None:
    chance = random.Random(8)
    assessment, references = pad()
    cases, expected, foretold_ = [], [], 0
    while len(cases) < 3000:
        unit = chance.choice(list(Unit))
        surface = chance.choice([s.key for s in assessment.surveys.levelled])
        station, same = chance.choice(list(assessment.surveys.ground)), chance.random() < 0.4
        reference = chance.choice(references)
        table = assessment.targets.foretold(station, surface, reference, same)
        if table is None:  # the string does not pass here
            continue
        judged = assessment.targets.judging(station, surface, reference, same)
        tolerance, guard = assessment.surveys.of(surface).tolerance, judged(1.0).guard
        edge = chance.choice(
            [tolerance.high - guard, tolerance.high + guard, guard - tolerance.low, -guard - tolerance.low, 0.0,
             -0.04, -0.075, -0.15, chance.uniform(-0.3, 0.2), chance.uniform(-1.1, 1.1)]
        )  # fmt: skip
        deviation = edge + chance.choice([0.0, 1e-4, -1e-4, 1e-3, -1e-3, 2e-6, -2e-6])
        text = typed(max(0.0, (deviation - table.offset) / table.factor), chance)
        try:
            told = judged(parse_rod(text, unit).metres)
            close = abs(told.deviation) < table.most
            want = {"css": standing_css(told.standing), "says": told.action.text(unit)} if close else None
        except MeasureError:
            want = None
        foretold_ += want is not None
        cases.append([table_data(table), text, str(unit)])
        expected.append(want)
    got = script.evaluate(f"(cases) => cases.map(([table, text, unit]) => {TOLD}(table, text, unit))", cases)
    wrong = [(case[1:], g, w) for case, g, w in zip(cases, got, expected, strict=True) if g != w]
    assert not wrong, (len(wrong), wrong[:5])
    assert foretold_ > 1500


def kit() -> tuple[SimpleNamespace, ...]:
    return tuple(
        SimpleNamespace(id=method.value, name=method.value, method=method.value, driver="", instrument=instrument)
        for method, instrument in ((Method.LASER, LASER), (Method.OPTICAL, OPTICAL), (Method.STRING, STRING))
    )


def standing(chance: random.Random) -> tuple[Assessment, list[tuple[Reference, Assessment, dict | None]]]:
    """The pad, and what may be read against: what stands, and levels set up since without a signal, each with the
    assessment that knows it and what the device knows of it."""
    assessment, references = pad()
    against = [(reference, assessment, None) for reference in references]
    for tool, mark in ((t, m) for t in kit()[:2] for m in assessment.levels.marks):
        backsight = chance.uniform(0.2, 2.4)
        set_up = e.SetUp(name(), mark, Measured(f"{backsight}", backsight), tool.instrument)
        since = assess(replace(assessment.job, entries=(*assessment.job.entries, set_up)))
        told = {"id": set_up.id, "tool": tool.id, "mark": mark, "backsight": backsight}
        against.append((since.levels.references[set_up.id], since, told))
    return assessment, against


def joined(script, assessment: Assessment, held: Hand, unit: Unit) -> dict:
    """The sheet as a device puts it together."""
    return script.evaluate("(sent) => sheets.joined(sent)", json.loads(field_sheet(assessment, 1, held, unit).text()))


def test_what_the_sheet_says_is_what_the_core_says(script) -> None:
    """Every station and surface, levels set up since, the same ground shot again, recorded or not."""
    chance = random.Random(26)
    assessment, against = standing(chance)
    level = assessment.logbook.anchors[against[0][0].id]
    unit, cases, expected = Unit.MILLIMETRES, [], []
    held = Hand(kit()[0], level, against[0][0], kit())
    sheet = script.evaluate(
        "(sent) => sheets.joined(sent)", json.loads(field_sheet(assessment, 1, held, unit).text())
    )
    assert [stand["id"] for stand in sheet["stands"]] == [reference.id for reference, _a, told in against if not told]
    while len(cases) < 8000:
        reference, knows, told = chance.choice(against)
        surface, station = (
            chance.choice([s.key for s in assessment.surveys.levelled]),
            chance.choice(list(assessment.surveys.ground)),
        )
        answer = assessment.surveys.of(surface).answers[station]
        target = knows.targets.at(station, surface, reference)
        if target is None:
            continue
        again = chance.random() < 0.3
        before = target + chance.uniform(-0.05, 0.05) if again and chance.random() < 0.6 else None
        if again and before is None and not answer.judgement.shots:
            continue
        judged = knows.targets.judging(station, surface, reference, again, () if before is None else (before,))
        tolerance, none = knows.surveys.of(surface).tolerance, judged(0.0)
        guard, factor = none.guard, judged(1.0).deviation - none.deviation
        edge = chance.choice(
            [tolerance.high - guard, tolerance.high + guard, guard - tolerance.low, -guard - tolerance.low, -0.04,
             -0.075, 0.0, chance.uniform(-0.2, 0.2)]
        )  # fmt: skip
        read = (edge + chance.choice([0.0, 1e-4, -1e-4, 2e-6, -2e-6, 1e-3]) - none.deviation) / factor
        text = f"{max(0.0, read) * 1000:.{chance.choice([0, 1, 3])}f} mm"
        try:
            verdict = judged(parse_rod(text, unit).metres)
        except MeasureError:
            continue
        cases.append([told, reference.id, surface, station, again, before, text])
        expected.append({"css": standing_css(verdict.standing), "says": verdict.action.text(unit)})
    got = script.evaluate(
        f"""([sheet, cases]) => cases.map(([told, id, surface, station, again, before, text]) => {{
          const from = told ? sheets.setUpOn(sheet, told) : sheet.stands.find((each) => each.id === id);
          return {TOLD}(sheets.tableOf(sheet, from, surface, station, again, before), text, sheet.unit);
        }})""",
        [sheet, cases],
    )
    wrong = [(case, g, w) for case, g, w in zip(cases, got, expected, strict=True) if g != w]
    assert not wrong, (len(wrong), wrong[:5])
    assert sum(case[0] is not None for case in cases) > 3000
    assert sum(case[4] for case in cases) > 1000


def test_the_sheets_targets_are_the_cores_in_every_rod(script) -> None:
    chance = random.Random(4)
    assessment, against = standing(chance)
    held = Hand(kit()[0], assessment.logbook.anchors[against[0][0].id], against[0][0], kit())
    for unit in Unit:
        sheet = joined(script, assessment, held, unit)
        cases = [(told, reference.id, surface.key, station) for reference, _knows, told in against
                 for surface in assessment.surveys.levelled for station in assessment.surveys.ground]  # fmt: skip
        got = script.evaluate(
            """([sheet, cases]) => cases.map(([told, id, surface, station]) => {
              const from = told ? sheets.setUpOn(sheet, told) : sheet.stands.find((each) => each.id === id);
              const target = sheets.targetOf(sheets.tableOf(sheet, from, surface, station));
              return target === null ? null : foretell.reading(target, sheet.unit);
            })""",
            [sheet, cases],
        )
        targets = [knows.targets.at(station, surface.key, reference) for reference, knows, _told in against
                   for surface in assessment.surveys.levelled for station in assessment.surveys.ground]  # fmt: skip
        assert got == [None if target is None else format_reading(target, unit) for target in targets]


def test_the_table_is_what_a_whole_assessment_comes_to() -> None:
    chance = random.Random(3)
    assessment, references = pad()
    for _ in range(60):
        station, reference = chance.choice(list(assessment.surveys.ground)), references[0]
        judged = assessment.targets.judging(station, "formation", reference)
        reading = assessment.targets.at(station, "formation", reference) + chance.uniform(-0.1, 0.1)
        entry = e.Reading(str(uuid.uuid4()), station, reference.id, Measured(f"{reading:.6f}", reading))
        after = assess(replace(assessment.job, entries=(*assessment.job.entries, entry)))
        assert after.surveys.ground[station].judgement == judged(reading)


@pytest.mark.parametrize("unit", list(Unit))
def test_amounts_are_written_as_the_core_writes_them(script, unit: Unit) -> None:
    chance = random.Random(str(unit))
    lengths = [chance.uniform(-1.5, 1.5) for _ in range(800)] + [n * INCH / 32 for n in range(200)]
    got = script.evaluate("([lengths, unit]) => lengths.map((l) => foretell.amount(l, unit))", [lengths, str(unit)])
    assert got == [format_amount(length, unit) for length in lengths]


def test_the_action_stands_under_what_one_types_before_it_is_sent(field_world, person) -> None:
    world: World = field_world()
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    target = int(page.locator("#target").inner_text())
    page.context.set_offline(True)
    page.locator("#entry").press_sequentially(str(target - 34))
    expect(page.locator("#foretold")).to_have_text("dig 34 mm")
    expect(page.locator("#foretold")).to_have_class("foretold v-dig")
    page.locator("#entry").fill(f"{target + 61}")
    expect(page.locator("#foretold")).to_have_text("over-dug 61 mm: fill with stone, compact")
    page.locator("#entry").fill("wet")
    expect(page.locator("#foretold")).to_be_empty()
    page.context.set_offline(False)
    page.locator("#entry").fill(f"{target - 34}")
    page.keyboard.press("Enter")
    expect(page.locator(".verdict")).to_contain_text("A1: dig 34 mm")
