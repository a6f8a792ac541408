"""The Laying room: a layout tried and chosen, small pieces shared, rows taped and brought home, cuts, packs."""

import io
import uuid
from dataclasses import replace

import ezdxf
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.template.loader import render_to_string
from PIL import Image
from tests.conftest import PAD, make_world

from groundwork.files import dumps, loads
from groundwork.job import SignOff
from groundwork.measures import FOOT, Unit
from groundwork.schools import Slot
from nivelum.jobs.models import Entry
from nivelum.records.page import Signed

pytestmark = pytest.mark.django_db
LAYOUT = {
    "pattern": "herringbone", "length": "200", "width": "100", "joint": "3", "side": "0", "turned": "0",
    "over": "0.206", "ahead": "0.206", "border": "across", "corner": "turned", "seed": "1",
}  # fmt: skip


def sent(**fields) -> dict:
    return {"entry_id": str(uuid.uuid4()), **fields}


def post(world, at: str, role: str = "crew", /, **fields):
    return world.client(role).post(
        f"/jobs/{world.job.id}/laying/{at}/", sent(**fields), headers={"HX-Request": "true"}
    )  # fmt: skip


@pytest.fixture
def laid_out(world):
    """A layout chosen."""
    assert world.client("crew").post(f"/jobs/{world.job.id}/laying/chosen/", sent(**LAYOUT)).status_code == 302
    return world


def tape(world, off_mm: float = 0.0, **more):
    there = world.assessment().laying
    row, where = there.next_place
    typed = {
        "layout": there.chosen.id,
        "row": row,
        "where": where,
        "reading": f"{there.targets[row] * 1000 + off_mm:.0f}",
    }
    return row, where, post(world, "courses/tapes", **typed | more)


def page(world, at: str, role: str = "crew", **asked) -> str:
    return (
        world.client(role)
        .get(f"/jobs/{world.job.id}/{at if at.startswith(('record', 'bed')) else f'laying/{at}'}", asked)
        .content.decode()
    )


def test_a_pattern_is_proposed_tried_and_chosen(world) -> None:
    first = page(world, "")
    # Wheels go over it: herringbone first, with why.
    assert first.index("Herringbone") < first.index("Running bond") and "locks in both directions" in first
    assert "Lay it so" in first and 'id="laid"' in first and "Tape the rows" not in first
    tried = page(world, "now/", **LAYOUT | {"pattern": "running-third"})
    assert "Lay it so" in tried and not Entry.objects.filter(job=world.job, kind="layout").exists()
    answer = post(world, "chosen", **LAYOUT)
    assert answer["HX-Redirect"] == f"/jobs/{world.job.id}/laying/"
    kept = page(world, "")
    assert "Tape the rows" in kept and "Lay it so" not in kept
    assert "Lay it so" in page(world, "", **LAYOUT | {"over": "0.25"})
    assert "Lay it so" not in page(world, "", "viewer", **LAYOUT | {"over": "0.25"})
    assert world.assessment().laying.paving.border and "Herringbone, 200 mm × 100 mm" in page(world, "record/")


@pytest.mark.parametrize(("field", "typed", "says"), [
    ("length", "nine", "nine"), ("length", "9 m", "etween"), ("width", "2", "etween"), ("joint", "90", "etween"),
    ("pattern", "fishbone", ""), ("side", "44", ""), ("turned", "33", ""), ("over", "x", "x"), ("over", "44", ""),
    ("seed", "0", ""), ("length", "260", "onger than two widths"),
])  # fmt: skip
def test_what_cannot_be_laid_is_said_and_stays_typed(world, field: str, typed: str, says: str) -> None:
    wrong = LAYOUT | {field: typed}
    for answer in (
        world.client("crew").post(f"/jobs/{world.job.id}/laying/chosen/", sent(**wrong)),
        world.client("crew").get(f"/jobs/{world.job.id}/laying/", wrong),
    ):
        body = answer.content.decode()
        assert answer.status_code == 422 and says in body
        if field in ("length", "width", "joint", "over"):
            assert f'value="{typed}"' in body
    assert not Entry.objects.filter(job=world.job, kind="layout").exists()


def test_a_border_without_room_is_said_beside_it(world) -> None:
    answer = world.client("crew").get(
        f"/jobs/{world.job.id}/laying/", LAYOUT | {"pattern": "stack", "length": "3000", "width": "1500"}
    )
    assert answer.status_code == 422 and "No room is left inside such a border." in answer.content.decode()


