"""A stand-in for a store that speaks S3: as much of it as keeping photos takes, in a folder. It asks for no key: for
tests and for trying things out. `python -m nivelum.watch.standin_store FOLDER PORT`"""

import hashlib
import re
import sys
import uuid
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import parse_qs, unquote, urlsplit
from xml.sax.saxutils import escape


class Store(BaseHTTPRequestHandler):
    """Objects of any bucket, each a file of the folder; a name is whole or not there."""

    folder = Path()
    protocol_version = "HTTP/1.1"

    @property
    def _file(self) -> Path:
        file = (self.folder / unquote(urlsplit(self.path).path).lstrip("/")).resolve()
        return file if file.is_relative_to(self.folder) else self.folder / "none"

    def do_PUT(self) -> None:
        content = self.rfile.read(int(self.headers["Content-Length"]))
        self._file.parent.mkdir(parents=True, exist_ok=True)
        half = self._file.with_name(f".{uuid.uuid4().hex}")
        half.write_bytes(content)
        half.replace(self._file)
        self._answer(200, ETag=f'"{hashlib.md5(content).hexdigest()}"')  # noqa: S324 (the protocol's own)

    def do_GET(self) -> None:
        asked = parse_qs(urlsplit(self.path).query)
        if "prefix" in asked or "delimiter" in asked or "list-type" in asked:
            self._answer(200, self._listed(asked).encode(), **{"Content-Type": "application/xml"})
        elif not self._file.is_file():
            self._answer(404, b"<Error><Code>NoSuchKey</Code></Error>", **{"Content-Type": "application/xml"})
        else:
            self._show(self._file.read_bytes())

    do_HEAD = do_GET  # noqa: N815

    def do_DELETE(self) -> None:
        self._file.unlink(missing_ok=True)
        self._answer(204)

    def _show(self, content: bytes) -> None:
        whole = len(content)
        if found := re.fullmatch(r"bytes=(\d+)-(\d*)", self.headers.get("Range", "")):
            first, last = int(found[1]), int(found[2] or whole - 1)
            self._answer(206, content[first : last + 1], **{"Content-Range": f"bytes {first}-{last}/{whole}"})
        else:
            self._answer(200, content, ETag=f'"{hashlib.md5(content).hexdigest()}"')  # noqa: S324

    def _listed(self, asked: dict[str, list[str]]) -> str:
        prefix, mark = asked.get("prefix", [""])[0], asked.get("delimiter", [""])[0]
        names = (str(file.relative_to(self._file)) for file in sorted(self._file.rglob("*")) if file.is_file())
        mine = [name.removeprefix(prefix) for name in names if name.startswith(prefix) and "/." not in f"/{name}"]
        folders = sorted({name.split(mark)[0] + mark for name in mine if mark and mark in name})
        files = [name for name in mine if not (mark and mark in name)]
        return (
            f"<ListBucketResult><Prefix>{escape(prefix)}</Prefix><IsTruncated>false</IsTruncated>"
            + "".join(f"<Contents><Key>{escape(prefix + name)}</Key><Size>1</Size></Contents>" for name in files)
            + "".join(f"<CommonPrefixes><Prefix>{escape(prefix + n)}</Prefix></CommonPrefixes>" for n in folders)
            + "</ListBucketResult>"
        )

    def _answer(self, status: int, body: bytes = b"", **headers: str) -> None:
        self.send_response(status)
        for name, value in headers.items():
            self.send_header(name, value)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("Last-Modified", "Thu, 01 Jan 2026 00:00:00 GMT")
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def log_message(self, *_arguments: object) -> None:
        """It says nothing."""


def store(folder: Path, port: int = 0) -> ThreadingHTTPServer:
    """A store in `folder` on loopback, not serving yet."""
    handler = type("Here", (Store,), {"folder": folder.resolve()})
    return ThreadingHTTPServer(("127.0.0.1", port), handler)


if __name__ == "__main__":
    store(Path(sys.argv[1]), int(sys.argv[2])).serve_forever()
