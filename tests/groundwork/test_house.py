"""The core's house: packages with one question each, entered by the front door, in rooms one can look around in."""

import ast
import importlib
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[2] / "src"
CORE = SOURCE / "groundwork"
WORKED_EXAMPLE = Path(__file__).parents[1] / "seepage"
PACKAGES = sorted(folder.name for folder in CORE.iterdir() if (folder / "__init__.py").exists())
MOST_NAMES = 20
LARGER = {
    "measures": "the vocabulary everything else is written in: units, parsers, words, findings",
    "tools": "one value a tool and a machine, and what each is worth",
    "plan": "shapes and places, most of them asked for by the drawings only",
    "surfaces": "the types of arrays and meshes come with what is made of them",
    "base": "a specification is made of small values, each with a name of its own",
    "layerwork": "one class a kind of entry",
    "kinds": "what an entry is, with one type a kind of field",
    "verdict": "what is judged, what is foretold and what is suspected, which share their limits",
}
"""Packages with more names than that, and why."""
LONGEST_PACKAGE, LONGEST_MODULE = 2500, 400
LONGER = {
    "soundness/rules.py": "one function a rule, read as a list",
    "measures/measure.py": "one grammar: what a length, a fall, a mark may look like, and how each is said",
    "falls/planner.py": "one linear programme: its rows, its aims, its conflicts",
    "surfaces/tin.py": "one triangulation: made, refined, measured",
    "setout/pegs.py": "one adjustment of the taped figure, and what follows from it for every peg",
    "built/asbuilt.py": "the rules on a surface, read as a list, beside the surface they are asked of",
    "lifts/history.py": "what was done to a lift, read in one piece",
}
"""Modules that are longer, and why they are one."""


def imports(file: Path) -> list[tuple[int, str, list[str]]]:
    tree = ast.parse(file.read_text(encoding="utf-8"))
    return [
        (node.lineno, node.module, [alias.name for alias in node.names])
        for node in ast.walk(tree)
        if isinstance(node, ast.ImportFrom) and node.module and node.module.split(".")[0] == "groundwork"
    ]


def test_others_come_in_by_a_packages_public_names_only() -> None:
    through_the_window = []
    for file in SOURCE.rglob("*.py"):
        for line, module, names in imports(file):
            parts = module.split(".")
            inside = len(parts) > 1 and CORE / parts[1] in file.parents
            if inside or len(parts) < 2 or parts[1] not in PACKAGES:
                continue
            door = importlib.import_module(f"groundwork.{parts[1]}").__all__
            if len(parts) > 2 or not set(names) <= set(door):
                through_the_window.append(f"{file.relative_to(SOURCE)}:{line} {module} {names}")
    assert not through_the_window


@pytest.mark.parametrize("name", PACKAGES)
def test_a_package_asks_one_question_and_says_what_it_offers(name: str) -> None:
    package = importlib.import_module(f"groundwork.{name}")
    assert "?" in package.__doc__.split("\n\n")[0]
    assert len(set(package.__all__)) == len(package.__all__)
    assert all(hasattr(package, each) for each in package.__all__)
    assert len(package.__all__) <= MOST_NAMES or name in LARGER, len(package.__all__)
    used = set()
    for file in (*SOURCE.rglob("*.py"), *WORKED_EXAMPLE.glob("*.py")):
        if CORE / name not in file.parents:
            text = file.read_text(encoding="utf-8")
            used |= {each for each in package.__all__ if each in text}
    assert set(package.__all__) <= used, "offered and never asked for"


def test_no_package_and_no_module_is_too_long_to_look_around_in() -> None:
    lines = {file: len(file.read_text(encoding="utf-8").splitlines()) for file in CORE.rglob("*.py")}
    for name in PACKAGES:
        assert sum(n for file, n in lines.items() if CORE / name in file.parents) <= LONGEST_PACKAGE, name
    long = {str(file.relative_to(CORE)) for file, n in lines.items() if n > LONGEST_MODULE}
    assert long <= LONGER.keys(), long


SAME_NAME = {
    "Entry": "the row that keeps one",
    "Job": "the row that keeps one",
    "Command": "what Django calls a command",
    "Migration": "what Django calls a migration",
}


def test_one_name_is_one_thing() -> None:
    """No two classes of the house have one name, but those that have to."""
    found: dict[str, list[str]] = {}
    for file in SOURCE.rglob("*.py"):
        for node in ast.parse(file.read_text(encoding="utf-8")).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                found.setdefault(node.name, []).append(str(file.relative_to(SOURCE)))
    assert {name: files for name, files in found.items() if len(files) > 1 and name not in SAME_NAME} == {}
