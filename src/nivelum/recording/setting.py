"""What a page that sets tops to a level goes on with where there is no signal: each place with what should be read
there, and what a reading comes to."""

from collections.abc import Iterable
from typing import Any, NamedTuple

from django.utils.html import json_script
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext

from groundwork.measures import LONGEST_ROD, Unit, format_reading
from groundwork.survey import SettingRule, TopOutcome
from groundwork.verdict import Call, Foreseen

NEVER = 10.0
"""Metres nothing that is set is off its level by."""
CSS = {Call.GOOD: "good", Call.TOO_CLOSE: "close", Call.HIGH: "dig", Call.LOW: "dig"}


class SettingPlace(NamedTuple):
    """A place to set: the `fields` of its form, what it is `called`, and its `name` on the press; what should be read
    there, metres, and what a reading will come to, where anything can be read."""

    fields: dict[str, str]
    called: str
    name: str
    target: float | None
    foreseen: Foreseen | None
    is_done: bool


def set_rows(
    places: Iterable[SettingPlace], rule: SettingRule, unit: Unit, longest: float = LONGEST_ROD
) -> dict[str, Any]:  # fmt: skip
    """Every place as a page’s script reads it, nothing read of more than `longest`, metres; what readings come to is
    said once, in `rules`."""
    rules: dict[tuple[TopOutcome, ...], int] = {}
    rows = [
        {
            "fields": place.fields, "called": place.called, "name": place.name, "done": place.is_done,
            "target": "—" if place.target is None else format_reading(place.target, unit),
            "table": _table(place.foreseen, rule, rules, longest),
        }
        for place in places
    ]  # fmt: skip
    return {"unit": str(unit), "rules": [list(map(_outcome, outcomes)) for outcomes in rules], "places": rows}


def travels(rows: dict[str, Any], chosen: dict[str, str]) -> dict[str, Any]:
    """What a page goes on with: its rows, and the table of the place in hand."""
    table = next((row["table"] for row in rows["places"] if row["fields"] == chosen), None)
    whole = table and table | {"outcomes": rows["rules"][table["outcomes"]]}
    return rows | {"tables": [whole, whole]}


END = "}</script>"


def rows_script(rows: dict[str, Any]) -> SafeString:
    """The rows as a page carries them along: the dear part of it, the same whatever is in hand."""
    return json_script(rows, "foretold-data")


def travelling(rows: dict[str, Any], script: SafeString, chosen: dict[str, str]) -> SafeString:
    """What a page goes on with, as `travels` says: the rows as they were written already, and the tables of the place
    in hand."""
    tables = json_script({"tables": travels(rows, chosen)["tables"]})
    return mark_safe(f"{script.removesuffix(END)}, {tables[tables.index('{') + 1 :]}")


def _table(
    found: Foreseen | None, rule: SettingRule, rules: dict[tuple[TopOutcome, ...], int], longest: float
) -> dict[str, Any] | None:  # fmt: skip
    if found is None:
        return None
    number = rules.setdefault(rule.outcomes(found.guard), len(rules))
    return {"offset": found.offset, "factor": found.factor, "guard": found.guard, "most": NEVER, "judged": True,
            "longest": longest, "outcomes": number}  # fmt: skip


def _outcome(each: TopOutcome) -> dict[str, Any]:
    return {"at": max(each.at, -NEVER), "guards": each.guards, "base": 0.0, "says": gettext(each.phrase),
            **dict.fromkeys(("standing", "css", "mark"), CSS[each.call])}  # fmt: skip
