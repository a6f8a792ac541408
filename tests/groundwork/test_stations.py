"""Stations over an area."""

import math
from itertools import pairwise

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from groundwork.plan import lay, neighbour

ELL = shapely.Polygon([(0, 0), (17.2, 0), (17.2, 6.4), (12.6, 6.4), (12.6, 10.8), (0, 10.8)])


def test_a_grid_and_every_corner_with_names_to_call_out() -> None:
    stations = lay(ELL, 2.5)
    names = [station.name for station in stations]
    assert len(set(names)) == len(names)
    assert {f"X{n}" for n in range(1, 7)} == {s.name for s in stations if s.is_corner}
    corners = {s.at for s in stations if s.is_corner}
    assert corners == {(x, y) for x, y in ELL.exterior.coords}
    assert not any(letter in name for name in names for letter in "IO")


def test_walked_to_and_fro_without_doubling_back() -> None:
    stations = lay(shapely.Polygon([(0, 0), (10, 0), (10, 6), (0, 6)]), 2)
    walk = sum(math.dist(a.at, b.at) for a, b in pairwise(stations))
    there_and_back = sum(math.dist(stations[0].at, s.at) for s in stations)
    assert [s.name for s in stations[:3]] == ["X1", "A1", "A2"]
    assert walk < 0.6 * there_and_back
    assert max(math.dist(a.at, b.at) for a, b in pairwise(stations)) < 4


@settings(max_examples=40, deadline=None)
@given(st.floats(3, 30), st.floats(3, 30), st.floats(1, 3), st.floats(-80, 80))
def test_nowhere_is_further_than_the_spacing_from_a_station(width, depth, spacing, turn) -> None:
    area = shapely.affinity.rotate(shapely.box(0, 0, width, depth), turn, origin=(0, 0))
    stations = lay(area, spacing)
    places = shapely.MultiPoint([s.at for s in stations])
    assert area.buffer(1e-3).covers(places)
    west, south, east, north = area.bounds
    for i in range(12):
        for j in range(12):
            spot = shapely.Point(west + (east - west) * i / 11, south + (north - south) * j / 11)
            if area.covers(spot):
                assert spot.distance(places) <= spacing * 0.75


def test_a_spacing_that_would_take_all_year_is_refused() -> None:
    with pytest.raises(ValueError, match="6000"):
        lay(shapely.box(0, 0, 100, 100), 1)


def test_arrow_keys_find_the_station_that_way() -> None:
    stations = lay(shapely.box(0, 0, 10, 6), 2)
    assert neighbour(stations, "B2", (1, 0)) == "B3"
    assert neighbour(stations, "B2", (0, 1)) == "C2"
    assert neighbour(stations, "B2", (0, -1)) == "A2"
    assert neighbour(stations, "X2", (1, 0)) == "X2"
