"""A step on is the same as a start: whatever is recorded in whatever order, what is carried over and what is read
afresh come to one assessment, evidence included. Reading afresh is what it is held against."""

import gc
import weakref
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import pytest
from tests.conftest import PAD
from tests.histories import differs

from groundwork.assess import advance, assess
from groundwork.entries import FallCheck, Reading, SetUp
from groundwork.files import loads
from groundwork.job import Design
from groundwork.measures import Measured
from groundwork.workings import JobPart, Workings, carried, noted


@pytest.mark.long
@pytest.mark.parametrize("first", range(0, 500, 25))
def test_a_step_comes_to_what_reading_afresh_does(first: int) -> None:
    assert [found for seed in range(first, first + 25) if (found := differs(seed, steps=3))] == []


class Shop(JobPart):
    """Boxes by name, and what is asked of them; `worked` is what had to be worked out."""

    PART = "shop"

    def __init__(self, boxes: dict[str, object], before: "Shop | None" = None) -> None:
        self.shop = self
        super().__init__(Workings(self, before.workings if before else None))
        self.boxes, self.worked = boxes, list[str]()

    @noted
    def box(self, name: str) -> object:
        return self.boxes[name]

    @carried
    def size(self, name: str, more: int = 0) -> int:
        self.worked.append(f"size {name} {more}")
        return len(self.box(name)) + more

    @property
    @carried
    def row(self) -> tuple[int, ...]:
        self.worked.append("row")
        return (self.size("a"), self.size("b") if self.size("a") else 0)

    @carried
    def missing(self, name: str) -> KeyError | None:
        try:
            return self.box(name) and None
        except KeyError as reason:
            return reason

    @property
    @carried
    def told(self) -> list[object]:
        self.worked.append("told")
        return [self.row]


class Asker:
    """Whoever asks: gone once it has been answered."""


def test_a_reason_is_kept_without_those_who_asked_for_it() -> None:
    shop = Shop({})

    def ask() -> tuple[KeyError | None, weakref.ref[Asker]]:
        asker = Asker()
        return shop.missing("a"), weakref.ref(asker)

    reason, asker = ask()
    assert isinstance(reason, KeyError) and shop.missing("a") is reason and reason.__traceback__ is None
    gc.collect()
    assert asker() is None


def test_what_hangs_on_the_same_is_carried_over_and_the_rest_worked_out_again() -> None:
    one = Shop({"a": "xy", "b": "xyz", "c": "c"})
    assert one.told == [(2, 3)] and one.told is one.told and one.worked == ["told", "row", "size a 0", "size b 0"]
    other = Shop(one.boxes | {"c": "else"}, one)  # what nobody read
    assert other.told is one.told and other.worked == []
    longer = Shop(other.boxes | {"b": "wxyz"}, other)
    assert longer.told == [(2, 4)] and longer.worked == ["size b 0", "row", "told"]


def test_what_comes_to_the_same_again_holds_up_what_hangs_on_it() -> None:
    one = Shop({"a": "xy", "b": "xyz"})
    told = one.told
    as_long = Shop({"a": "ab", "b": "abc"}, one)
    assert as_long.told is told and as_long.worked == ["size a 0", "size b 0"]


def test_what_is_not_asked_any_more_is_no_source() -> None:
    one = Shop({"a": "", "b": "x"})
    assert one.row == (0, 0)
    other = Shop({"a": "", "b": "other"}, one)
    assert other.row is one.row and other.worked == []  # of an empty a, b was never read
    third = Shop({"a": "x", "b": "other"}, other)
    assert third.row == (1, 5)


def test_each_thing_asked_is_its_own_and_what_raises_is_asked_again() -> None:
    shop = Shop({"a": "xy"})
    assert [shop.size("a"), shop.size("a", 0), shop.size("a", 1)] == [2, 2, 3]
    assert shop.worked == ["size a 0", "size a 1"]
    for _turn in range(2):
        with pytest.raises(KeyError):
            shop.size("none")
    assert shop.worked[2:] == ["size none 0"] * 2
    for given, named in (((), {}), (("a", 1, 2), {}), (("a",), {"more": 1})):
        with pytest.raises(TypeError):
            shop.size(*given, **named)


def read(name: str, station: str, low: float = 0.0) -> Reading:
    """A reading on the formation of the pad: the line of sight is at 11.5, the formation at A1 at 9.685."""
    metres = 1.815 + low if station == "A1" else 1.7
    return Reading(name, station, "s", Measured(f"{metres * 1000:g}", metres))


def test_a_reading_leaves_everything_it_does_not_touch_the_same_object() -> None:
    job = loads(PAD)
    recorded = (SetUp("s", "sill", Measured("1300", 1.3)), read("r1", "A1"), read("r2", "A2"))
    before = assess(replace(job, entries=recorded))
    before.stages.line  # noqa: B018 (worked out before the step)
    after = advance(before, [read("r3", "A1", 0.06)])
    assert after.surveys.ground["A1"].judgement.standing == "over-dug"
    assert after.surveys.ground["A2"] is before.surveys.ground["A2"]
    assert after.surveys.of("base") is before.surveys.of("base") and after.levels.runs is before.levels.runs
    assert after.setting_out.pegs is before.setting_out.pegs
    assert all(after.stages.of(key) is before.stages.of(key) for key in ("brief", "set-out"))
    assert before.surveys.ground["A1"].judgement.standing == "good"  # as it was


def test_a_fall_between_stations_a_new_design_has_no_more_says_nothing() -> None:
    check = FallCheck("f", "A1", "A3", Measured("4", 4.0), Measured("90", 0.09))
    job = loads(PAD)
    before = assess(replace(job, entries=(check,)))
    assert list(before.surveys.falls) == ["f"]
    after = advance(before, [Design("d", replace(job, station_spacing=4.0))])
    assert {s.name for s in after.job.stations} & {"A1", "A3"} != {"A1", "A3"} and after.surveys.falls == {}
    assert after.job.version == 2 and after.stages.line


def test_several_may_ask_of_a_state_while_it_is_taken_a_step_on() -> None:
    """Nothing that is read is changed by who reads it: threads that ask, and one that steps on, come to the same."""
    job = loads(PAD)
    before = assess(replace(job, entries=(SetUp("s", "sill", Measured("1300", 1.3)), read("r1", "A1"))))
    asked = [lambda a: a.stages.line, lambda a: a.works.lifts, lambda a: a.surveys.of("base").answers,
             lambda a: a.targets.at("A2"), lambda a: a.setting_out.findings] * 4  # fmt: skip
    with ThreadPoolExecutor(8) as pool:
        answers = [pool.submit(ask, before) for ask in asked]
        steps = [pool.submit(advance, before, [read(f"n{n}", "A2")]) for n in range(20)]
        lines = [str([repr(each) for each in step.result().stages.line]) for step in steps]
        assert len({str(answer.result()) for answer in answers[::5]}) == 1
    afresh = assess(replace(job, entries=(*before.job.entries, read("n0", "A2"))))
    assert set(lines) == {str([repr(each) for each in afresh.stages.line])}
