"""Help inside: hints for somebody's first job, what the words on the screens mean, and the keys."""

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

HINTS: dict[str, Promise] = {
    "yard": _("Start a job with its name, an outline and one height. Everything else can come later."),
    "new-job": _("Walk round it and type each side, or tape from two corners. One height is enough to begin."),
    "base": _("Choose how it is built; what your choice asks for stands beside it. Then sign the brief."),
    "set-out": _("Tape between the pegs until each stands in its place."),
    "ground": _("Set the level up, then type what the rod reads. The large figure is what it should read."),
    "lifts": _("Each layer is placed, rolled and tested here, lift by lift."),
    "sign-offs": _("What holds a stage stands here. With nothing left, sign: it opens the next."),
    "record-page": _("All that was recorded, by whom and when. Hand it on as a link or a PDF."),
}
"""By the name of the page they stand on, in the order of a job."""

WORDS: list[tuple[Promise, list[tuple[Promise, Promise]]]] = [
    (_("Site and surface"), [
        (_("area"), _("the outline that is paved, seen from above")),
        (_("facet"), _("a plane part of the finished surface: a level at a place, which way it falls, how steeply")),
        (_("fall"), _("how much a surface drops over how much length, as 1:60; downhill")),
        (_("formation"), _("the ground as dug, on which the first layer lies")),
        (_("station"), _("a place of the plan at which levels are taken, named A1, A2 … along the walk")),
        (_("mark"), _("a point of known level one looks back on")),
        (_("peg"), _("P1 … on the corners of the area")),
        (_("puddle"), _("water that stays when no more comes in")),
    ]),
    (_("Base"), [
        (_("school"), _("a way of building a base, with all that hangs on it")),
        (_("lift"), _("so much of a layer as is compacted at once")),
        (_("bedding"), _("what the pavers lie in; screeded, it is the screed")),
        (_("bay"), _("what is screeded in one draw of the board, between two lines of rails")),
        (_("haunch"), _("the concrete behind a kerb that holds it up")),
        (_("patch"), _("a numbered part of the area that is gone over by itself")),
        (_("pass"), _("once over a patch with a machine, along the fall or across it")),
        (_("tight"), _("a lift that is compacted, tested as its school asks, and level")),
    ]),
    (_("Reading and judging"), [
        (_("backsight"), _("the first reading from a set-up, on a mark or turning point")),
        (_("foresight"), _("a reading that closes a run, checks a mark or fixes a turning point")),
        (_("target"), _("what should be read at a station")),
        (_("tolerance"), _("how far above and below it may be")),
        (_("guard"), _("how far inside a limit a reading has to be before one is sure of it")),
        (_("stop"), _("what holds a stage until it is cured, or accepted where it may be")),
        (_("lip"), _("how far a unit stands over the one beside it")),
    ]),
    (_("Record"), [
        (_("entry"), _("one line of a job’s record, written once, never changed")),
        (_("strike out"), _("takes an entry out of what counts; it stays in the record")),
        (_("sign-off"), _("one signature of a stage: the lead’s, the engineer’s, a second look")),
        (_("overtaken"), _("signed, and no longer what was signed")),
        (_("acceptance"), _("a stop taken in writing, by whom, in which right, why")),
        (_("head"), _("the check code of the newest entry; it stands for the whole record")),
    ]),
]  # fmt: skip

KEYS: list[tuple[str, Promise]] = [
    ("?", _("this list")),
    ("Tab", _("to the next thing one can do; the first is what comes next")),
    ("Enter", _("records what was typed")),
    ("+", _("in the field for the rod: asks a level that reads by itself")),
    ("← ↑ → ↓", _("on the plan: to the next station; on the line of stages: along it")),
    ("Esc", _("closes what hangs open")),
]
