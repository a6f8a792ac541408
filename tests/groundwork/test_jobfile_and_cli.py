"""The open job file and the command line."""

import json
import random
import subprocess
import sys
import zipfile
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest
from tests.conftest import PAD

from groundwork import VERSION
from groundwork.assess import assess
from groundwork.cli import EXAMPLE, main
from groundwork.files import JobFileError, dumps, loads, schema
from groundwork.files.schema import problems
from groundwork.measures import Unit
from groundwork.schools import schools

TEXT = EXAMPLE.read_text(encoding="utf-8")
DEMO = sorted((Path(__file__).parents[2] / "src/nivelum/demo/jobs").glob("*.json"))


@pytest.mark.parametrize("file", [EXAMPLE, *DEMO], ids=lambda f: f.stem)
def test_a_job_file_written_back_is_the_same_job(file: Path) -> None:
    job = loads(file.read_text(encoding="utf-8"))
    again = loads(dumps(job))
    assert dumps(again) == dumps(job)
    assert assess(again).stages.evidence_of("excavation") == assess(job).stages.evidence_of("excavation")


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


def more(kind: str, **fields):
    """One entry more."""
    return lambda data: data["entries"].append({"kind": kind, "id": "k"} | fields)


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
        (lambda d: d.update(name="half \ud800 a letter"), "name"),
        (lambda d: d["entries"][3].update(reading="-1406 mm"), "entries[3].reading"),
        (more("margin", side=99, width="100"), "entries[29].side"),
        (lambda d: more("disturbed", point=d["marks"][0]["name"], since="x")(d), "entries[29].since"),
        (more("string", start="A1", end="A1", start_at_m=[1, 1], end_at_m=[1, 1], start_height="100",
              end_height="100", start_level_m=10, end_level_m=10), "entries[29].end_at_m"),
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
    "text",
    [
        "",
        "{",
        "[]",
        "null",
        "NaN",
        '{"format": NaN}',
        "[" * 100_000,
        '{"a": 1e999}',
        " " * 5_000_001,
        '{"name": ' + "9" * 5000 + "}",
    ],
)
def test_what_is_no_job_file(text: str) -> None:
    with pytest.raises(JobFileError):
        loads(text)


def test_what_is_refused_is_what_the_published_schema_refuses() -> None:
    """A file harmed at one place after the other, each in several ways, is refused where the schema refuses it, asked
    of another library as one whole."""
    whole = jsonschema.Draft202012Validator(schema())
    draw = random.Random(7)
    refused = 0
    for _turn in range(150):
        data = json.loads(draw.choice([TEXT, *(file.read_text() for file in DEMO)]))
        here = data
        while inner := [
            each
            for each in list(here.values() if isinstance(here, dict) else here)
            if each and isinstance(each, dict | list)
        ]:
            if here is not data and draw.random() < 0.3:
                break
            here = draw.choice(inner)
        key = draw.choice(list(here) if isinstance(here, dict) else range(len(here)))
        if draw.random() < 0.2:
            del here[key]
        else:
            here[key] = draw.choice([None, "", "x", -1, 0, 1e300, 3.5, True, [], {}, ["1"], 10**30])
        assert bool(list(problems(data))) is not whole.is_valid(data), (key, here)
        refused += not whole.is_valid(data)
    assert 30 < refused < 150


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


def test_it_says_which_version_it_is(capsys) -> None:
    with pytest.raises(SystemExit) as done:
        main(["--version"])
    assert done.value.code == 0 and capsys.readouterr().out == f"nivelum {VERSION}\n"
    changes = (Path(__file__).parents[2] / "CHANGELOG.md").read_text(encoding="utf-8")
    assert "## Unreleased" in changes if "dev" in VERSION else f"## {VERSION}" in changes


