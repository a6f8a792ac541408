"""The dig: every station of the formation as judged, and what the D rules find."""

from collections import defaultdict
from collections.abc import Iterable, Iterator

from groundwork.base import Tolerance
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.survey.shots import StationAnswer, unshot_finding
from groundwork.verdict import FILL_LIFT, Standing

BASE_SHORT = 0.010
"""A formation higher than this, though within its limit, leaves the base short (common practice)."""


def formation_findings(ground: Iterable[StationAnswer], tolerance: Tolerance) -> Iterator[Finding]:
    """The D rules on the formation as shot."""
    standing: dict[Standing, list[StationAnswer]] = defaultdict(list)
    answers = tuple(ground)
    for answer in answers:
        standing[answer.judgement.standing].append(answer)
    high, low = tolerance.high, tolerance.low

    def stop(rule: str, kind: Standing, found: str, limit: Words, why: str, cure: str) -> Iterator[Finding]:
        if at := standing[kind]:
            worst = max(abs(a.judgement.deviation or 0.0) for a in at)
            words = Words(found, {"worst": worst}, {"n": len(at)})
            names = tuple(a.station.name for a in at)
            yield Finding(rule, Severity.STOP, words, limit, why, cure, _source(rule), names)

    above = Words("at most {high} above design", limits={"high": high})
    below = Words("at most {low} below design", limits={"low": low})
    both = Words("{high} above to {low} below design, sure of it", limits={"high": high, "low": low})
    settles = "Soil put back settles under load; stone compacted in lifts does not."
    yield from stop(
        "D02", Standing.DIG, "{n} not deep enough, up to {worst} high", above,
        "A high formation steals thickness from the base.", "Dig to the target reading and shoot again.",
    )  # fmt: skip
    yield from stop(
        "D03", Standing.OVER_DUG, "{n} over-dug, up to {worst} low", below,
        settles, "Fill with base stone, compact, log the fill and shoot again.",
    )  # fmt: skip
    yield from stop(
        "D03", Standing.FILLED, "{n} filled and not shot since", below,
        "The fill has to be compacted up to the formation's level.", "Compact and shoot again.",
    )  # fmt: skip
    yield from stop(
        "D03", Standing.UNEXPLAINED, "{n} over-dug, now at level, with nothing logged as fill", below,
        settles, "Log what filled it, or strike out the reading that was wrong.",
    )  # fmt: skip
    yield from stop(
        "D03", Standing.UNSOUND_FILL, "{n} filled with soil or in too few lifts",
        Words("stone, in lifts of at most {lift}", {"lift": FILL_LIFT}),
        settles, "Take it out, fill with stone in lifts, compact each, shoot again.",
    )  # fmt: skip
    yield from stop(
        "D02", Standing.TOO_CLOSE, "{n} too close to the limit to call", both,
        "The reading itself is uncertain; nearer to the limit than that, it is no verdict.",
        "Shoot again on the same ground, or trim towards design.",
    )  # fmt: skip
    yield from stop(
        "D02", Standing.UNKNOWN, "{n} read from what no longer holds", both,
        "A level is worth no more than what it was read from.", "Shoot again.",
    )  # fmt: skip
    if short := [a for a in standing[Standing.GOOD] if (a.judgement.deviation or 0.0) > BASE_SHORT + 1e-9]:
        worst = max(a.judgement.deviation or 0.0 for a in short)
        yield Finding(
            "D02", Severity.WARNING, Words("{n} high within their limit, up to {worst}", {"worst": worst},
                                           {"n": len(short)}),
            Words("{limit} above design", {"limit": BASE_SHORT}),
            "The top of the base is held, so the base comes out thinner by as much.",
            "Trim them while the machine is here.", Source.PRACTICE, tuple(a.station.name for a in short),
        )  # fmt: skip
    if missing := unshot_finding(answers):
        yield missing


def _source(rule: str) -> Source:
    return {"D02": Source.MEMORY}.get(rule, Source.PRACTICE)
