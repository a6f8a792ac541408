"""Is the record whole? Entries chained by their hashes, and heads that prove them."""

from groundwork.record.chain import (
    FIRST,
    HEAD_MARK,
    Fault,
    Head,
    entry_hash,
    first_fault,
    head_of,
    held_to,
    photo_fault,
    photos_named,
)

__all__ = [
    "FIRST",
    "HEAD_MARK",
    "Fault",
    "Head",
    "entry_hash",
    "first_fault",
    "head_of",
    "held_to",
    "photo_fault",
    "photos_named",
]
