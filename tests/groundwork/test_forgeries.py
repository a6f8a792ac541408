"""What `verify` must not take for a record, made from a real one that an earlier version exported."""

import copy
import io
import json
import warnings
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest

from groundwork.cli import main
from groundwork.files import read_exported
from groundwork.record import FIRST, entry_hash

KEPT = Path(__file__).parents[1] / "kept/record-2026-11.zip"
OTHER = "11111111-1111-4111-8111-111111111111"


def record() -> dict:
    with zipfile.ZipFile(KEPT) as archive:
        return json.loads(archive.read("record.json"))


def members() -> dict[str, bytes]:
    with zipfile.ZipFile(KEPT) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def text(data: object) -> bytes:
    return json.dumps(data, ensure_ascii=False).encode()


def zipped(content: list[tuple[str, bytes]], how: int = zipfile.ZIP_STORED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", how) as archive:
        for name, data in content:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")  # a name twice is what some of these are about
                archive.writestr(name, data)
    return out.getvalue()


def forged(change: Callable[[dict], None]) -> bytes:
    """The record changed, and its chain and head made right again: what somebody with the database could write."""
    data = record()
    change(data)
    previous = FIRST
    for number, entry in enumerate(data["entries"], start=1):
        entry |= {"number": number, "previous": previous}
        entry["hash"] = previous = entry_hash(entry)
    data["head"] = previous
    return text(data)


def changed(change: Callable[[dict], object]) -> bytes:
    data = record()
    change(data)
    return text(data)


def one_id(data: dict) -> None:
    for entry in data["entries"]:
        entry["id"] = data["entries"][0]["id"]


def backwards(data: dict) -> None:
    data["entries"][3]["at"] = "2020-01-01T00:00:00+00:00"


def photo() -> str:
    return next(name for name in members() if name.startswith("photos/"))


RECORD_TEXT = text(record())
JPEG = members()[photo()]
FORGERIES: dict[str, Callable[[], bytes]] = {
    "the photo's true bytes under another folder": lambda: zipped([("record.json", RECORD_TEXT),
                                                                   (photo().replace("photos", "pictures"), JPEG)]),
    "the photo a folder deeper": lambda: zipped([("record.json", RECORD_TEXT), (f"photos/{photo()}", JPEG)]),
    "the photo with another ending": lambda: zipped([("record.json", RECORD_TEXT), (photo()[:-4] + ".png", JPEG)]),
    "the photo under a name in capitals": lambda: zipped([("record.json", RECORD_TEXT), (photo().upper(), JPEG)]),
    "two records in a zip": lambda: zipped([("record.json", RECORD_TEXT), ("record.json", b"{}"), (photo(), JPEG)]),
    "two photos of one name": lambda: zipped([("record.json", RECORD_TEXT), (photo(), b"no"), (photo(), JPEG)]),
    "a photo nobody names": lambda: zipped([("record.json", RECORD_TEXT), (photo(), JPEG),
                                            (f"photos/{'a' * 64}.jpg", JPEG)]),
    "a photo is missing": lambda: zipped([("record.json", RECORD_TEXT)]),
    "another picture in a photo's place": lambda: zipped([("record.json", RECORD_TEXT), (photo(), JPEG[:-1])]),
    "something else in the zip": lambda: zipped([("record.json", RECORD_TEXT), (photo(), JPEG), ("note", b"hello")]),
    "a folder in the zip": lambda: zipped([("record.json", RECORD_TEXT), ("photos/", b""), (photo(), JPEG)]),
    "a zip behind forged JSON": lambda: b'{"a": 1}' + KEPT.read_bytes(),
    "forged JSON behind a zip": lambda: KEPT.read_bytes() + b'{"a": 1}',
    "JSON between the members of a zip": lambda: _between(),
    "a zip with a comment": lambda: _commented(),
    "a zip spoilt where it is pressed": lambda: _spoilt(),
    "a zip cut short": lambda: KEPT.read_bytes()[:-30],
    "a zip in a zip": lambda: zipped([("record.json", KEPT.read_bytes()), (photo(), JPEG)]),
    "no record in the zip": lambda: zipped([(photo(), JPEG)]),
    "a record in a folder": lambda: zipped([("old/record.json", RECORD_TEXT), (photo(), JPEG)]),
    "two keys of one name": lambda: RECORD_TEXT.replace(b'"head":', b'"head": "x", "head":', 1),
    "two keys of one name in an entry": lambda: RECORD_TEXT.replace(b'"kind":', b'"kind": "reading", "kind":', 1),
    "two keys of one name in a body": lambda: RECORD_TEXT.replace(b'"name": ', b'"name": "no", "name": ', 3),
    "more after the JSON": lambda: RECORD_TEXT + b"{}",
    "a byte order mark": lambda: b"\xef\xbb\xbf" + RECORD_TEXT,
    "another encoding": lambda: RECORD_TEXT.decode().encode("utf-16"),
    "not a number": lambda: RECORD_TEXT.replace(b'"number": 1,', b'"number": NaN,', 1),
    "half a surrogate pair": lambda: RECORD_TEXT.replace(b'"name": "', b'"name": "\\ud800', 1),
    "another job's header": lambda: changed(lambda d: d["job"].update(id=OTHER)),
    "another name in the header": lambda: changed(lambda d: d["job"].update(name="The other drive")),
    "no header": lambda: changed(lambda d: d.pop("job")),
    "more in the header": lambda: changed(lambda d: d["job"].update(site="elsewhere")),
    "more beside the entries": lambda: changed(lambda d: d.update(note="all good")),
    "more in an entry": lambda: forged(lambda d: d["entries"][4].update(checked=True)),
    "an unknown format": lambda: changed(lambda d: d.update(format="nivelum-record/2")),
    "no format": lambda: changed(lambda d: d.pop("format")),
    "no head": lambda: changed(lambda d: d.pop("head")),
    "another head": lambda: changed(lambda d: d.update(head="0" * 64)),
    "a head in capitals": lambda: changed(lambda d: d.update(head=d["head"].upper())),
    "entries of another job": lambda: forged(lambda d: d["entries"][5].update(job=OTHER)),
    "all entries of another job": lambda: forged(lambda d: [e.update(job=OTHER) for e in d["entries"]]),
    "one identifier for all": lambda: forged(one_id),
    "times running backwards": lambda: forged(backwards),
    "a time that is none": lambda: forged(lambda d: d["entries"][3].update(at="yesterday")),
    "a time without a zone": lambda: forged(lambda d: d["entries"][3].update(at="2026-11-27T08:00:00")),
    "a time of the device that is none": lambda: forged(lambda d: d["entries"][3].update(device_at=7)),
    "an unknown kind": lambda: forged(lambda d: d["entries"][3].update(kind="blessing")),
    "no design first": lambda: forged(lambda d: d["entries"].pop(0)),
    "a true number": lambda: changed(lambda d: d["entries"][0].update(number=True)),
    "a body that is a list": lambda: forged(lambda d: d["entries"][3].update(body=[])),
    "nobody made it": lambda: forged(lambda d: d["entries"][3].update(by=None)),
    "a photo by no hash": lambda: forged(lambda d: d["entries"][3]["body"].update(photo="../../etc/passwd")),
    "no entries": lambda: changed(lambda d: d.update(entries=[])),
    "entries by name": lambda: changed(lambda d: d.update(entries={"1": d["entries"][0]})),
    "an entry left out": lambda: changed(lambda d: d["entries"].pop(6)),
    "two entries swapped": lambda: changed(lambda d: d["entries"].insert(3, d["entries"].pop(5))),
    "an entry twice": lambda: changed(lambda d: d["entries"].append(copy.deepcopy(d["entries"][-1]))),
    "a value changed": lambda: changed(lambda d: d["entries"][2]["body"].update(same_ground=True, x=1)),
    "nothing at all": lambda: b"",
    "only a list": lambda: b"[]",
    "only brackets": lambda: b"[" * 100_000,
    "a number of 5 000 figures": lambda: RECORD_TEXT.replace(b'"number": 1,', b'"number": ' + b"1" * 5000 + b",", 1),
}  # fmt: skip


def _between() -> bytes:
    parts = list(members().items())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(*parts[0])
        archive.fp.write(b'{"entries": []}')  # type: ignore[union-attr]
        archive.start_dir = archive.fp.tell()  # type: ignore[union-attr]
        archive.writestr(*parts[1])
    return out.getvalue()


def _spoilt() -> bytes:
    whole = bytearray(zipped(list(members().items()), zipfile.ZIP_DEFLATED))
    whole[60:90] = bytes(30)
    return bytes(whole)


def _commented() -> bytes:
    out = io.BytesIO(KEPT.read_bytes())
    with zipfile.ZipFile(out, "a") as archive:
        archive.comment = b'{"entries": []}'
    return out.getvalue()


def code(tmp_path: Path, data: bytes, *more: str) -> int:
    file = tmp_path / "given"
    file.write_bytes(data)
    return main(["verify", str(file), *more])


def test_there_are_at_least_forty() -> None:
    assert len(FORGERIES) >= 40


@pytest.mark.parametrize("what", FORGERIES)
def test_no_forgery_verifies_with_or_without_its_head(what: str, tmp_path: Path, capsys) -> None:
    data = FORGERIES[what]()
    assert code(tmp_path, data) in (1, 2), what
    head = record()["head"]
    assert code(tmp_path, data, "--head", head) in (1, 2)
    said = capsys.readouterr()
    assert "Traceback" not in said.err and (said.out or said.err)


def test_what_an_earlier_version_exported_still_verifies(tmp_path: Path, capsys) -> None:
    data = record()
    last = data["entries"][-1]
    assert (
        code(tmp_path, KEPT.read_bytes(), "--head", f"nivelum-head/1 {last['job']} {last['number']} {last['hash']}")
        == 0
    )
    assert "1 photos right, crew not proven, through 1 published heads" in capsys.readouterr().out
    assert code(tmp_path, RECORD_TEXT) == 0
    assert read_exported(KEPT.read_bytes()).entries == tuple(data["entries"])
    # A bundle pressed as this version writes it.
    assert code(tmp_path, zipped(list(members().items()), zipfile.ZIP_DEFLATED)) == 0


def test_a_page_of_heads_holds_a_record_to_its_own(tmp_path: Path, capsys) -> None:
    data = record()
    fifth, page = data["entries"][4], tmp_path / "heads.txt"
    page.write_text(f"Heads, 27 November\n\nnivelum-head/1 {OTHER} 3 {'a' * 64}\n"
                    f"nivelum-head/1 {fifth['job']} 5 {fifth['hash']}\n", encoding="utf-8")  # fmt: skip
    assert code(tmp_path, RECORD_TEXT, "--heads", str(page)) == 0
    assert "through 1 published heads" in capsys.readouterr().out
    rewritten = forged(lambda d: d["entries"][3]["body"].update(note="another"))
    assert code(tmp_path, rewritten) == 0  # a tail written anew is a chain like any other
    assert code(tmp_path, rewritten, "--heads", str(page)) == 1
    assert "entry 5 is not what was published" in capsys.readouterr().out


def founded(data: dict) -> None:
    data["entries"][0]["body"]["founded"] = {"crew": data["job"]["crew"]}


def test_a_record_that_names_its_crew_is_held_to_it(tmp_path: Path, capsys) -> None:
    assert code(tmp_path, forged(founded)) == 0
    assert "not proven" not in capsys.readouterr().out

    def renamed(data: dict) -> None:
        founded(data)
        data["job"]["crew"] = "Another crew"

    assert code(tmp_path, forged(renamed)) == 1
    assert "was written for the crew" in capsys.readouterr().out
