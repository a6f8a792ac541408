"""Small random changes to the modules that decide, and whether the core's own tests notice: a comparison turned or
made strict, a number moved by a hundredth, an operator swapped, a boolean negated, a branch dropped. The tests are
run once with coverage, to know which of them run which lines; each change is then tried, in a copy of the tree, on
the tests that run its line, the quickest first. What none of them answers is printed. Tests that take longer than
SLOW are left out, so the share unanswered is an upper bound.

Modules that search for a proposal (`falls/planner`, `soundness/proposal`, `built/leastfix`) are not in: the steps of
a search change no answer, what it finds is held against an independent programme in `test_falls_reference`, and is
judged by these; nor is `soundness/adviser`: its numbers are weights in an order that `test_twenty_jobs` holds. What
is no other answer by its nature stands in `equal.py` with its reason and does not count."""

import ast
import copy
import hashlib
import os
import pickle
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from coverage import CoverageData
from defusedxml import ElementTree

from tests.equal import EQUAL

ROOT = Path(__file__).parents[1]
DECIDE = (
    "assess/conditions", "base/takeoff", "built/asbuilt", "built/aslaid", "laboratory/density", "levels/bubble",
    "levels/levelling", "levels/references", "levels/runs", "lifts/history", "lifts/lift", "lifts/plan",
    "lifts/pours", "lifts/rules", "lifts/subgrade", "schools/catalogue", "setout/pegs", "soundness/completion",
    "soundness/designed", "soundness/rules", "stages/gates", "strength/soil", "survey/dig", "survey/fallcheck",
    "survey/shots", "survey/survey", "tools/machines", "verdict/account", "verdict/judgement", "verdict/misread",
)  # fmt: skip
SWAPS = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
         ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
         ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult,
         ast.And: ast.Or, ast.Or: ast.And}  # fmt: skip
ROOM = ("EDGE", "ROUNDING", "NOTHING")
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any"}
SLOW = 20.0
"""s: a test that takes longer alone is not asked."""
BOTH_SIDES = ("--ignore", "tests/groundwork/test_stepping.py")
"""What holds the code against itself: a changed rule is changed on both sides."""
HERE = {"DJANGO_SETTINGS_MODULE": "nivelum.settings", "NIVELUM_SECRET_KEY": "x", "NIVELUM_HOSTS": "testserver",
        "NIVELUM_SERVED_IN_THE_CLEAR": "yes", "DATABASE_URL": "postgres://x:x@127.0.0.1:1/x",
        "HYPOTHESIS_PROFILE": "few"}  # fmt: skip


def has_room(node: ast.AST) -> bool:
    """Whether a side of a comparison leaves room for roundings: it makes no difference whether it is strict then."""
    return any(
        isinstance(each, ast.BinOp)
        and (
            (isinstance(each.right, ast.Name) and each.right.id in ROOM)
            or (
                isinstance(each.right, ast.Constant)
                and isinstance(each.right.value, float)
                and abs(each.right.value) < 1e-5
            )
        )
        for each in ast.walk(node)
    )


def places(tree: ast.AST) -> Iterator[tuple[ast.AST, str]]:  # noqa: PLR0912 (one case a kind)
    """What can be changed in a module, each with how: nothing in a decorator, where it decides nothing, and no room
    for roundings, whose change is no other answer."""
    decorators = [d for node in ast.walk(tree) for d in getattr(node, "decorator_list", ())]
    aside = {id(node) for decorator in decorators for node in ast.walk(decorator)}
    for node in ast.walk(tree):
        if id(node) in aside:
            continue
        match node:
            case ast.BinOp(right=ast.Constant(value=float(value))) if abs(value) < 1e-5:
                pass
            case ast.BinOp(right=ast.Name(id=name)) if name in ROOM:
                pass
            case ast.Compare(ops=[ast.Lt() | ast.LtE() | ast.Gt() | ast.GtE()]) if has_room(node):
                pass
            case ast.Compare(ops=[op]) if type(op) in SWAPS:
                yield node, "compare"
            case ast.BinOp(op=op) if type(op) in SWAPS and not isinstance(node.left, ast.Constant | ast.JoinedStr):
                yield node, "operator"
            case ast.BoolOp():
                yield node, "boolean"
            case ast.Constant(value=value) if isinstance(value, int | float) and not isinstance(value, bool):
                if value == 0 or abs(value) >= 1e-5:
                    yield node, "number"
            case ast.Constant(value=bool()):
                yield node, "truth"
            case ast.UnaryOp(op=ast.Not()):
                yield node, "not"
            case ast.Call(func=ast.Name(id=name)) if name in NAMES:
                yield node, "extreme"
            case ast.If():
                yield node, "if"


