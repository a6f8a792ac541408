"""The adviser's reasons on made-up jobs, against what the trade says. Common practice, no published source."""

from dataclasses import replace

from tests.groundwork.test_soundness import WALL, brief, details, job

from groundwork.brief import Neighbour, Outlet, Season, Soil, Traffic
from groundwork.schools import school, schools
from groundwork.soundness import advice, advise
from groundwork.soundness.adviser import (
    Side,
    disagreements,
)


def texts(site, key: str, side: Side) -> str:
    return " / ".join(r.words.text(site.unit) for r in advice(site, school(key)).reasons if r.side is side)


def test_every_school_is_listed_and_the_ruled_out_come_last() -> None:
    found = advise(job())
    assert {a.school.key for a in found} == set(schools())
    ruled_out = [a.ruled_out for a in found]
    assert ruled_out == sorted(ruled_out)
    assert {a.school.key for a in found if a.ruled_out} >= {"rigid", "slab-walk", "panel"}  # feet only, on a drive


def test_in_rain_and_cold_clean_stone_goes_on_and_fines_do_not() -> None:
    wet = brief(job(), season=Season.WET)
    assert "Goes on in rain" in texts(wet, "open", Side.FOR)
    assert "Fines go soft" in texts(wet, "dense", Side.AGAINST)
    freezing = brief(job(), season=Season.FREEZING)
    assert "in the cold" in texts(freezing, "open", Side.FOR)
    assert "frost" in texts(freezing, "slab", Side.AGAINST)
    rank = {a.school.key: n for n, a in enumerate(advise(brief(job(features=()), season=Season.WET)))}
    assert rank["open"] < rank["dense"]


def test_beside_a_foundation_dense_keeps_the_water_off() -> None:
    assert "foundation of hall" in texts(job(), "dense", Side.FOR)
    assert "foundation of hall" in texts(job(), "open", Side.AGAINST)
    assert "foundation" not in texts(job(features=()), "open", Side.AGAINST)
    for metres, counts in ((2.9, True), (3.1, False)):
        far = replace(WALL, points=((0, 5 + metres), (8, 5 + metres), (8, 12), (0, 12)))
        assert ("foundation of hall" in texts(job(features=(far,)), "open", Side.AGAINST)) is counts


def test_behind_a_raised_edge_the_outlet_decides() -> None:
    raised = brief(job(), raised=True, soil=Soil.CLAY)
    assert "bath under the paving" in texts(raised, "open", Side.AGAINST)
    # Between the two pipes: dense comes out, open 200 lower does not.
    between = replace(raised, outlet=Outlet("weep", (4.0, 0.0), 12.0, 9.70, 1 / 100, 0.05))
    assert "25 mm to spare" in texts(between, "dense", Side.FOR)
    assert "175 mm too low" in texts(between, "open", Side.AGAINST)
    keys = [a.school.key for a in advise(between)]
    assert keys.index("dense") < keys.index("open")


def test_the_base_beside_it_and_the_joints_count() -> None:
    beside = brief(job(), neighbour=Neighbour.DENSE)
    assert "same base" in texts(beside, "dense", Side.FOR)
    assert "draws fines" in texts(beside, "open", Side.AGAINST)
    wide = details(job(), joint=replace(job().specification.details.joint, width=0.008))
    assert "8 mm are outside" in texts(wide, "dense", Side.AGAINST)
    assert "outside" not in texts(wide, "open", Side.AGAINST)


def test_what_no_school_can_help_is_not_held_against_one() -> None:
    from groundwork.brief import DustControl

    dusty = brief(job(), dust_control=DustControl.NONE)
    assert not advice(dusty, school("dense")).ruled_out


def test_the_usual_base_is_taken_for_the_jobs_traffic() -> None:
    foot = advice(brief(job(), traffic=Traffic.FOOT), school("dense"))
    assert round(foot.specification.excavation_depth * 1000) == 185
    assert foot.quantities.excavation < advice(job(), school("dense")).quantities.excavation
    assert school("pervious").waiting_days == 7


def test_disagreements_name_schools_that_are_there() -> None:
    assert len(disagreements()) == 13
    assert all(set(d.schools) <= set(schools()) for d in disagreements())
    assert "norm" in advice(job(), school("dense")).disagreements[0].positions
