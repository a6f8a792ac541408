"""Templates as they are read, without their indentation: every page of a room kept for offline is lighter by it."""

import re

from django.template import Origin
from django.template.loaders import filesystem

_INDENT = re.compile(r"\n[ \t]+")


class Loader(filesystem.Loader):
    """Lines of a page begin where its text does, as many as there were. What is typed is no part of a template."""

    def get_contents(self, origin: Origin) -> str:
        text = super().get_contents(origin)
        return _INDENT.sub("\n", text) if str(origin.name).endswith(".html") else text