def test_the_example_is_a_working_job_file_that_assesses_itself(capsys) -> None:
    assert main(["example"]) == 0
    assert loads(capsys.readouterr().out).name
    assert main(["assess", str(EXAMPLE)]) == 0
    answer = json.loads(capsys.readouterr().out)
    by_name = {s["station"]: s for s in answer["surfaces"][0]["stations"]}
    assert by_name["B3"]["action"] == "dig 1 5/16″"
    assert by_name["C3"]["standing"] == "made good"
    stages = {row["stage"]: row for row in answer["stages"]}
    assert stages["excavation"]["gate"] == "held" and stages["handover"]["stands_on"] == ["joints"]
    assert (stages["brief"]["gate"], stages["brief"]["held_by"]) == ("held", 2)
    assert answer["excavation_depth_mm"] == 255.0


def test_every_key_with_a_unit_names_it() -> None:
    units = ("_m", "_mm", "_deg", "_1_in", "_mm_h", "_mm_m", "_g_m", "_n", "_days",
             "_kg", "_kg_m3", "_m3", "_kn", "_m_s", "_m_s2", "_hours")  # fmt: skip
    shares = {"share", "moisture", "moistures", "dose", "oversize", "gravity", "oversize_gravity", "celsius",
              "parts", "contact", "humidity", "surface_celsius", "chance",
              "least_celsius", "most_celsius"}  # fmt: skip
    counts = {
        "lifts",
        "base",
        "sub-base",
        "side",
        "blows",
        "axles",
        "after_passes",
        "joint",
        "board",
        "row",
        "seed",
        "units",
        "number",
        "spot",
        "people",
        "holds",  # in what `measure` names
    }
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
    with zipfile.ZipFile(Path(__file__).parents[1] / "kept/record-2026-11.zip") as archive:
        record = json.loads(archive.read("record.json"))
    file = tmp_path / "record.json"
    file.write_text(json.dumps(record))
    assert main(["verify", str(file)]) == 0
    assert main(["verify", str(file), "--head", "0" * 64]) == 1
    record["entries"][0]["body"]["changed"] = True
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
    assert {f["rule"] for f in answer["stages"][1]["findings"]} >= {"D01", "P02"}


def test_the_command_line_assesses_lifts_ground_pour_and_deliveries(tmp_path, capsys) -> None:
    plate = {"name": "plate", "kind": "plate", "mass_kg": 500, "width_m": 0.5, "length_m": 0.5, "speed_m_s": 0.35}
    spot = [[1, 1], [3, 1], [3, 3], [1, 3]]
    rows = [
        {"kind": "machine", "id": "m", "machine": plate},
        {"kind": "spread", "id": "l", "lift": "base.1", "station": "A1", "thickness": "94"},
        {"kind": "moisture", "id": "w", "lift": "base.1", "share": 0.03},
        *({"kind": "pass", "id": f"p{n}", "lift": "base.1", "machine": "m", "direction": ("along", "across")[n % 2]}
          for n in range(4)),
        {"kind": "laboratory", "id": "lab", "material": "dense-graded", "moistures": [0.04, 0.05, 0.06, 0.07, 0.08],
         "densities_kg_m3": [2160, 2190, 2200, 2190, 2160], "gravity": 2.7},
        {"kind": "gauge", "id": "g", "lift": "base.1", "place": "T1", "at_m": [2, 2], "wet_kg_m3": 2226,
         "moisture": 0.06},
        {"kind": "spike", "id": "k", "lift": "formation", "place": "S1", "at_m": [2, 2], "sank": "60"},
        {"kind": "soft_spot", "id": "s", "name": "gate", "corners_m": spot, "depth": "300"},
        {"kind": "delivered", "id": "d", "ticket": "1", "material": "dense-graded", "mass_kg": 4000},
        {"kind": "poured", "id": "q", "on": "2026-01-05", "volume_m3": 3, "celsius": 9, "deflection": "2"},
    ]  # fmt: skip
    file = tmp_path / "job.json"
    file.write_text(json.dumps(json.loads(PAD) | {"entries": rows}), encoding="utf-8")
    assert main(["assess", str(file)]) == 0
    works = json.loads(capsys.readouterr().out)["works"]
    lift = works["lifts"][1]
    plan = {"compacted_mm": 75, "loose_mm": 93.8, "passes": 5, "mass_kg": 3960, "loads": 1, "minutes": 15.2}
    assert plan.items() <= lift["plan"].items()
    assert lift["patches"] == [{"patch": "1", "along": 2, "across": 2, "done": False}]
    # 2226/1.06 = 2100 of 2200 is 95.45 %.
    assert lift["densities"] == [{"place": "T1", "dry_kg_m3": 2100.0, "relative_compaction": 0.9545}]
    assert [f["rule"] for f in lift["findings"]] == ["L02", "L03", "L04", "L04", "L11"]
    assert lift["next"] == "too dry: add 119 l, mix it in, squeeze again"
    assert works["ground"]["tests"][0]["holds"] is False
    assert works["ground"]["soft_spots"] == [{"name": "gate", "volume_m3": 1.2, "stone_kg": 2580.0, "sound": False}]
    assert [m["delivered_kg"] for m in works["deliveries"]["materials"] if m["material"] == "dense-graded"] == [4000]
    assert works["pour"] is None and works["deepest_mm"] == 255.0