def change(node: ast.AST, how: str) -> None:
    match how:
        case "compare":
            node.ops = [SWAPS[type(node.ops[0])]()]  # type: ignore[attr-defined]
        case "operator" | "boolean":
            node.op = SWAPS[type(node.op)]()  # type: ignore[attr-defined]
        case "number":
            node.value = node.value + 1 if isinstance(node.value, int) else node.value * 1.01 or 0.01  # type: ignore[attr-defined]
        case "truth":
            node.value = not node.value  # type: ignore[attr-defined]
        case "not":
            node.op = ast.UAdd()  # type: ignore[attr-defined]
            node.operand = ast.Call(ast.Name("bool", ast.Load()), [node.operand], [])  # type: ignore[attr-defined]
        case "extreme":
            node.func.id = NAMES[node.func.id]  # type: ignore[attr-defined]
        case "if":
            node.test = ast.Constant(False)  # type: ignore[attr-defined]


def candidates(modules: tuple[str, ...]) -> list[tuple[str, int]]:
    found = []
    for module in modules:
        tree = ast.parse((ROOT / f"src/groundwork/{module}.py").read_text(encoding="utf-8"))
        found += [(module, number) for number, _ in enumerate(places(tree))]
    return found


def mutated(module: str, number: int) -> tuple[str, str]:
    """The module with one change, and what that was."""
    source = (ROOT / f"src/groundwork/{module}.py").read_text(encoding="utf-8")
    tree = ast.parse(source)
    node, how = list(places(tree))[number]
    before = ast.unparse(copy.deepcopy(node))
    change(node, how)
    after = "dropped" if how == "if" else ast.unparse(ast.fix_missing_locations(node))
    first = before.splitlines()[0]
    return ast.unparse(ast.fix_missing_locations(tree)), f"{module}:{node.lineno} {first} -> {after.splitlines()[0]}"  # type: ignore[attr-defined]


@dataclass(frozen=True)
class Covered:
    """Which tests run which lines of each module, by their first hit, and what each test takes, s."""

    lines: dict[str, dict[int, list[str]]]
    took: dict[str, float]

    def of(self, module: str, span: range) -> list[str]:
        """The tests that run any line of a span; of lines that only import runs, those that run any of the module."""
        lines = self.lines[module]
        found = {test for line in span for test in lines.get(line, ())} or {
            t for tests in lines.values() for t in tests
        }
        return sorted(found & self.took.keys(), key=self.took.__getitem__)


def copied(folder: Path) -> Path:
    left_out = shutil.ignore_patterns("__pycache__", "browser", "static")
    for name in ("src", "tests", "pyproject.toml", "CHANGELOG.md"):
        source = ROOT / name
        if source.is_dir():
            shutil.copytree(source, folder / name, ignore=left_out)
        else:
            shutil.copy(source, folder / name)
    return folder


def pytest(tree: Path, *arguments: str, patience: float | None = None) -> int:
    """The exit code of pytest in a tree; 0 is that nothing was noticed."""
    here = HERE | {"PYTHONPATH": f"{tree / 'src'}:{tree}", "COVERAGE_FILE": str(tree / "covered")}
    command = [sys.executable, "-m", "pytest", "--no-header", "-p", "no:warnings", *arguments]
    return subprocess.run(
        command, check=False, cwd=tree, env=os.environ | here, capture_output=True, timeout=patience
    ).returncode


def covered(tree: Path) -> Covered:
    """What the tests of a tree cover, kept in var/ until the core or its tests change."""
    digest = hashlib.sha256()
    for path in sorted([*tree.glob("src/groundwork/**/*"), *tree.glob("tests/**/*.py")]):
        digest.update(path.read_bytes() if path.is_file() else b"")
    kept = ROOT / "var" / f"covered-{digest.hexdigest()[:16]}.pickle"
    if kept.exists():
        return Covered(**pickle.loads(kept.read_bytes()))  # noqa: S301 (written here)
    found = _covered(tree)
    kept.write_bytes(pickle.dumps({"lines": found.lines, "took": found.took}))
    return found


