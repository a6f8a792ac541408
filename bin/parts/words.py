"""Compiles the catalogues of words in src/nivelum/locale: what a region's own catalogue says, and for every other
phrase of the product its words as `regions.toml` has them. `--check` only says whether they are current. A phrase
with other gaps to fill than the original is refused, and so is one of a catalogue that the product no longer says."""

import ast
import io
import re
import sys
import tomllib
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po
from django.utils.translation.template import templatize

SITE = Path("src/nivelum")
GAPS = re.compile(r"\{[^{}]*\}|%\(\w+\)[sd]|%[sd]")
TEXT = r"""u?(?:'{3}(?:.|\n)*?'{3}|"{3}(?:.|\n)*?"{3}|'(?:[^'\\\n]|\\.)*'|"(?:[^"\\\n]|\\.)*")"""
TRANSLATED = re.compile(rf"(?:\bn?gettext|\b_)\(\s*({TEXT})(?:\s*,\s*({TEXT}))?")
UNDATED = datetime(2000, 1, 1, tzinfo=UTC)  # the same words give the same file


def phrases() -> Iterator[tuple[str, ...]]:
    """Whatever the product may say: each text of its modules and of its tables, since many are translated where they
    are shown; of its templates what is translated, with a plural where it has one."""
    for path in sorted(Path("src").rglob("*.py")):
        if "migrations" not in path.parts:
            yield from ((text,) for text in _texts(ast.parse(path.read_text(encoding="utf-8"))))
    for path in sorted(Path("src").rglob("*.toml")):
        if path.parent.name != "locale":
            yield from ((text,) for text in _values(tomllib.loads(path.read_text(encoding="utf-8"))))
    for path in sorted(SITE.rglob("*.html")):
        for found in TRANSLATED.finditer(templatize(path.read_text(encoding="utf-8"))):
            yield tuple(ast.literal_eval(text) for text in found.groups() if text)


def _texts(tree: ast.AST) -> Iterator[str]:
    for node in ast.walk(tree):
        match node:
            case ast.Call(func=ast.Name(id="ngettext"), args=[ast.Constant(), ast.Constant(), *_]):
                pass  # said with its plural below
            case ast.Constant(value=str(text)):
                yield text


def _values(value: object) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict | list):
        for each in value.values() if isinstance(value, dict) else value:
            yield from _values(each)


class Region:
    """A region's words put in place of the product's own, in whole words outside of gaps, capitals kept."""

    def __init__(self, keep: list[str], words: list[tuple[str, str]]) -> None:
        self.words = dict(words)
        kept = "|".join([GAPS.pattern, r"<[^<>]*>", *keep])
        ours = "|".join(re.escape(word) for word in self.words)
        self.pattern = re.compile(rf"(?P<kept>{kept})|(?<![\w-])(?P<word>{ours})(?![\w-])", re.IGNORECASE)

    def says(self, text: str) -> str:
        return self.pattern.sub(self._word, text)

    def _word(self, found: re.Match[str]) -> str:
        if found["kept"]:
            return found["kept"]
        said = self.words[found["word"].lower()]
        return said[0].upper() + said[1:] if found["word"][0].isupper() else said


def compiled(words: Path, region: Region, product: list[tuple[str, ...]]) -> bytes:
    own = read_po(io.BytesIO(words.read_bytes()))
    catalogue = Catalog(locale=words.parents[1].name)
    catalogue.creation_date = catalogue.revision_date = UNDATED
    known = {text for each in product for text in each}
    for message in own:
        texts = [message.string] if isinstance(message.string, str) else list(message.string)
        asked = message.id if isinstance(message.id, str) else message.id[-1]
        for text in texts if message.id else ():
            if sorted(GAPS.findall(text)) != sorted(GAPS.findall(asked)):
                sys.exit(f"{words}:{message.lineno}: “{text}” has not the gaps of “{asked}”")
        if message.id and asked not in known:
            sys.exit(f"{words}:{message.lineno}: nothing says “{asked}”")
        if message.id:
            catalogue.add(message.id, message.string)
    for each in product:
        said = tuple(region.says(text) for text in each)
        if said != each and each[0] not in catalogue:
            catalogue.add(each if len(each) > 1 else each[0], said if len(said) > 1 else said[0])
    written = io.BytesIO()
    write_mo(written, catalogue)
    return written.getvalue()


def main() -> None:
    regions = tomllib.loads((SITE / "locale/regions.toml").read_text(encoding="utf-8"))
    product = list(dict.fromkeys(phrases()))
    stale = []
    for name, region in regions.items():
        words = SITE / f"locale/{name}/LC_MESSAGES/django.po"
        made, target = compiled(words, Region(**region), product), words.with_suffix(".mo")
        if not target.exists() or target.read_bytes() != made:
            stale.append(str(target))
            if "--check" not in sys.argv:
                target.write_bytes(made)
    if stale and "--check" in sys.argv:
        sys.exit(f"{', '.join(stale)}: run bin/words")


if __name__ == "__main__":
    main()
