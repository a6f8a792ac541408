"""The open job file and the command line."""

import json
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest

from groundwork.assess import assess
from groundwork.cli import EXAMPLE, main
from groundwork.jobfile import JobFileError, dumps, loads, schema
from groundwork.measure import Unit
from groundwork.record import FIRST, entry_hash

TEXT = EXAMPLE.read_text(encoding="utf-8")
DEMO = sorted((Path(__file__).parents[2] / "src/nivelum/demo/jobs").glob("*.json"))


@pytest.mark.parametrize("file", [EXAMPLE, *DEMO], ids=lambda f: f.stem)
def test_a_job_file_written_back_is_the_same_job(file: Path) -> None:
    job = loads(file.read_text(encoding="utf-8"))
    again = loads(dumps(job))
    assert dumps(again) == dumps(job)
    assert assess(again).evidence_of("excavation") == assess(job).evidence_of("excavation")


def test_a_bare_number_typed_for_another_rod_is_written_with_its_unit() -> None:
    data = json.loads(DEMO[0].read_text()) | {"units": "mm"}
    data["entries"] = [{"kind": "set_up", "id": "s", "mark": data["marks"][0]["name"], "backsight": "1300"}]
    job = loads(json.dumps(data))
    exported = loads(dumps(replace(job, unit=Unit.FEET_INCHES)))
    assert exported.entries[0].backsight.metres == pytest.approx(1.3)


def harmed(change) -> str:
    data = json.loads(TEXT)
    change(data)
    return json.dumps(data)


@pytest.mark.parametrize(
    ("change", "path"),
    [
        (lambda d: d.pop("name"), "$"),
        (lambda d: d.update(extra=1), "$"),
        (lambda d: d["marks"][0].update(level_m="high"), "marks[0].level_m"),
        (lambda d: d["marks"].append(d["marks"][0]), "marks"),
        (lambda d: d["area"].update(outline_m=[[0, 0], [2, 2], [2, 0], [0, 2]]), "area.outline_m"),
        (lambda d: d["area"].update(outline_m=[[0, 0], [0.1, 0], [0, 0.1]]), "area.outline_m"),
        (lambda d: d["area"].update(outline_m=[[0, 0], [90, 0], [90, 90]]), "facets"),
        (lambda d: d["facets"][0].update(level_m=11.2), "facets"),
        (lambda d: d["facets"][0].update(fall_1_in=0), "facets[0].fall_1_in"),
        (lambda d: d.update(station_spacing_m=0.1), "station_spacing_m"),
        (lambda d: d["specification"]["layers"].reverse(), "specification"),
        (lambda d: d["specification"].update(pavers_laid_high_mm=40), "specification"),
        (lambda d: d["entries"][0].update(mark="nowhere"), "entries[0].mark"),
        (lambda d: d["entries"][0].update(backsight="4' 13\""), "entries[0].backsight"),
        (lambda d: d["entries"][3].update(station="Z9"), "entries[3].station"),
        (lambda d: d["entries"][3].update(set_up="other"), "entries[3].set_up"),
        (lambda d: d["entries"][3].update(id="s1"), "entries[3].id"),
        (lambda d: d["entries"][3].update(kind="guess"), "entries[3].kind"),
        (lambda d: d["entries"].append({"kind": "strike", "id": "k", "strikes": "none"}), "entries[29].strikes"),
    ],
)  # fmt: skip
def test_a_bad_file_says_where(change, path: str, tmp_path: Path, capsys) -> None:
    text = harmed(change)
    with pytest.raises(JobFileError) as caught:
        loads(text)
    assert caught.value.path == path
    file = tmp_path / "job.json"
    file.write_text(text)
    assert main(["assess", str(file)]) == 2
    assert path in capsys.readouterr().err


@pytest.mark.parametrize(
    "text", ["", "{", "[]", "null", "NaN", '{"format": NaN}', "[" * 100_000, '{"a": 1e999}', " " * 5_000_001]
)
def test_what_is_no_job_file(text: str) -> None:
    with pytest.raises(JobFileError):
        loads(text)