def test_the_best_three_are_looked_for_and_compared(laid_out, monkeypatch) -> None:
    from nivelum.laying import search

    class AtOnce:
        def get(self, _whose, _of, content, work):
            return work(content())

    monkeypatch.setattr(search, "LOOKED", AtOnce())
    found = page(laid_out, "best/", **LAYOUT)
    assert found.count(">Start ") == 3
    plain = laid_out.assessment().laying.paving
    best = search.best(laid_out.assessment().site, str(laid_out.job.id), laid_out.assessment().laying.chosen).choices
    assert (best[0].slivers, best[0].cuts) <= (len(plain.slivers), len(plain.cut))
    assert f"over={best[0].over:g}" in found


def test_small_pieces_are_shared_out_with_their_neighbours(world) -> None:
    assert (
        world.client("crew")
        .post(
            f"/jobs/{world.job.id}/laying/chosen/",
            sent(**LAYOUT | {"pattern": "running-half", "border": "none", "over": "0.03", "ahead": "0"}),
        )
        .status_code
        == 302
    )
    there = world.assessment().laying
    small = [p.name for p in there.paving.slivers]
    one = page(world, "", piece=small[0])
    assert "Cut the unit beside it too: two of" in one and "Begin" in one and "Share every small piece" in one
    answer = post(world, "shares", layout=there.chosen.id, pieces=" ".join(small))
    assert answer.status_code == 200 and len(world.assessment().laying.paving.slivers) < len(small)
    for wrong in ({"layout": str(uuid.uuid4()), "pieces": small[0]}, {"layout": there.chosen.id, "pieces": "Z9.9"}):
        assert post(world, "shares", **wrong).status_code == 422


def test_rows_are_taped_and_told_how_they_come_home(laid_out) -> None:
    row, where, answer = tape(laid_out, 1)
    assert (where, answer.status_code) == ("left", 200) and "In line: go on" in answer.content.decode()
    tape(laid_out, 4)
    _row, where, answer = tape(laid_out, 12)
    body = answer.content.decode()
    assert where == "right" and "a joint over the next" in body and "on the right" in body
    assert f"row {row} is up to" in body and 'class="row-taped out"' in body and "closes with" in body
    assert laid_out.assessment().laying.next_place[0] > row
    # A tape that looks misread is asked about first, and stands where it does read that.
    row, where, answer = tape(laid_out, 500)
    assert answer.status_code == 422 and 'id="doubt"' in answer.content.decode()
    typed = answer.content.decode().split('name="sure" value="')[1].split('"')[0]
    assert tape(laid_out, 500, sure=typed)[2].status_code == 200
    assert "Row taped" in page(laid_out, "record/")


@pytest.mark.parametrize(("where", "fields", "says"), [
    ("tapes", {"row": "9999", "where": "left", "reading": "100"}, "counted from 1"),
    ("tapes", {"row": "20", "where": "aside", "reading": "100"}, ""),
    ("tapes", {"row": "20", "where": "left", "reading": "far"}, "far"),
    ("tapes", {"row": "20", "where": "left", "reading": "101 m"}, "along a tape"),
    ("module", {"tape": "700"}, "etween"), ("module", {"tape": ""}, ""),
    ("square", {"along": "3", "across": "4", "diagonal": "9"}, "no triangle"),
    ("square", {"along": "3", "across": "4", "diagonal": "0"}, "etween"),
    ("laid", {"row": "9999"}, "counted from 1"), ("laid", {"row": "3", "hours": "-2"}, ""),
])  # fmt: skip
def test_what_is_wrong_with_rows_is_said_and_nothing_is_lost(laid_out, where, fields, says) -> None:
    layout = laid_out.assessment().laying.chosen.id
    before = Entry.objects.filter(job=laid_out.job).count()
    answer = post(laid_out, f"courses/{where}", layout=layout, **fields)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert Entry.objects.filter(job=laid_out.job).count() == before
    assert post(laid_out, "courses/other", layout=layout).status_code == 404


def test_ten_units_taped_move_every_target(laid_out) -> None:
    """Ten of 103 by design, 1034 as taped: row n from the string is n × 103.4 less the joint."""
    there = laid_out.assessment().laying
    answer = post(laid_out, "courses/module", layout=there.chosen.id, tape="1034")
    assert "103.4 mm each" in answer.content.decode()
    now = laid_out.assessment().laying
    last = max(now.targets)
    assert now.targets[last] == pytest.approx((last - now.paving.first_row + 1) * 0.1034 - 0.003)


