"""What is printed: whose sheet it is and when, page by page, nothing over anything, nothing that is only pressed."""

import re
import subprocess
from pathlib import Path

import pytest

from tests.conftest import DRAINED_PAD

pytestmark = pytest.mark.browser

SHEETS = {
    "targets": "ground/targets/",
    "book": "ground/book/?by=rise&page=all",
    "strings": "set-out/strings/?height=200mm&surface=formation",
    "sign-offs": "sign-offs/?stage=excavation",
    "record": "record/",
    "links": "shares/",
}
PRESSES = ("Make the link", "PIN", "Accept it", "Back to Ground", "Save", "Rooms", "On the job now")


def words(sheet: Path) -> list[list[tuple[str, float, float, float, float]]]:
    """The words of each page with their boxes: left, top, right, bottom, points."""
    found = subprocess.run(["pdftotext", "-bbox", sheet, "-"], capture_output=True, text=True, check=True).stdout
    word = re.compile(r'<word xMin="([\d.]+)" yMin="([\d.]+)" xMax="([\d.]+)" yMax="([\d.]+)">(.*?)</word>')
    return [[(w, *map(float, box)) for *box, w in word.findall(page)] for page in found.split("<page ")[1:]]


def over(page: list[tuple[str, float, float, float, float]]) -> list[str]:
    """Words that lie on other words: letters, without the room above and below them."""
    faults = []
    for n, (one, left, top, right, bottom) in enumerate(page):
        for other, x, y, x2, y2 in page[n + 1 :]:
            down = min(bottom - 0.25 * (bottom - top), y2 - 0.25 * (y2 - y)) - max(
                top + 0.2 * (bottom - top), y + 0.2 * (y2 - y)
            )
            if min(right, x2) - max(left, x) > 1 and down > 1:
                faults.append(f"{one} over {other}")
    return faults


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_sheets_of_paper(field_world, person, tmp_path, paper: str) -> None:
    world = field_world(job_file=DRAINED_PAD.replace('"station_spacing_m": 2', '"station_spacing_m": 0.8'))
    world.shoot_all()
    page = person(world, "lead")
    for name, place in SHEETS.items():
        page.goto(f"/jobs/{world.job.id}/{place}")
        page.pdf(path=tmp_path / f"{name}.pdf", format=paper)
        pages = words(tmp_path / f"{name}.pdf")
        said = [" ".join(word[0] for word in each) for each in pages]
        assert re.search(r"Test pad.*Printed \d{1,2} \w+ \d{4}, \d\d:\d\d", said[0]), (name, said[0][:200])
        for number, (each, text) in enumerate(zip(pages, said, strict=True), start=1):
            assert f"{number} / {len(pages)}" in text, (name, number)
            assert over(each) == [], (name, number)
        whole = " ".join(said)
        assert [press for press in PRESSES if press in whole] == [], name
        if name in ("targets", "strings"):
            assert "Level set up on sill, height of instrument 11.500" in said[0]
        if name in ("targets", "book", "sign-offs"):
            head = {"targets": "Should read", "book": "Between", "sign-offs": "Verdict"}[name]
            assert len(pages) > 1 and sum(head in text for text in said) >= len(pages) - (name == "sign-offs"), name


def test_a_link_is_printed_for_the_board(field_world, person, tmp_path) -> None:
    """Only the job, whose link it is, until when, and its code, as large as a hand."""
    world = field_world()
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/shares/")
    page.get_by_label("Who gets it").fill("the neighbours")
    page.get_by_role("button", name="Make the link").click()
    page.get_by_role("heading", name="The link for the neighbours").wait_for()
    page.pdf(path=tmp_path / "board.pdf", format="A4")
    text = " ".join(word[0] for word in words(tmp_path / "board.pdf")[0])
    assert "Test pad" in text and "The link for the neighbours" in text and "Open until" in text
    assert "A link to look" not in text and "What they see" not in text
    images = subprocess.run(
        ["pdftocairo", "-svg", tmp_path / "board.pdf", "-"], capture_output=True, text=True, check=True
    )
    assert images.stdout.count("<path") > 100  # the code's squares
