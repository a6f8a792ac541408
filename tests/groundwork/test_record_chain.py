"""The chain of an exported record."""

import copy

from hypothesis import given
from hypothesis import strategies as st

from groundwork.record import FIRST, entry_hash, first_fault


def made(n: int) -> list[dict]:
    entries, previous = [], FIRST
    for number in range(1, n + 1):
        entry = {"number": number, "previous": previous, "body": {"reading": f"14{number:02}", "m": 1.4}}
        entry["hash"] = previous = entry_hash(entry)
        entries.append(entry)
    return entries


def test_a_hash_anyone_can_compute() -> None:
    # Independently: printf '%s' '{"a":"é","b":[1,2.5]}' | sha256sum
    expected = "123b424b7606d08d0756074e1f76051117423e1a66a03e02f56fd334de63705b"
    assert entry_hash({"b": [1, 2.5], "a": "é", "hash": "left out"}) == expected


@given(st.integers(2, 12), st.data())
def test_whatever_is_done_to_a_record_is_found_where_it_was_done(n: int, data) -> None:
    entries = made(n)
    head = entries[-1]["hash"]
    assert first_fault(entries, head) is None
    place = data.draw(st.integers(0, n - 1))
    harm = data.draw(st.sampled_from(["change", "remove", "swap", "insert", "cut"]))
    harmed = copy.deepcopy(entries)
    if harm == "change":
        harmed[place]["body"]["m"] = 1.5
    elif harm == "remove":
        del harmed[place]
    elif harm == "swap":
        other = (place + 1) % n
        harmed[place], harmed[other] = harmed[other], harmed[place]
        place = min(place, other)
    elif harm == "insert":
        harmed.insert(place, copy.deepcopy(harmed[place]) | {"body": {}})
    else:
        harmed, place = harmed[:place], place - 1
    fault = first_fault(harmed, head)
    assert fault is not None
    assert fault.place <= place + 2


def test_a_tail_rewritten_whole_is_only_caught_by_a_head_kept_elsewhere() -> None:
    entries = made(4)
    head = entries[-1]["hash"]
    rewritten, previous = entries[:2], entries[1]["hash"]
    for entry in copy.deepcopy(entries[2:]):
        entry |= {"previous": previous, "body": {"reading": "1"}}
        entry["hash"] = previous = entry_hash(entry)
        rewritten.append(entry)
    assert first_fault(rewritten) is None
    fault = first_fault(rewritten, head)
    assert fault is not None and fault.place == 4
