"""Heavy work: bounded in time, memory and number, away from everyone else; files that are small and mean too much."""

import io
import math
import os
import re
import time
from concurrent.futures import wait

import ezdxf
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from tests.conftest import World, made
from tests.nivelum.test_bases import start, started
from tests.nivelum.test_instruments import url
from tests.nivelum.test_outlines import polygon

from groundwork.measures import Unit
from nivelum.exchange.files import UnreadableFile
from nivelum.exchange.outlines import read_outline
from nivelum.workshop.bench import Bench, Busy, TooMuch
from nivelum.workshop.shelf import InTheMaking, Shelf


def sleeps(seconds: float) -> str:
    time.sleep(seconds)
    return "awake"


def eats(size: int) -> int:
    return len(bytearray(size))


def dies() -> None:
    os._exit(9)


def goes_wrong() -> None:
    raise ValueError("nothing in it")


def letters(text: str) -> bytes:
    time.sleep(3)
    return text.encode()


@pytest.fixture(scope="module")
def bench():
    made_ = Bench(processes=1, seconds=8, line=2)
    assert made_.begin(sleeps, 0).result() == "awake"  # its process is there
    yield made_
    made_.close()


def test_work_that_takes_too_long_too_much_or_dies_is_said_and_the_next_goes_on(bench: Bench) -> None:
    for work, given in ((sleeps, 60), (eats, 3_000_000_000), (dies, None)):
        with pytest.raises(TooMuch):
            bench.done(work, *([] if given is None else [given]))
        assert bench.done(eats, 1000) == 1000
    with pytest.raises(ValueError, match="nothing in it"):
        bench.done(goes_wrong)


def test_there_is_a_line_before_a_bench_and_it_ends(bench: Bench) -> None:
    futures = [bench.begin(sleeps, 0.5) for _n in range(3)]
    with pytest.raises(Busy):
        bench.begin(sleeps, 0)
    wait(futures)
    assert bench.done(sleeps, 0) == "awake"


def test_what_is_asked_for_twice_is_made_once_and_kept(bench: Bench, settings, tmp_path) -> None:
    settings.VAR = tmp_path
    shelf, asked = Shelf(bench), []

    def content() -> str:
        asked.append(1)
        return "page"

    first = shelf.get("ours", "a", content, letters)
    assert isinstance(first, InTheMaking) and first.before == 0
    second = shelf.get("ours", "b", lambda: "other", letters)
    assert isinstance(second, InTheMaking) and second.before == 1
    ends = time.monotonic() + 240
    while isinstance(found := shelf.get("ours", "a", content, letters), InTheMaking) and time.monotonic() < ends:
        time.sleep(0.05)  # who makes it gives way to everybody
    assert found == b"page" and len(asked) == 1
    assert Shelf(bench).get("ours", "a", content, letters) == b"page" and len(asked) == 1  # in another process too
    # By its name alone nobody comes by what is somebody else's.
    assert shelf.again("theirs", first.name) is None and shelf.again("ours", "0" * 64) is None
    assert shelf.again("ours", first.name) == b"page"


def dxf(*vertices: tuple[float, float, float]) -> bytes:
    """A drawing in metres with one closed polyline, of vertices with their bulges: the tangent of a quarter of the
    angle of the arc to the next."""
    drawing = ezdxf.new("R2010", units=ezdxf.units.M)
    drawing.modelspace().add_lwpolyline(vertices, format="xyb", close=True)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


MEAN = {
    "an arc of enormous radius": dxf((0, 0, 1e12), (10, 0, 0), (10, 10, 0)),
    "an arc that is nearly straight": dxf((0, 0, 1e-12), (1e9, 0, 0), (1e9, 1e9, 0)),
    "a bulge without end": dxf((0, 0, 1e308), (10, 0, 0), (10, 10, 0)),
    "places without end": dxf((0, 0, 1), (1e308, 0, 1), (-1e308, 1e308, 1)),
    "places that are no numbers": dxf((float("nan"), 0, 1), (10, 0, 1), (float("inf"), 10, 1)),
    "as large as any site": dxf((0, 0, 1), (9e6, 0, 1), (9e6, 9e6, 1)),
    "many arcs": dxf(*((float(n), float(n % 7), 5.0) for n in range(1500))),
    "a fold in itself": dxf(*((0.0, 0.0, 1.0) for _n in range(3000))),
}


@pytest.mark.parametrize("what", MEAN)
def test_a_small_drawing_that_means_too_much_is_refused_at_once(what: str) -> None:
    began = time.process_time()
    with pytest.raises(UnreadableFile):
        read_outline("a.dxf", MEAN[what], Unit.METRES)
    # Reading itself takes about a second for the longest; seventeen gigabytes of chords took minutes.
    assert time.process_time() - began < 20


def test_an_honest_arc_is_read_as_before() -> None:
    # A half circle of radius 5 over a base line of 10: kept as what it is.
    found = read_outline("a.dxf", dxf((10, 0, 1), (0, 0, 0)), Unit.METRES)
    assert found.ring.area == pytest.approx(12.5 * math.pi) and len(found.ring.corners) == 2


def test_a_file_that_comes_in_is_read_in_the_workshop_and_refused_in_the_crews_words(world: World) -> None:
    outline = SimpleUploadedFile("area.geojson", polygon([[0, 0], [6, 0], [6, 4], [0, 4]]), "application/geo+json")
    assert start(world, area_file=outline, **{"side-0-along": "free edge"}).status_code in (200, 302)
    answer = start(world, area_file=SimpleUploadedFile("area.dxf", MEAN["an arc of enormous radius"]))
    assert "further out than any site" in answer.content.decode()
    assert not started(world) or started(world)


def test_a_workshop_that_is_full_says_when_to_come_again(world: World, monkeypatch) -> None:
    def full(*_given) -> None:
        raise Busy

    monkeypatch.setattr("nivelum.jobs.photos.QUICK.done", full)
    client = world.client("crew")
    client.raise_request_exception = False
    out = io.BytesIO()
    Image.new("RGB", (20, 20)).save(out, "JPEG")
    photo = SimpleUploadedFile("a.jpg", out.getvalue(), "image/jpeg")
    sent = {"entry_id": "5b7a0f0c-5d0e-4f6b-9f0a-111111111111", "stage": "excavation", "caption": "x", "photo": photo}
    answer = client.post(url(world, "sign-offs/photos/"), sent)
    assert answer.status_code == 503 and answer["Retry-After"]


def test_a_pdf_is_made_while_the_page_says_so_and_handed_over_once_it_is(world: World, monkeypatch) -> None:
    client, where = world.client("viewer"), url(world, "record.pdf")
    monkeypatch.setattr("nivelum.workshop.shelf.AT_ONCE", 0.0)
    first = client.get(where)
    assert first.status_code == 202 and first["Retry-After"] and "is being made" in first.content.decode()
    assert made(client, where).content.startswith(b"%PDF")
    ready = client.get(where, headers={"HX-Request": "true"})
    assert ready.status_code == 200 and where in ready["HX-Trigger"] and "Save the PDF" in ready.content.decode()
    world.set_up()
    # Of another record another PDF; whoever waits for it gets it, whatever is added meanwhile.
    second = client.get(where)
    begun = re.search(r"\?begun=(\w{64})", second.content.decode())[1]
    world.shoot("A1")
    assert second.status_code == 202 and made(client, f"{where}?begun={begun}").content.startswith(b"%PDF")
    assert client.get(f"{where}?begun={'0' * 64}").status_code == 202  # of a name nobody gave, the record as it is
