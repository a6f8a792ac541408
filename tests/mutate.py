"""Small random changes to the modules that decide, and whether the core's own tests notice: a comparison turned or
made strict, a number moved by a hundredth, an operator swapped, a boolean negated, a branch dropped. The tests are
run once with coverage, to know which of them run which lines, and collected once; each change is then tried in a
fork of that, on the tests that run its line, the quickest first, for ENOUGH seconds of them. What none of them
answers is printed. What is left out for its time makes the share unanswered an upper bound.

Modules that search for a proposal (`falls/planner`, `soundness/proposal`, `built/leastfix`) are not in: the steps of
a search change no answer, what it finds is held against an independent programme in `test_falls_reference`, and is
judged by these; nor is `soundness/adviser`: its numbers are weights in an order that `test_twenty_jobs` holds. What
is no other answer by its nature stands in `equal.py` with its reason and does not count."""

import ast
import copy
import functools
import gc
import hashlib
import importlib.abc
import importlib.util
import os
import pickle
import random
import re
import resource
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from types import CodeType, FunctionType

import pytest
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
ENOUGH = 120.0
"""s: so much is asked of one change, by what its tests took; never fewer than ten of them."""
BOTH_SIDES = ("--ignore", "tests/groundwork/test_stepping.py")
"""What holds the code against itself: a changed rule is changed on both sides."""
HERE = {"DJANGO_SETTINGS_MODULE": "nivelum.settings", "NIVELUM_SECRET_KEY": "x", "NIVELUM_HOSTS": "testserver",
        "NIVELUM_SERVED_IN_THE_CLEAR": "yes", "DATABASE_URL": "postgres://x:x@127.0.0.1:1/x",
        "HYPOTHESIS_PROFILE": "few", "OPENBLAS_NUM_THREADS": "1", "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}  # fmt: skip
QUIET = ("--no-header", "-p", "no:warnings", "-p", "no:randomly")
PYTEST = (sys.executable, "-m", "pytest", *QUIET)
CHANGED = "CHANGED_FOR_A_TRIAL"
"""The variable that tells a pytest of its own which change to import, as `module number`."""


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
    """What can be changed in a module, each with how: nothing in a decorator, where it decides nothing, nor whether
    a zip insists on equal lengths, which it has, and no room for roundings, whose change is no other answer."""
    decorators = [d for node in ast.walk(tree) for d in getattr(node, "decorator_list", ())]
    lengths = [node.value for node in ast.walk(tree) if isinstance(node, ast.keyword) and node.arg == "strict"]
    aside = {id(node) for each in (*decorators, *lengths) for node in ast.walk(each)}
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
        tree = parsed(module)
        found += [(module, number) for number, _ in enumerate(places(tree))]
    return found


def parsed(module: str) -> ast.Module:
    return ast.parse(_path(module).read_text(encoding="utf-8"))


def _path(module: str) -> Path:
    return ROOT / f"src/groundwork/{module}.py"


@dataclass(frozen=True)
class Change:
    """One change of a module: what it was, the lines of the statement around it, the module as it is then, and
    whether it stands where only the import comes by: outside of every function."""

    what: str
    span: range
    code: CodeType
    outside: bool


def changed(module: str, number: int) -> Change:
    tree = parsed(module)
    node, how = list(places(tree))[number]
    span, outside = span_of(tree, node), not _in_function(tree, node)
    before = ast.unparse(copy.deepcopy(node))
    change(node, how)
    after = "dropped" if how == "if" else ast.unparse(ast.fix_missing_locations(node))
    what = f"{module}:{node.lineno} {before.splitlines()[0]} -> {after.splitlines()[0]}"  # type: ignore[attr-defined]
    return Change(what, span, compile(ast.fix_missing_locations(tree), str(_path(module)), "exec"), outside)


def _in_function(tree: ast.AST, place: ast.AST) -> bool:
    functions = (node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef))
    return any(place is inner for node in functions for statement in node.body for inner in ast.walk(statement))


def span_of(tree: ast.AST, place: ast.AST) -> range:
    """The lines of the smallest statement around a place: of a compound one, those of its head."""
    best = range(0)
    inside: list[ast.AST] = [tree]
    while inside:  # from the outermost statement that holds the place to the innermost
        holder = next((n for n in inside if any(inner is place for inner in ast.walk(n))), None)
        if holder is None:
            break
        if isinstance(holder, ast.stmt):
            best = range(holder.lineno, (holder.end_lineno or holder.lineno) + 1)
            if body := getattr(holder, "body", None):
                head = range(holder.lineno, max(body[0].lineno, holder.lineno + 1))
                best = head if getattr(place, "lineno", holder.lineno) in head else best
        inside = list(ast.iter_child_nodes(holder))
    return best


