"""Every number the rules stand on, as it is given outside the code: a hundredth of it more is seen here. The rules
that go by it are held at both its sides beside their subject."""

from importlib import import_module

import pytest

from groundwork.brief import Soil
from groundwork.tools import MachineKind

PUBLISHED = {
    # Guarded acceptance, one wrong call in twenty: 5 % point of the normal distribution (JCGM 106:2012, tables).
    "verdict.judgement": {"COVERAGE": 1.645},
    # Sub-base by CBR for light traffic (UK practice, from memory), metres.
    "strength.soil": {"TABLE": ((2.0, 0.350), (3.0, 0.300), (4.0, 0.250), (5.0, 0.225)), "GREATEST_CBR": 100.0},
    # Misclosure of construction levelling, ±5 mm √n (from memory).
    "levels.levelling": {"MISCLOSURE": 0.005},
    # Standard gravity to the hundredth (CGPM 1901).
    "levels.references": {"GRAVITY": 9.81},
    # Density ratio: any one no more than three points under the mean asked (UK and US practice, from memory);
    # oversize corrected up to 40 % by mass (ASTM D4718).
    "laboratory.density": {"ONE_UNDER": 0.03, "MOST_OVERSIZE": 0.40},
    # Passes for unbound mixtures at 110, 150 and 225 mm (UK highway works specification, table 8/4, from memory).
    "tools.machines": {"DEPTHS": (0.110, 0.150, 0.225)},
    # Falls: 1:80 least, 1:60 usual; 1:20 steep to walk on, 1:12 too steep (common guidance on access, from memory).
    "soundness.rules": {"LEAST_FALL": 1 / 80, "USUAL_FALL": 1 / 60, "STEEP": 1 / 20, "TOO_STEEP": 1 / 12,
                        "JOINTS_APART": 4.5},
}  # fmt: skip
PRACTICE = {
    "base.takeoff": {"SWELL": 1.25},  # spoil, 1.2 to 1.3
    "built.asbuilt": {"OUT_SHARE": 0.5, "LEAST_TOLD": 0.001, "LEAST_COMPACT": 0.15, "TOWARDS": 0.01, "LEVEL": 0.002,
                      "ABOUT_A_SPACING": 1.02},
    "levels.bubble": {"LEAST_U": 0.0015, "SHARE_U": 0.15},
    "levels.levelling": {"SOUND_TILT": 0.0001, "STEEPEST_TILT": 0.005},  # 3 mm in 30 m; past adjusting
    "levels.references": {"STRING_REACH": 0.5, "LONGEST_DIP": 2.0, "HIGHEST_TIE": 2.0},
    "lifts.history": {"NEAR_OPTIMUM": 0.02, "DRY_BY": 0.02, "STILL": 0.002, "THIN_SKIN": 0.040},
    "lifts.plan": {"LOAD": 8000.0, "TABLE_COUNTS_AS": 2, "FEWEST_FOR_SPREAD": 2, "A_POINT": 0.01},
    "lifts.pours": {"WASTE": 1.05, "TRUCK": 6.0, "THICKNESSES_APART": 30, "APART": 4.5, "GIVES": 0.005, "COLD": 5.0},
    "lifts.subgrade": {"PUSHED": 0.025, "RUT": 0.025, "DEEP": 1.2, "SOIL_DENSITY": 1700.0,
                       "DOSES": {"lime": (0.02, 0.06), "cement": (0.03, 0.08)}},
    "schools.catalogue": {"THINNEST_AND_THICKEST": [10, 50]},
    "setout.pegs": {"PEG_LIMIT": 0.010, "TAPE_U": 0.002, "TAPE_RATE": 0.0001, "DISAGREEMENT": 3.0},
    "soundness.designed": {"MOST_STANDING": 0.003},
    "soundness.rules": {"TIGHT_JOINT": 0.005, "SIDELONG": 0.001},
    "strength.soil": {"SOFT": 3.0, "PRESUMED": {Soil.ROCK: 60, Soil.GRAVEL: 20, Soil.SAND: 10, Soil.SILT: 2,
                                                Soil.CLAY: 2.5, Soil.PEAT: 0.5}},
    "survey.dig": {"BASE_SHORT": 0.010},
    "survey.fallcheck": {"SHARE": 0.8},
    "survey.shots": {"UNSHOT_SHARE": 0.1},
    "survey.survey": {"LEAST_SPREAD": 0.0025},
    "tools.machines": {
        "USUAL_SPEED": {MachineKind.PLATE: 0.35, MachineKind.TAMPER: 0.20, MachineKind.ROLLER: 0.45,
                        MachineKind.HAND: 0.10},
        "USUAL_VIBRATION": {MachineKind.PLATE: 5, MachineKind.TAMPER: 8, MachineKind.ROLLER: 3, MachineKind.HAND: 0},
        "LIGHT_LIFT": 0.050, "BY_FORCE": ((15, 0.075), (25, 0.100), (45, 0.150)), "FEWEST": 3, "AT_WORK": 0.75},
    "verdict.judgement": {"MOST_LOOKS": 12, "LEAST_SHOWN": 0.001, "FILL_LIFT": 0.075, "SKIN": 0.040},
    "verdict.misread": {"NEIGHBOURS": 8, "FITTED": 3, "SURE": 3.5, "FAR": 6.0, "FEW_NEIGHBOURS": 0.08},
}  # fmt: skip
"""Common practice, no published source."""


@pytest.mark.parametrize("module", sorted(PUBLISHED | PRACTICE))
def test_a_modules_numbers_are_those_it_was_given(module: str) -> None:
    given = PUBLISHED.get(module, {}) | PRACTICE.get(module, {})
    held = vars(import_module(f"groundwork.{module}"))
    assert {name: held[name] for name in given} == given
