"""Where water may leave a surface of a job: drains, free edges, and under the paving the pipe."""

from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from groundwork.base import SurfaceKey
from groundwork.brief import Outlet
from groundwork.plan import Feature
from groundwork.surfaces import SAME, Bools, Mesh, Point

DRAIN_REACH = 0.15
"""Ground this near to a drain's line is taken by it, metres (common practice)."""
EDGE_REACH = 0.30
"""A free edge drawn this near to the area's edge is that edge, metres (common practice)."""


def shape_of(drain: Feature) -> BaseGeometry:
    """A drain's line, or its grate where it is drawn all round."""
    if len(drain.points) > 3 and drain.points[0] == drain.points[-1]:
        return shapely.Polygon(drain.points)
    return drain.shape


def kept_lines(
    facets: Sequence[Sequence[Point]], features: Sequence[Feature], outlet: Outlet | None
) -> Iterator[BaseGeometry]:
    """What a triangulation of the job's surfaces keeps as edges and vertices: where facets meet, given by their
    outlines, drains, the ends of free edges, the pipe."""
    if len(facets) > 1:
        yield from (shapely.LinearRing(outline) for outline in facets)
    for feature in features:
        if feature.kind == "drain":
            yield shapely.LineString(feature.points) if len(feature.points) > 1 else shapely.Point(feature.points[0])
        elif feature.kind == "free edge":
            yield from (shapely.Point(end) for end in (feature.points[0], feature.points[-1]))
    if outlet:
        yield shapely.Point(outlet.at)


def outlets(
    mesh: Mesh, area: BaseGeometry, features: Sequence[Feature], pipe: Outlet | None, kind: SurfaceKey
) -> Bools:
    """The vertices water leaves by. The pipe takes it from the formation only. An edge nobody named holds it; beyond
    an edge of what is known nothing is said, so water may go there."""
    points = shapely.points(mesh.points)
    found = np.zeros(len(mesh.points), dtype=bool)
    on_edge = mesh.rim & shapely.dwithin(area.boundary, points, SAME)
    found |= mesh.rim & ~on_edge
    for feature in features:
        if feature.kind == "drain":
            found |= shapely.dwithin(shape_of(feature), points, DRAIN_REACH)
        elif feature.kind == "free edge":
            found |= on_edge & shapely.dwithin(feature.shape, points, EDGE_REACH)
    if pipe and kind is SurfaceKey.FORMATION:
        found |= shapely.dwithin(shapely.Point(pipe.at), points, DRAIN_REACH)
    return found