def _covered(tree: Path) -> Covered:
    report = tree / "times.xml"
    with_lines = ("--cov=groundwork", "--cov-context=test", "--cov-report=", "-n", str(os.cpu_count()))
    as_xml = (f"--junit-xml={report}", "-o", "junit_family=xunit1")
    if pytest(tree, "tests/groundwork", *BOTH_SIDES, *with_lines, *as_xml):
        failed = [
            f"{case.get('file')}::{case.get('name')}"
            for case in ElementTree.parse(report).iter("testcase")
            if case.find("failure") is not None or case.find("error") is not None
        ]
        raise SystemExit(f"the core's tests do not pass as they are: {', '.join(failed)}")
    took = {
        f"{case.get('file')}::{case.get('name')}": float(case.get("time", 0))
        for case in ElementTree.parse(report).iter("testcase")
    }
    data = CoverageData(str(tree / "covered"))
    data.read()
    lines: dict[str, dict[int, list[str]]] = {}
    for path in data.measured_files():
        lines[_named(Path(path))] = {
            line: sorted({context.split("|")[0] for context in contexts if context})
            for line, contexts in data.contexts_by_lineno(path).items()
        }
    return Covered(lines, {test: seconds for test, seconds in took.items() if seconds <= SLOW})


def _named(path: Path) -> str:
    """A module by its package and name."""
    return f"{path.parent.name}/{path.stem}"


def span_of(module: str, number: int) -> range:
    """The lines of the smallest statement around a place: of a compound one, those of its head."""
    tree = ast.parse((ROOT / f"src/groundwork/{module}.py").read_text(encoding="utf-8"))
    place = list(places(tree))[number][0]
    best = range(0)
    for node in ast.walk(tree):
        if isinstance(node, ast.stmt) and any(inner is place for inner in ast.walk(node)):
            best = range(node.lineno, (node.end_lineno or node.lineno) + 1)
            if body := getattr(node, "body", None):
                head = range(node.lineno, max(body[0].lineno, node.lineno + 1))
                best = head if getattr(place, "lineno", node.lineno) in head else best
    return best


def trial(trees: Queue[Path], known: Covered, module: str, number: int) -> tuple[bool, str]:
    """Whether a change is noticed, and what it was."""
    text, what = mutated(module, number)
    tests = known.of(module, span_of(module, number))
    tree = trees.get()
    changed = tree / f"src/groundwork/{module}.py"
    whole = changed.read_text(encoding="utf-8")
    try:
        changed.write_text(text, encoding="utf-8")
        (tree / "asked").write_text("\n".join(tests), encoding="utf-8")
        patience = 120 + 10 * sum(known.took[test] for test in tests)
        return bool(tests) and pytest(tree, "-x", "@asked", patience=patience) != 0, f"{what} ({len(tests)} tests)"
    except subprocess.TimeoutExpired:
        return True, f"{what} (never ends)"
    finally:
        changed.write_text(whole, encoding="utf-8")
        trees.put(tree)


def is_equal(what: str) -> bool:
    """Whether a change, on the line it was made on, is one of those that are no other answer."""
    found = re.fullmatch(r"([\w/]+):(\d+) (.*) \(\d+ tests\)", what)
    if found is None:
        return False
    module, number, changed = found.groups()
    line = (ROOT / f"src/groundwork/{module}.py").read_text(encoding="utf-8").splitlines()[int(number) - 1].strip()
    return any(here in line for here, _reason in EQUAL.get(f"{module}: {changed}", ()))


def main(arguments: list[str]) -> int:
    count = int(arguments[0]) if arguments else 100
    seed = int(arguments[1]) if len(arguments) > 1 else 0
    every = candidates(tuple(arguments[2:]) or DECIDE)
    chosen = random.Random(seed).sample(every, min(count, len(every)))
    unanswered = equal = 0
    workers = os.cpu_count() or 1
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(workers) as pool:
        trees: Queue[Path] = Queue()
        for number in range(workers):
            trees.put(copied(Path(folder) / str(number)))
        known = covered(copied(Path(folder) / "covered"))
        print(f"{len(known.took)} tests asked", flush=True)
        for done, (seen, what) in enumerate(pool.map(lambda pair: trial(trees, known, *pair), chosen), start=1):
            if not seen and is_equal(what):
                equal += 1
                continue
            unanswered += not seen
            if not seen or what.endswith("(never ends)"):
                print(f"{'never ends' if seen else 'not noticed'}: {what}", flush=True)
            if done % 20 == 0:
                print(f"{done} of {len(chosen)}, {unanswered} unanswered", flush=True)
    counted = len(chosen) - equal
    share = unanswered / max(counted, 1)
    print(f"{counted} changes of {len(every)}, {unanswered} unanswered ({share:.1%}), {equal} the same by nature")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