def test_what_is_laid_is_counted_and_feeds_the_bed(laid_out) -> None:
    there = laid_out.assessment().laying
    last = max(there.paving.rows)
    post(laid_out, "courses/laid", layout=there.chosen.id, row=str(last // 2), hours="4")
    now = laid_out.assessment().laying
    area = now.paving.area.area
    assert 0.3 * area < now.laid_area < 0.6 * area and now.rate == pytest.approx(now.laid_area / 4)
    assert "a person-hour here" in page(laid_out, "courses/")
    assert (
        laid_out.client("crew")
        .post(f"/jobs/{laid_out.job.id}/bed/plans/", sent(way="across", board="1", tube="25", longest="3"))
        .status_code
        == 302
    )
    body = page(laid_out, "bed/thickness/", people="2", hours="1")
    assert "as it went here" in body
    bays = laid_out.assessment().bedding.plan.bays
    assert len(now.to_lay(bays)) < len(bays)
    post(laid_out, "courses/laid", layout=there.chosen.id, row="0")
    assert laid_out.assessment().laying.laid_area == 0.0


def test_first_rows_out_of_square_are_said(laid_out) -> None:
    """3, 4 and 5.010: the corner opens by 0.24°, 10 mm and more over the breadth."""
    layout = laid_out.assessment().laying.chosen.id
    post(laid_out, "courses/square", layout=layout, along="4", across="3", diagonal="5.010")
    assert [f.rule for f in laid_out.assessment().laying.findings if f.rule == "Y07"] == ["Y07"]
    post(laid_out, "courses/square", layout=layout, along="4", across="3", diagonal="5.001")
    assert not [f for f in laid_out.assessment().laying.findings if f.rule == "Y07"]


def test_pieces_are_cut_in_walking_order_and_ticked(laid_out) -> None:
    there = laid_out.assessment().laying
    first, second, *_rest = there.cuts
    body = page(laid_out, "cuts/")
    assert f"1 of {len(there.cuts)}" in body and "Stone dust" in body and "1.4 hours a day" in body
    answer = post(laid_out, "cuts/done", layout=there.chosen.id, piece=first.piece.name)
    assert f"2 of {len(there.cuts)}" in answer.content.decode() and "done:" in answer.content.decode()
    assert second.piece.name not in laid_out.assessment().laying.done
    assert post(laid_out, "cuts/done", layout=there.chosen.id, piece="nought").status_code == 422
    assert "0.3 hours" in page(laid_out, "cuts/", vibration="12") and "0.3 hours" not in page(
        laid_out, "cuts/", vibration="x"
    )


def test_packs_are_opened_together_and_another_batch_is_said(laid_out, settings, tmp_path) -> None:
    settings.MEDIA_ROOT = tmp_path
    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "tan").save(picture, "JPEG")
    photo = SimpleUploadedFile("label.jpg", picture.getvalue(), "image/jpeg")
    at = f"/jobs/{laid_out.job.id}/laying/packs/opened/"
    assert laid_out.client("crew").post(at, sent(code="MK 1", units="400", photo=photo)).status_code == 302
    assert "at least 3 together" in page(laid_out, "packs/") and "label" in page(laid_out, "packs/")
    for _n in (1, 2):
        laid_out.client("crew").post(at, sent(code="MK 1", units="400"))
    assert "at least 3 together" not in page(laid_out, "packs/")
    laid_out.client("crew").post(at, sent(code="MK 9", units="400"))
    assert "another batch is open: MK 9" in page(laid_out, "packs/")
    other = laid_out.assessment().laying.packs.open_now[-1].id
    assert post(laid_out, "packs/emptied", pack=other).status_code in (200, 302)
    assert "another batch is open" not in page(laid_out, "packs/")
    assert post(laid_out, "packs/emptied", pack=str(uuid.uuid4())).status_code == 422
    for wrong in ({"code": "", "units": "4"}, {"code": "MK", "units": "none"}):
        assert laid_out.client("crew").post(at, sent(**wrong)).status_code == 422
    pallets = page(laid_out, "packs/", pack="12.1")
    assert "of them" in pallets


def test_the_layout_goes_along_as_sheet_drawing_and_rows(laid_out) -> None:
    at, paving = f"/jobs/{laid_out.job.id}/laying/layout", laid_out.assessment().laying.paving
    client = laid_out.client("viewer")
    drawing = ezdxf.read(io.StringIO(client.get(f"{at}.dxf").content.decode()))
    layers = [each.dxf.layer for each in drawing.modelspace()]
    assert layers.count("BORDER") == len(paving.border)
    assert layers.count("WHOLE") + layers.count("CUT") == len(paving.pieces) - len(paving.border)
    assert client.get(f"{at}.svg").content.decode().count("unit cut") >= len(paving.cut) - len(paving.slivers)
    rows = client.get(f"{at}.csv").content.decode().splitlines()
    assert len(rows) == len(paving.cut) + 1 and rows[0].startswith("number,row,how")
    assert client.get(f"{at}.png").status_code == 404


def test_a_job_file_takes_the_paving_along(laid_out) -> None:
    tape(laid_out, 3)
    before = laid_out.assessment()
    again = loads(dumps(before.job))
    assert [e for e in again.entries if e.KIND in ("layout", "course")] == [
        e for e in before.job.entries if e.KIND in ("layout", "course")
    ]


def test_feet_and_inches_lay_out_the_same(db) -> None:
    feet = make_world(rod="ft-in")
    typed = LAYOUT | {"length": "7 7/8", "width": "3 15/16", "joint": "1/8", "over": "0.675", "ahead": "0.675"}
    assert feet.client("crew").post(f"/jobs/{feet.job.id}/laying/chosen/", sent(**typed)).status_code == 302
    there = feet.assessment().laying
    assert there.chosen.over == pytest.approx(0.675 * FOOT, abs=1e-4)
    body = page(feet, "courses/")
    assert "mm" not in body.split('id="courses-taped"')[1].split("</section>")[0].replace("mm-", "")
    row, where = there.next_place
    answer = post(feet, "courses/tapes", layout=there.chosen.id, row=row, where=where, reading="6' 5 1/2\"")
    assert answer.status_code in (200, 422)


def test_a_job_without_a_layout_says_where_to_begin(world) -> None:
    for at in ("courses/", "cuts/", "packs/"):
        assert "Choose one" in page(world, at)
    assert world.client("crew").get(f"/jobs/{world.job.id}/laying/layout.pdf").status_code == 404


def test_nothing_is_laid_out_where_somebody_else_paves(db) -> None:
    job = loads(PAD)
    others = make_world(job_file=dumps(replace(job, brief=replace(job.brief, by_others=True))))
    body = page(others, "")
    assert "This crew lays no units here." in body and "Lay it so" not in body and 'id="design"' not in body
    answer = others.client("crew").post(f"/jobs/{others.job.id}/laying/chosen/", sent(**LAYOUT))
    assert answer.status_code == 422 and not Entry.objects.filter(job=others.job, kind="layout").exists()


def test_units_that_form_no_rows_are_said_to(world) -> None:
    typed = LAYOUT | {"pattern": "running-half", "turned": "45"}
    assert world.client("crew").post(f"/jobs/{world.job.id}/laying/chosen/", sent(**typed)).status_code == 302
    body = page(world, "courses/")
    assert "form no rows along the string" in body and 'id="entry"' not in body
    there = world.assessment().laying
    assert post(world, "courses/laid", layout=there.chosen.id, row="3").status_code == 200
    assert world.assessment().laying.laid_area > 0 and page(world, "cuts/")


def test_the_stage_and_the_record_say_how_the_paving_stood(laid_out) -> None:
    for off in (1, 2, 3):
        tape(laid_out, off)
    post(laid_out, "courses/laid", layout=laid_out.assessment().laying.chosen.id, row="20")
    laid_out.client("crew").post(f"/jobs/{laid_out.job.id}/laying/packs/opened/", sent(code="MK 7", units="400"))
    stage = laid_out.client("crew").get(f"/jobs/{laid_out.job.id}/sign-offs/?stage=laying").content.decode()
    there = laid_out.assessment().laying
    assert f"{there.paving.whole} units whole, {len(there.paving.cut)} cut" in stage and "MK 7 (400)" in stage
    evidence = laid_out.assessment().stages.evidence_of("laying")
    sign_off = SignOff("s", "laying", "Ines", evidence, "Ines", Slot.LEAD, (Slot.LEAD,))
    signed = Signed(laid_out.assessment().stages.of("laying"), [(sign_off, None)], "", 1)
    told = render_to_string("record/made_of.html", {"s": signed, "unit": Unit.MILLIMETRES})
    assert f"Herringbone of 200 mm × 100 mm: {there.paving.whole} whole, {len(there.paving.cut)} cut." in told
    assert "1 row taped, off its line by 3 mm at most." in told and "MK 7 (400)" in told
    assert f"{there.laid_area:.1f} m² laid." in told
