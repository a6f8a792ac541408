"""What checks say can be said in another language and unit without a change of code."""

import ast
import pickle
import re
from dataclasses import replace
from pathlib import Path

import pytest

import groundwork
from groundwork.measures import Said, Unit, Words, in_words, parse_bar, parse_fall, parse_length, parse_rod
from groundwork.plan import checked, from_sides, place
from groundwork.strength import parse_log

CORE = Path(groundwork.__file__).parent
FOR_FILES = ("JobFileError", "NoRecord", "TypeError")
"""Errors of files read on the command line, and of programmers: nobody translates those."""


def test_every_check_says_a_phrase_whose_gaps_are_filled_later() -> None:
    made_up = [
        f"{path.relative_to(CORE)}:{node.lineno}"
        for path in CORE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Raise)
        and isinstance(node.exc, ast.Call)
        and getattr(node.exc.func, "id", "") not in FOR_FILES
        and any(isinstance(argument, ast.JoinedStr) for argument in node.exc.args[-1:])
        and path.name not in ("cli.py", "exported.py")
    ]
    assert made_up == []


BAD = [
    lambda: parse_length("4 metres and a bit", Unit.METRES),
    lambda: parse_rod("-3", Unit.MILLIMETRES),
    lambda: parse_rod("99 m", Unit.METRES),
    lambda: parse_length("1,406 mm", Unit.MILLIMETRES),
    lambda: parse_length("4' 13\"", Unit.FEET_INCHES),
    lambda: parse_length('3/7"', Unit.FEET_INCHES),
    lambda: parse_bar("40 m", Unit.METRES),
    lambda: parse_fall("downhill"),
    lambda: checked([(0, 0), (9000, 0), (9000, 9000)]),
    lambda: checked([(0, 0), (0.1, 0), (0.1, 0.1)]),
    lambda: place("side 9", [(0, 0), (4, 0), (4, 3)], Unit.METRES),
    lambda: from_sides("3 90\n4 90\n3 95\n4.2", Unit.METRES),
    lambda: parse_log("one", "5 32\n5 20\n5 90", ""),
]


@pytest.mark.parametrize("check", BAD)
def test_a_check_reads_in_another_language_and_keeps_what_was_typed(check) -> None:
    with pytest.raises(Said) as caught:
        check()
    error = caught.value
    ours = in_words(error, Unit.METRES)
    theirs = in_words(error, Unit.METRES, lambda phrase: f"¿{phrase}?" if phrase == error.phrase else phrase)
    assert theirs == f"¿{ours}?"
    assert "{" not in ours
    again = pickle.loads(pickle.dumps(error))  # noqa: S301 (written here)
    assert str(again) == str(error) and type(again) is type(error)


def test_a_check_speaks_feet_to_those_who_read_feet() -> None:
    """By hand: 0.3 m is 1 foot to the nearest half, 6 m is 20 feet, 100 mm is 4 inches as the trade writes it; what
    was typed stays."""
    with pytest.raises(Said) as caught:
        parse_bar("0.2 m", Unit.FEET_INCHES)
    assert in_words(caught.value, Unit.FEET_INCHES) == "“0.2 m”: a straightedge is between 1′ and 20′ long"


def test_one_of_them_is_said_as_one() -> None:
    many = Words("{n} readings look misread", counts={"n": 2}, one="{n} reading looks misread")
    assert many.text(Unit.METRES) == "2 readings look misread"
    assert replace(many, counts={"n": 1}).text(Unit.METRES) == "1 reading looks misread"
    assert replace(many, counts={"n": 1}).text(Unit.METRES, "~{}".format) == "~1 reading looks misread"


PLURAL = re.compile(r"\{n\} (?:[a-z-]+ )?(?:days|stations|places|readings|runs|set-ups|tests|sides|lifts|spots)\b")


def test_no_phrase_says_one_stations() -> None:
    """Where a phrase counts things by their plural, it has another for one; `{n} of {all}` has none to say."""
    said_wrong = []
    for path in CORE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Words" and node.args:
                phrase = node.args[0].value if isinstance(node.args[0], ast.Constant) else ""
                if PLURAL.search(phrase) and not any(keyword.arg == "one" for keyword in node.keywords):
                    said_wrong.append(phrase)
    assert said_wrong == []


def test_what_people_have_named_stays_as_they_named_it() -> None:
    """A mark called as a word of the trade, or by its size, is put into no other region's words and not into feet."""
    words = Words("sight on {mark}, {machine}", names={"mark": "kerb", "machine": "2 m roller"})
    assert words.text(Unit.FEET_INCHES, lambda phrase: phrase.replace("kerb", "curb")) == "sight on kerb, 2 m roller"


def test_a_stiffness_short_of_what_is_asked_does_not_read_as_enough() -> None:
    """By hand: 119 and 120 MPa are 17 259 and 17 405 psi; 44 and 45 MPa 6 382 and 6 527."""
    found = [Words("{m}", stiffness={"m": m}) for m in (119, 120, 44, 45)]
    assert [each.text(Unit.METRES) for each in found] == ["119 MPa", "120 MPa", "44 MPa", "45 MPa"]
    assert [each.text(Unit.FEET_TENTHS) for each in found] == ["17,300 psi", "17,400 psi", "6,380 psi", "6,530 psi"]
