"""Draws the house from the code: every package with its question, on its floor, with arrows to what it stands on."""

import ast
import html
import sys
import textwrap
import tomllib
from pathlib import Path

SOURCE = Path("src")
TARGET = Path("docs/house.svg")
WIDTH, BOX, HIGH, GAP, FLOOR = 1500, 196, 62, 14, 96


def floors(container: str) -> list[list[str]]:
    """The packages of a container, floor by floor from above, as the import rules have them."""
    rules = tomllib.loads(Path("pyproject.toml").read_text(encoding="utf-8"))["tool"]["importlinter"]["contracts"]
    rule = next(rule for rule in rules if rule.get("containers") == [container])
    return [[name.strip() for name in floor.split("|")] for floor in rule["layers"]]


def files(container: str, name: str) -> list[Path]:
    place = SOURCE / container / name
    return sorted(place.rglob("*.py")) if place.is_dir() else [place.with_suffix(".py")]


def asks(container: str, name: str) -> str:
    """The first sentence of a package's docstring."""
    place = SOURCE / container / name
    text = (place / "__init__.py" if place.is_dir() else place.with_suffix(".py")).read_text(encoding="utf-8")
    said = ast.get_docstring(ast.parse(text)) or ""
    return said.split("?")[0] + "?" if "?" in said else said.split(".")[0]


def imports(container: str, name: str, known: set[str]) -> set[str]:
    found = set()
    for file in files(container, name):
        for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and node.module:
                parts = node.module.split(".")
                if parts[0] == container:
                    found |= {parts[1]} if len(parts) > 1 else {alias.name for alias in node.names}
    return (found & known) - {name}


def bare(arrows: dict[str, set[str]]) -> dict[str, set[str]]:
    """Without the arrows that others make up for: what one stands on by way of another."""

    def below(name: str) -> set[str]:
        return {each for direct in arrows[name] for each in (direct, *below(direct))}

    return {name: {to for to in tos if not any(to in below(other) for other in tos - {to})}
            for name, tos in arrows.items()}  # fmt: skip


def drawn(container: str, top: int) -> tuple[list[str], int]:
    rows = floors(container)
    known = {name for row in rows for name in row}
    arrows = bare({name: imports(container, name, known) for row in rows for name in row})
    at = {}
    for floor, row in enumerate(rows):
        wide = len(row) * BOX + (len(row) - 1) * GAP
        for place, name in enumerate(row):
            at[name] = (WIDTH - wide) / 2 + place * (BOX + GAP), top + floor * FLOOR
    out = []
    for name, tos in arrows.items():
        x, y = at[name]
        for to in sorted(tos):
            end, level = at[to]
            bend = (level - y - HIGH) / 2
            out.append(
                f'<path class="arrow" d="M{x + BOX / 2:.0f} {y + HIGH}C{x + BOX / 2:.0f} {y + HIGH + bend:.0f} '
                f'{end + BOX / 2:.0f} {level - bend:.0f} {end + BOX / 2:.0f} {level}"/>'
            )
    for name, (x, y) in at.items():
        words = textwrap.wrap(asks(container, name), 30)
        said = words[:2] if len(words) < 3 else [words[0], words[1][:27] + "…"]
        out.append(f'<rect x="{x:.0f}" y="{y}" width="{BOX}" height="{HIGH}"/>')
        out.append(f'<text class="name" x="{x + 10:.0f}" y="{y + 20}">{name}</text>')
        out += [f'<text class="asks" x="{x + 10:.0f}" y="{y + 37 + 15 * n}">{html.escape(each)}</text>'
                for n, each in enumerate(said)]  # fmt: skip
    return out, top + len(rows) * FLOOR


def picture() -> str:
    web, middle = drawn("nivelum", 70)
    core, bottom = drawn("groundwork", middle + 70)
    style = (
        "text{font-family:sans-serif;fill:#18222b}.name{font-weight:700;font-size:15px}.asks{font-size:11px}rect{fill:#fff;stroke:#18222b;stroke-width:1.5}"
        ".arrow{fill:none;stroke:#8a8578;stroke-width:1.3}.head{font-size:20px;font-weight:700}"
    )
    return "\n".join([
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {bottom}" width="{WIDTH}" height="{bottom}">',
        "<title>The house: what stands on what, and what each asks</title>",
        f"<style>{style}</style>", f'<rect width="{WIDTH}" height="{bottom}" style="fill:#ece9e1;stroke:none"/>',
        '<text class="head" x="24" y="40">nivelum: the web</text>', *web,
        f'<text class="head" x="24" y="{middle + 40}">groundwork: the craft</text>', *core, "</svg>", "",
    ])  # fmt: skip


if __name__ == "__main__":
    now = picture()
    if "--check" in sys.argv:
        if not TARGET.exists() or TARGET.read_text(encoding="utf-8") != now:
            sys.exit(f"{TARGET}: run bin/house")
    else:
        TARGET.write_text(now, encoding="utf-8")