def test_an_answer_cut_off_by_its_reader_ends_quietly() -> None:
    command = [sys.executable, "-m", "groundwork.cli", "assess", str(EXAMPLE)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as cut:
        assert cut.stdout and cut.stderr
        cut.stdout.readline()
        cut.stdout.close()
        assert cut.stderr.read() == b"" and cut.wait() == 2


def test_schools_are_ranked_from_a_job_file(capsys) -> None:
    assert main(["advise", str(EXAMPLE)]) == 0
    found = json.loads(capsys.readouterr().out)["schools"]
    assert {each["school"] for each in found} == set(schools())
    assert not found[0]["ruled_out"] and [e["ruled_out"] for e in found] == sorted(e["ruled_out"] for e in found)
    for each in found:
        layers = each["specification"]["layers"]
        bed = next((x["thickness_mm"] for x in layers if x["role"] == "bedding"), 0)
        proud = each["specification"]["pavers_laid_high_mm"] if bed else 0
        assert each["excavation_depth_mm"] == pytest.approx(sum(x["thickness_mm"] for x in layers) - proud, abs=0.1)
        assert each["reasons"] and (each["quantities"]["dug_m3"] > 0 or each["school"] == "overlay")


def test_falls_are_planned_from_a_job_file_or_the_conflict_named(tmp_path: Path, capsys) -> None:
    # One plane of 6 × 4 m, held at its top; then at its foot too: 20 mm in 4 m is 1:200, 46.7 short of 1:60.
    data = json.loads(PAD)
    data["heights"] = [{"kind": "threshold", "name": "door", "at_m": [3, 4], "level_m": 10.0}]
    file = tmp_path / "job.json"
    file.write_text(json.dumps(data))
    assert main(["plan", str(file)]) == 0
    (facet,) = json.loads(capsys.readouterr().out)["facets"]
    assert (facet["fall_1_in"], facet["bearing_deg"]) == (pytest.approx(60), pytest.approx(180))
    assert main(["plan", str(file), "--least", "1:40", "--most", "2.5 %"]) == 0
    assert json.loads(capsys.readouterr().out)["facets"][0]["fall_1_in"] == pytest.approx(40)
    data["heights"].append({"kind": "boundary", "name": "kerb", "at_m": [3, 0], "level_m": 9.98})
    file.write_text(json.dumps(data))
    assert main(["plan", str(file)]) == 3
    (conflict,) = json.loads(capsys.readouterr().out)["conflicts"]
    assert {g["height"]: g["by_mm"] for g in conflict["gives"]} == {"door": 46.7, "kerb": -46.7}
    assert main(["plan", str(file), "--least", "1:10", "--most", "1:60"]) == 2
