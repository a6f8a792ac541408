"""Small random changes to the modules that decide, and whether the core's own tests notice: a comparison turned or
made strict, a number moved by a hundredth, an operator swapped, a boolean negated, a branch dropped. Each is tried in
a copy of the tree; whatever answers the same in all of the tests is printed."""

import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parents[1]
DECIDE = (
    "adviser", "asbuilt", "aslaid", "bubble", "completion", "conditions", "density", "designed", "dig", "fallcheck",
    "falls", "leastfix", "levelling", "liftplan", "liftrecord", "liftrules", "lifts", "machines", "misread", "pours",
    "proposal", "quantities", "references", "runs", "schools", "setout", "shots", "soundness", "stages", "strength",
    "subgrade", "survey", "verdict",
)  # fmt: skip
NEAREST = {
    "liftrecord": ("test_lifts", "test_trade", "test_stages"),
    "liftrules": ("test_lifts", "test_trade", "test_stages"),
    "lifts": ("test_lifts", "test_stages"),
    "liftplan": ("test_lifts",),
    "subgrade": ("test_lifts", "test_stages", "test_trade"),
    "conditions": ("test_stages", "test_assess", "test_trade", "test_held"),
    "stages": ("test_stages", "test_assess", "test_trade", "test_held"),
    "asbuilt": ("test_asbuilt", "test_profiles_and_bands", "test_held"),
    "pours": ("test_lifts", "test_stages", "test_held"),
    "levelling": ("test_levelling", "test_runs", "test_references"),
    "fallcheck": ("test_references", "test_bubble", "test_held"),
    "references": ("test_references", "test_runs", "test_setout", "test_held"),
    "runs": ("test_runs", "test_vouching", "test_entries"),
    "soundness": ("test_soundness", "test_adviser", "test_proposal", "test_trade", "test_twenty_jobs"),
    "dig": ("test_assess", "test_trade", "test_verdict", "test_held"),
    "verdict": ("test_verdict", "test_references", "test_trade"),
}
"""The tests that look at a module first; the rest of the core's tests follow where these say nothing."""
SWAPS = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
         ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
         ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult,
         ast.And: ast.Or, ast.Or: ast.And}  # fmt: skip
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any"}
PATIENCE = 300


def places(tree: ast.AST) -> Iterator[tuple[ast.AST, str]]:
    """What can be changed in a module, each with how."""
    for node in ast.walk(tree):
        match node:
            case ast.Compare(ops=[op]) if type(op) in SWAPS:
                yield node, "compare"
            case ast.BinOp(op=op) if type(op) in SWAPS and not isinstance(node.left, ast.Constant | ast.JoinedStr):
                yield node, "operator"
            case ast.BoolOp():
                yield node, "boolean"
            case ast.Constant(value=value) if isinstance(value, int | float) and not isinstance(value, bool):
                # Less than a millionth is room for roundings: moving it changes no answer.
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


def noticed(tree: Path, module: str) -> bool:
    """Whether any test of the core fails in a tree."""
    here = {"PYTHONPATH": f"{tree / 'src'}:{tree}", "DJANGO_SETTINGS_MODULE": "nivelum.settings",
            "NIVELUM_SECRET_KEY": "x", "NIVELUM_HOSTS": "testserver", "NIVELUM_SERVED_IN_THE_CLEAR": "yes",
            "DATABASE_URL": "postgres://x:x@127.0.0.1:1/x", "HYPOTHESIS_PROFILE": "few"}  # fmt: skip
    first = [f"tests/groundwork/{name}.py" for name in NEAREST.get(module, (f"test_{module}",))]
    for chosen in ([each for each in first if (tree / each).exists()], ["tests/groundwork"]):
        if not chosen:
            continue
        slow = "not three_hundred and not shooting_again and not nineteen_times and not misread_is"
        command = [sys.executable, "-m", "pytest", "-q", "-x", "--no-header", "-k", slow, *chosen]
        try:
            done = subprocess.run(
                command, check=False, cwd=tree, env=os.environ | here, capture_output=True, timeout=PATIENCE
            )
        except subprocess.TimeoutExpired:
            return True
        if done.returncode:
            return True
    return False


def trial(module: str, number: int) -> tuple[bool, str]:
    text, what = mutated(module, number)
    left_out = shutil.ignore_patterns("__pycache__", "browser", "static")
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder)
        for name in ("src", "tests", "pyproject.toml"):
            source = ROOT / name
            if source.is_dir():
                shutil.copytree(source, tree / name, ignore=left_out)
            else:
                shutil.copy(source, tree / name)
        (tree / f"src/groundwork/{module}.py").write_text(text, encoding="utf-8")
        return noticed(tree, module), what


def main(arguments: list[str]) -> int:
    count = int(arguments[0]) if arguments else 100
    seed = int(arguments[1]) if len(arguments) > 1 else 0
    modules = tuple(arguments[2:]) or DECIDE
    every = candidates(modules)
    chosen = random.Random(seed).sample(every, min(count, len(every)))
    unanswered = 0
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for done, (seen, what) in enumerate(pool.map(lambda pair: trial(*pair), chosen), start=1):
            unanswered += not seen
            if not seen:
                print(f"not noticed: {what}", flush=True)
            if done % 20 == 0:
                print(f"{done} of {len(chosen)}, {unanswered} unanswered", flush=True)
    print(f"{len(chosen)} changes of {len(every)}, {unanswered} unanswered ({unanswered / len(chosen):.1%})")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
