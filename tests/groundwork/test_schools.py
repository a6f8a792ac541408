"""Each school's depth chain, worked by hand from the table of schools: paver + compacted bedding + layers. Pavers
laid 5 high on sand settle by 5, so sand is screeded 5 thicker than it ends. Common practice, no published source."""

import pytest

from groundwork.base import Role, SurfaceKey
from groundwork.brief import Traffic
from groundwork.schools import school, schools

BY_HAND = [
    # school, traffic, paver, bedding compacted, bound base, base, sub-base, dig, screed below finished (all mm)
    ("dense", "foot", 60, 25, 0, 100, 0, 185, 55),
    ("dense", "drive", 80, 25, 0, 150, 0, 255, 75),
    ("open", "foot", 60, 25, 0, 150, 0, 235, 60),
    ("open", "drive", 80, 25, 0, 200, 0, 305, 80),
    ("kerbed", "foot", 60, 30, 0, 0, 125, 215, 55),
    ("kerbed", "drive", 60, 30, 0, 0, 150, 240, 55),
    ("slab", "foot", 40, 25, 150, 0, 100, 315, 40),
    ("slab", "drive", 50, 25, 200, 0, 150, 425, 50),
    ("pervious", "drive", 80, 25, 150, 100, 25, 380, 80),
    ("rigid", "foot", 20, 35, 0, 0, 150, 205, 20),
    ("cells", "light", 40, 10, 0, 50, 0, 100, 40),
    ("cells", "drive", 40, 10, 0, 150, 0, 200, 40),
    ("slab-walk", "foot", 40, 25, 0, 110, 0, 175, 40),
    ("panel", "foot", 60, 0, 0, 20, 20, 100, None),
    # The slab is there: down to its underside, and nothing dug.
    ("overlay", "foot", 60, 25, 100, 0, 0, 185, 55),
]


@pytest.mark.parametrize(("key", "traffic", "paver", "bedding", "bound", "base", "sub", "dig", "screed"), BY_HAND)
def test_the_chain_down_to_the_formation(key, traffic, paver, bedding, bound, base, sub, dig, screed) -> None:
    built = school(key).specification(Traffic(traffic))
    roles = [Role.PAVING, Role.BEDDING, Role.BOUND_BASE, Role.BASE, Role.SUB_BASE]
    for role, by_hand in zip(roles, [paver, bedding, bound, base, sub], strict=True):
        layer = built.layer(role)
        assert (built.compacted(layer) * 1000 if layer else 0) == pytest.approx(by_hand), role
    assert built.excavation_depth * 1000 == pytest.approx(dig)
    assert paver + bedding + bound + base + sub == dig  # the table itself adds up
    tops = {surface.key: surface.depth * 1000 for surface in built.surfaces}
    if screed is not None:
        assert tops.get(SurfaceKey.SCREED, tops[SurfaceKey.BEDDING]) == pytest.approx(screed)


def test_all_ten_are_there_and_each_builds_for_every_traffic_it_is_for() -> None:
    assert set(schools()) == {row[0] for row in BY_HAND}
    for one in schools().values():
        for traffic in one.traffic:
            built = one.specification(traffic)
            for layer in built.layers:
                low, high = one.by_role[layer.role].bounds
                assert low <= built.compacted(layer) <= high
                assert built.compacted(layer) >= one.by_role[layer.role].least.get(traffic, 0)
        assert one.joint_bounds[0] <= one.joint_width <= one.joint_bounds[1]


@pytest.mark.parametrize(
    ("key", "traffic", "margin_mm"),
    [
        ("dense", "foot", 100),  # spiked into 100 mm of base, so at least that
        ("dense", "drive", 150),
        ("open", "drive", 200),
        ("rigid", "foot", 75),
        ("slab", "drive", 150),
        ("panel", "foot", 0),
    ],
)
def test_how_far_the_base_passes_the_edge(key: str, traffic: str, margin_mm: float) -> None:
    # 75 mm on foot, 150 under vehicles; at least the base's thickness where the edging is spiked. Common practice.
    assert school(key).specification(Traffic(traffic)).details.margin * 1000 == pytest.approx(margin_mm)


def test_water_goes_through_or_over() -> None:
    through = {key for key, one in schools().items() if one.specification(one.traffic[-1]).takes_water_in}
    assert through == {"open", "pervious"} == {k for k, one in schools().items() if one.water == "through"}


def test_unknown_names_say_what_there_is() -> None:
    with pytest.raises(ValueError, match="one of cells, dense"):
        school("wattle")
