"""Reads pinned requirements and writes them with the hashes of every file of each version, as the package index names
them: no file is fetched for it. Usage: hashes.py PINNED"""

import html.parser
import re
import sys
import urllib.parse
import urllib.request
from pathlib import Path

INDEX = "https://pypi.org/simple/"
PIN = re.compile(r"^([A-Za-z0-9._-]+)==(\S+)")


class Files(html.parser.HTMLParser):
    """The links of an index's page."""

    def __init__(self) -> None:
        super().__init__()
        self.links: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag == "a":
            self.links += [value for name, value in attrs if name == "href" and value]


def hashes(name: str, version: str) -> list[str]:
    canonical = re.sub(r"[-_.]+", "-", name).lower()
    with urllib.request.urlopen(f"{INDEX}{canonical}/", timeout=60) as page:  # noqa: S310 (a fixed https address)
        found = Files()
        found.feed(page.read().decode())
    name_of = re.escape(canonical).replace(r"\-", "[-_.]+")
    mine = re.compile(f"{name_of}-{re.escape(version)}" + r"(-|\.tar|\.zip)", re.IGNORECASE)
    split = [urllib.parse.urlsplit(link) for link in found.links]
    return sorted(
        {each.fragment.removeprefix("sha256=") for each in split
         if each.fragment.startswith("sha256=") and mine.match(urllib.parse.unquote(each.path.rsplit("/", 1)[-1]))}
    )  # fmt: skip


for line in Path(sys.argv[1]).read_text(encoding="utf-8").splitlines():
    pinned = PIN.match(line)
    if not pinned:
        print(line)
        continue
    of = hashes(pinned[1], pinned[2])
    if not of:
        sys.exit(f"the index has no file of {pinned[0]}")
    print(" \\\n    ".join([pinned[0], *(f"--hash=sha256:{each}" for each in of)]))
