"""Numbers of the rules held at both their sides, and tables cell by cell, against the trade's own figures: common
practice, no published source, unless said. Each row was once a change that nothing noticed."""

from dataclasses import replace
from datetime import date

import pytest
from tests.groundwork.test_lifts import JOB, mm, of, works
from tests.groundwork.test_soundness import brief, damp, details, falling, layer
from tests.groundwork.test_soundness import job as sound_job
from tests.groundwork.test_stages import job as staged

from groundwork import worked as w
from groundwork.adviser import advise
from groundwork.assess import assess
from groundwork.base import Role
from groundwork.brief import Traffic
from groundwork.conditions import LIMITS
from groundwork.levelling import allowed_misclosure
from groundwork.measure import Unit
from groundwork.schools import school
from groundwork.soundness import soundness
from groundwork.stagebook import Check
from groundwork.strength import layer_sum, least_sub_base

CHECK = Check("c", "c", "", "", 1)


def said(site, rule: str) -> list[tuple[str, str, str]]:
    return [(f.found.phrase, f.limit.text(Unit.MILLIMETRES), str(f.severity))
            for f in soundness(site) if f.rule == rule]  # fmt: skip


def test_a_damp_proof_course_under_the_paving_is_said_to_be_so() -> None:
    for under, phrase in ((0.1, "{name}: finished level {clear} under it"),
                          (0.0, "{name}: finished level {clear} under it"),
                          (-0.02, "{name}: finished level {clear} over it")):  # fmt: skip
        assert said(sound_job(heights=(damp(under),)), "S02") == [
            (phrase, "at least 150 mm under a damp-proof course", "stop")
        ]


@pytest.mark.parametrize(("one_in", "limit", "severity"), [
    (19.9, "1:20 where people walk", "note"), (12.0, "1:20 where people walk", "note"),
    (11.9, "at most 1:12", "warning"),
])  # fmt: skip
def test_how_steep_is_said_with_the_limit_that_is_passed(one_in, limit, severity) -> None:
    assert [each[1:] for each in said(falling(sound_job(), one_in), "S04")] == [(limit, severity)]


# Tight joints on chip under wheels: a warning where a school that lets water through has no other bed, else a stop.
@pytest.mark.parametrize(("key", "severity"), [("open", "warning"), ("dense", "stop")])
def test_tight_joints_on_chip_under_wheels(key, severity) -> None:
    site = sound_job(key, "drive")
    chip = layer(site, Role.BEDDING, material="chip")
    for width, expected in ((0.005, []), (0.0049, [severity])):
        tight = details(chip, joint=replace(chip.specification.details.joint, width=width))
        assert [each[2] for each in said(tight, "S08")] == expected
        on_foot = brief(tight, traffic=Traffic.FOOT)
        assert said(on_foot, "S08") == []


def test_units_under_sixty_break_under_wheels_without_a_slab() -> None:
    def breaks(thick: float, traffic: Traffic, key: str) -> bool:
        asked = brief(sound_job(), traffic=traffic, paver="concrete-block", paver_thickness=thick)
        found = next(a for a in advise(asked) if a.school.key == key)
        return any("break under wheels" in reason.words.phrase for reason in found.reasons)

    assert [breaks(t, Traffic.DRIVE, "dense") for t in (0.0599, 0.060)] == [True, False]
    assert not breaks(0.05, Traffic.FOOT, "dense") and not breaks(0.05, Traffic.DRIVE, "slab")


# Joint sand and mortar lie 0 to 5 mm below the edge, pebbles 10 to 15 mm over the rim of their cells; lips 2 mm,
# 3 between textured faces (industry guidance, from memory).
def test_what_joints_and_lips_are_measured_against() -> None:
    for key, (low, high) in {"dense": (0.0, 0.005), "cells": (-0.015, -0.010)}.items():
        assert LIMITS["fill"](CHECK, assess(staged(key))) == (low, high)
    for material, most in {"concrete-block": 0.002, "clay-paver": 0.003, "natural-stone": 0.003}.items():
        base = school("dense").specification(Traffic.FOOT)
        paved = replace(base, layers=(replace(base.layers[0], material=material), *base.layers[1:]))
        assert LIMITS["lip"](CHECK, assess(replace(JOB, specification=paved))) == (0.0, most)


@pytest.mark.parametrize(("came", "short"), [(0.951, False), (0.949, True)])
def test_less_concrete_than_the_shape_holds_by_a_twentieth(came, short) -> None:
    job = replace(JOB, specification=school("slab").specification(Traffic.DRIVE))
    volume = job.footprint.area * job.specification.layer(Role.BOUND_BASE).thickness * came
    poured = w.Poured("p", date(2026, 3, 19), volume, 15.0, mm(0))
    assert bool(of("B03", works(poured, job=job).pour_findings)) is short


# An inch of pavers and bedding 0.44, of dense base 0.14, of sub-base and clean stone 0.11 (AASHTO's coefficients and
# industry guidance, from memory).
def test_the_structural_number_of_a_base_by_hand() -> None:
    base = school("dense").specification(Traffic.DRIVE)
    by_role = {x.role: base.compacted(x) / 0.0254 for x in base.layers}
    stone = sum(0.14 * t if role is Role.BASE else 0.11 * t for role, t in by_role.items()
                if role not in (Role.PAVING, Role.BEDDING))  # fmt: skip
    units = 0.44 * (by_role[Role.PAVING] + by_role[Role.BEDDING])
    assert layer_sum(base) == pytest.approx(units + stone)
    cells = replace(base, layers=(replace(base.layers[0], material="filled-cells"), *base.layers[1:]))
    assert layer_sum(cells) == pytest.approx(stone)


# By CBR (light traffic, from memory): 2: 350; 3: 300; 4: 250; 5: 225; over 6: 150.
@pytest.mark.parametrize(("cbr", "thick"), [(2.0, 0.350), (3.0, 0.300), (4.0, 0.250), (5.0, 0.225), (6.01, 0.150),
                                             (20.0, 0.150)])  # fmt: skip
def test_the_soils_table_row_by_row(cbr, thick) -> None:
    assert least_sub_base(cbr) == pytest.approx(thick)


# ±5 mm √n, n set-ups (construction levelling, from memory).
@pytest.mark.parametrize(("set_ups", "allowed"), [(1, 0.005), (4, 0.010), (9, 0.015)])
def test_the_misclosure_allowed_grows_with_the_root_of_the_set_ups(set_ups, allowed) -> None:
    assert allowed_misclosure(set_ups) == pytest.approx(allowed)