def test_readings_beside_it_as_csv(tmp_path: Path, capsys) -> None:
    csv = tmp_path / "readings.csv"
    csv.write_text('station,reading,same_ground\nE1,"5\' 2 1/2""",\nE1,"5\' 2 1/2""",yes\n')
    assert main(["assess", str(EXAMPLE), "--readings", str(csv)]) == 0
    stations = {s["station"]: s for s in json.loads(capsys.readouterr().out)["evidence"]["stations"]}
    assert stations["E1"]["shots"] == 2
    for text, says in [
        ("station,reading\nE1,abc\n", "line 2"),
        ("station,reading\nQ1,1\n", "line 2"),
        ("a,b\n1,2\n", "columns station and reading"),
        ("station,reading\nE1\n", "line 2"),
    ]:
        csv.write_text(text)
        assert main(["assess", str(EXAMPLE), "--readings", str(csv)]) == 2
        assert says in capsys.readouterr().err


def test_the_example_is_a_working_job_file_that_assesses_itself(capsys) -> None:
    assert main(["example"]) == 0
    assert loads(capsys.readouterr().out).name
    assert main(["assess", str(EXAMPLE)]) == 0
    answer = json.loads(capsys.readouterr().out)
    by_name = {s["station"]: s for s in answer["surfaces"][0]["stations"]}
    assert by_name["B3"]["action"] == "dig 1 5/16″"
    assert by_name["C3"]["standing"] == "made good"
    assert answer["stage"]["gate"] == "held"
    assert (answer["brief"]["gate"], answer["brief"]["excavation_depth_mm"]) == ("ready to sign", 255.0)


def test_every_key_with_a_unit_names_it() -> None:
    units = ("_m", "_mm", "_deg", "_1_in", "_mm_h", "_mm_m", "_g_m", "_n", "_days",
             "_kg", "_kg_m3", "_m3", "_kn", "_m_s", "_m_s2")  # fmt: skip
    shares = {"share", "moisture", "moistures", "dose", "oversize", "gravity", "oversize_gravity", "celsius"}
    counts = {"lifts", "base", "sub-base", "side", "blows", "axles", "after_passes"}
    plain = {"id", "kind", "same_ground"} | shares | counts

    def numbers(node: dict, name: str = "") -> list[str]:
        found = [name] if node.get("type") in ("number", "integer") or "oneOf" in node else []
        for key, child in node.get("properties", {}).items():
            found += numbers(child, key)
        for inner in [node.get("items"), *node.get("prefixItems", []), *node.get("$defs", {}).values()]:
            found += numbers(inner, name or "point_m") if isinstance(inner, dict) else []
        return found

    assert all(name.endswith(units) or name in plain for name in numbers(schema()))


def test_verify_names_the_first_entry_that_does_not_fit(tmp_path: Path, capsys) -> None:
    first = {"number": 1, "previous": FIRST, "body": {}}
    first["hash"] = entry_hash(first)
    record = {"head": first["hash"], "entries": [first]}
    file = tmp_path / "record.json"
    file.write_text(json.dumps(record))
    assert main(["verify", str(file)]) == 0
    assert main(["verify", str(file), "--head", "0" * 64]) == 1
    first["body"] = {"changed": True}
    file.write_text(json.dumps(record))
    assert main(["verify", str(file)]) == 1
    assert "entry 1 was changed" in capsys.readouterr().out
    for bad in ("[]", "{}", "not json", '{"head": 1, "entries": [3]}'):
        file.write_text(bad)
        assert main(["verify", str(file)]) == 2
    assert main(["verify", str(tmp_path / "missing.json")]) == 2


def test_the_command_line_needs_no_web_application() -> None:
    code = "import sys, groundwork.cli; sys.exit(any(m.split('.')[0] in ('django', 'nivelum') for m in sys.modules))"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_the_command_line_judges_every_surface_and_the_set_out(capsys) -> None:
    assert main(["assess", str(EXAMPLE)]) == 0
    answer = json.loads(capsys.readouterr().out)
    surfaces = {s["surface"]: s for s in answer["surfaces"]}
    assert [*surfaces][:1] == ["formation"] and [*surfaces][-1:] == ["finished"]
    assert surfaces["base"]["tolerance_mm"] == {"high": 10, "low": 10}
    assert all(s["left"] == len(s["stations"]) and not s["findings"] for k, s in surfaces.items() if k != "formation")
    assert {f["rule"] for f in answer["set_out"]["findings"]} >= {"D01", "P02"}
