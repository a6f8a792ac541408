"""Small filters of the record's page."""

from collections.abc import Mapping
from typing import Any

from django import template

register = template.Library()


@register.filter
def at_key(rows: Mapping[Any, Any], key: Any) -> Any:
    """What stands under a key; nothing where nothing does."""
    return rows.get(key, "")