@dataclass(frozen=True)
class Covered:
    """Which tests run which lines of each module, by their first hit, and what each test takes, s."""

    lines: dict[str, dict[int, list[str]]]
    took: dict[str, float]

    def of(self, module: str, span: range) -> list[str]:
        """The tests that run any line of a span; of lines that only import runs, those that name the module or what
        is set there, then those that run any of it. The quickest first, and not more than ENOUGH of them."""
        lines, named = self.lines[module], set()
        found = {test for line in span for test in lines.get(line, ()) if test}
        if not found:
            found = {test for tests in lines.values() for test in tests if test}
            names = naming(module, span)
            named = {test for test in self.took if test.partition("[")[0] in names}
        asked, so_far = [], 0.0
        for test in sorted((found | named) & self.took.keys(), key=lambda test: (test not in named, self.took[test])):
            so_far += self.took[test]
            if so_far <= ENOUGH or len(asked) < 10:
                asked.append(test)
        return asked

    def by_import(self, module: str, span: range) -> bool:
        """Whether a line of a span runs when the core or its tests are imported, before any test."""
        return any("" in self.lines[module].get(line, ()) for line in span)


def naming(module: str, span: range) -> set[str]:
    """The tests of files that name the module whole, or in whose own words stands what is set on the span."""
    names = {
        name.id
        for node in ast.walk(parsed(module))
        if isinstance(node, ast.Assign | ast.AnnAssign) and node.lineno in span
        for target in (node.targets if isinstance(node, ast.Assign) else [node.target])
        for name in ast.walk(target)
        if isinstance(name, ast.Name)
    }
    return {test for words, own in _tests() for test in own if module.replace("/", ".") in words or names & own[test]}


@functools.cache
def _tests() -> list[tuple[str, dict[str, set[str]]]]:
    """Of each file of tests what it says, and of each of its tests the names in it."""
    files = []
    for path in sorted((ROOT / "tests/groundwork").glob("test_*.py")):
        words = path.read_text(encoding="utf-8")
        own = {
            node.name: {name.id for name in ast.walk(node) if isinstance(name, ast.Name)}
            for node in ast.parse(words).body
            if isinstance(node, ast.FunctionDef) and node.name.startswith("test_")
        }
        files.append((words, {f"{path.relative_to(ROOT)}::{name}": names for name, names in own.items()}))
    return files


def covered() -> Covered:
    """What the tests cover, kept in var/ until the core or its tests change."""
    digest = hashlib.sha256()
    for path in sorted(
        [*ROOT.glob("src/groundwork/**/*"), *ROOT.glob("tests/groundwork/**/*"), ROOT / "tests/conftest.py"]
    ):
        digest.update(path.read_bytes() if path.is_file() and "__pycache__" not in path.parts else b"")
    kept = ROOT / "var" / f"covered-{digest.hexdigest()[:16]}.pickle"
    if kept.exists():
        return Covered(**pickle.loads(kept.read_bytes()))  # noqa: S301 (written here)
    with tempfile.TemporaryDirectory() as folder:
        found = _covered(Path(folder))
    kept.write_bytes(pickle.dumps({"lines": found.lines, "took": found.took}))
    return found


def _covered(folder: Path) -> Covered:
    report = folder / "times.xml"
    with_lines = ("--cov=groundwork", "--cov-context=test", "--cov-report=", "-n", str(os.cpu_count()))
    as_xml = (f"--junit-xml={report}", "-o", "junit_family=xunit1")
    command = [*PYTEST, "tests/groundwork", *BOTH_SIDES, *with_lines, *as_xml]
    environment = os.environ | HERE | {"COVERAGE_FILE": str(folder / "covered")}
    if subprocess.run(command, check=False, cwd=ROOT, env=environment, capture_output=True).returncode:
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
    data = CoverageData(str(folder / "covered"))
    data.read()
    lines: dict[str, dict[int, list[str]]] = {}
    for path in data.measured_files():
        lines[_named(Path(path))] = {
            line: sorted({context.split("|")[0] for context in contexts})
            for line, contexts in data.contexts_by_lineno(path).items()
        }
    return Covered(lines, {test: seconds for test, seconds in took.items() if seconds <= SLOW})


def _named(path: Path) -> str:
    """A module by its package and name."""
    return f"{path.parent.name}/{path.stem}"


