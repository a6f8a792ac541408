"""Files on this machine's disk that are whole or not there, through a power cut too."""

import os
import uuid
from pathlib import Path

from django.core.files.base import File
from django.core.files.storage import FileSystemStorage


class WholeFiles(FileSystemStorage):
    """A file is on the disk before it has its name; one of the same name takes its place."""

    def __init__(self) -> None:
        super().__init__(allow_overwrite=True)

    def _save(self, name: str, content: "File[bytes]") -> str:
        file = Path(self.path(name))
        file.parent.mkdir(parents=True, exist_ok=True)
        half = file.with_name(f".{uuid.uuid4().hex}")
        try:
            written(half, content.read())
            half.replace(file)
            _sync(file.parent)
        finally:
            half.unlink(missing_ok=True)
        return name


def written(file: Path, content: bytes) -> None:
    """Writes a file through to the disk."""
    with file.open("wb") as half:
        half.write(content)
        half.flush()
        os.fsync(half.fileno())


def _sync(folder: Path) -> None:
    """Makes a name in a folder last through a power cut."""
    opened = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)