class Changed(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Imports one module of the core as changed, where a change is met by the import alone."""

    def __init__(self, module: str, code: CodeType) -> None:
        self.name, self.code = f"groundwork.{module.replace('/', '.')}", code

    def find_spec(self, fullname, path=None, target=None):
        return importlib.util.spec_from_loader(fullname, self) if fullname == self.name else None

    def exec_module(self, module) -> None:
        module.__file__ = self.code.co_filename
        exec(self.code, module.__dict__)  # noqa: S102 (our own module)


def _functions(code: CodeType) -> Iterator[CodeType]:
    """The functions of a module and of its classes; not those inside of functions, which come with them."""
    for const in code.co_consts:
        if isinstance(const, CodeType):
            if const.co_flags & 0x2 and const.co_flags & 0x1:  # a function: optimised, with new locals
                yield const
            else:
                yield from _functions(const)


class Trials:
    """Instead of running what pytest has collected, tries changes on it: each in a fork, so many at a time."""

    def __init__(self, chosen: list[tuple[str, int]], known: Covered) -> None:
        self.chosen, self.known = chosen, known
        self.failed = False

    def pytest_runtest_logreport(self, report) -> None:
        self.failed = self.failed or report.failed

    def pytest_runtestloop(self, session) -> bool:
        self.items = {item.nodeid: item for item in session.items}
        self.functions: dict[tuple[str, str, int], list[FunctionType]] = {}
        for each in gc.get_objects():
            if isinstance(each, FunctionType):
                code = each.__code__
                self.functions.setdefault((code.co_filename, code.co_qualname, code.co_firstlineno), []).append(each)
            elif isinstance(each, functools._lru_cache_wrapper):
                each.cache_clear()
        gc.freeze()
        tally = Tally(len(self.chosen))
        running: dict[int, str] = {}
        for module, number in self.chosen:
            if len(running) == (os.cpu_count() or 1):
                self._end_one(running, tally)
            this = changed(module, number)
            tests = self.known.of(module, this.span)
            child = os.fork()
            if not child:
                self._try(module, number, this, tests)
            running[child] = f"{this.what} ({len(tests)} tests)"
        while running:
            self._end_one(running, tally)
        tally.end()
        return True

    @staticmethod
    def _end_one(running: dict[int, str], tally: "Tally") -> None:
        child, status = os.wait()
        tally.add(running.pop(child), noticed=status != 0, ended=not os.WIFSIGNALED(status))

    def _try(self, module: str, number: int, this: Change, tests: list[str]) -> None:
        """In the fork: 0 where no test notices."""
        patience = int(120 + 10 * sum(self.known.took[test] for test in tests))
        resource.setrlimit(resource.RLIMIT_CPU, (patience, patience + 5))
        silent = os.open(os.devnull, os.O_WRONLY)
        os.dup2(silent, 1)
        os.dup2(silent, 2)
        if this.outside or self.known.by_import(module, this.span):
            environment = os.environ | HERE | {CHANGED: f"{module} {number}"}
            os.execve(sys.executable, [*PYTEST, "-x", "-p", "tests.mutate", *tests], environment)  # noqa: S606
        for code in _functions(this.code):
            for function in self.functions.get((code.co_filename, code.co_qualname, code.co_firstlineno), ()):
                function.__code__ = code
        try:
            for test, following in zip(tests, [*tests[1:], None], strict=True):
                item = self.items[test]
                item.config.hook.pytest_runtest_protocol(
                    item=item, nextitem=None if following is None else self.items[following]
                )
                if self.failed:
                    os._exit(1)
            os._exit(0)
        finally:
            os._exit(2)


class Tally:
    """What was noticed and what not, printed as it comes."""

    def __init__(self, whole: int) -> None:
        self.whole = whole
        self.done = self.unanswered = self.equal = 0

    def add(self, what: str, *, noticed: bool, ended: bool) -> None:
        self.done += 1
        if not noticed and is_equal(what):
            self.equal += 1
        elif not noticed or not ended:
            self.unanswered += not noticed
            print(f"{'not noticed' if not noticed else 'never ends'}: {what}", flush=True)
        if self.done % 50 == 0:
            print(f"{self.done} of {self.whole}, {self.unanswered} unanswered", flush=True)

    def end(self) -> None:
        counted = self.done - self.equal
        share = self.unanswered / max(counted, 1)
        print(f"{counted} changes, {self.unanswered} unanswered ({share:.1%}), {self.equal} the same by nature")


def is_equal(what: str) -> bool:
    """Whether a change, on the line it was made on, is one of those that are no other answer."""
    found = re.fullmatch(r"([\w/]+):(\d+) (.*) \(\d+ tests\)", what)
    if found is None:
        return False
    module, number, changed = found.groups()
    line = _path(module).read_text(encoding="utf-8").splitlines()[int(number) - 1].strip()
    return any(here in line for here, _reason in EQUAL.get(f"{module}: {changed}", ()))


def main(arguments: list[str]) -> int:
    count = int(arguments[0]) if arguments else 100
    seed = int(arguments[1]) if len(arguments) > 1 else 0
    every = candidates(tuple(arguments[2:]) or DECIDE)
    chosen = random.Random(seed).sample(every, min(count, len(every)))
    known = covered()
    print(f"{len(chosen)} changes of {len(every)}, {len(known.took)} tests asked", flush=True)
    os.environ.update(HERE)
    os.chdir(ROOT)
    return pytest.main(["-s", *QUIET, "tests/groundwork", *BOTH_SIDES], [Trials(chosen, known)])


if CHANGED in os.environ:  # loaded by pytest as a plugin, before the core
    _module, _number = os.environ[CHANGED].split()
    sys.meta_path.insert(0, Changed(_module, changed(_module, int(_number)).code))

if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
