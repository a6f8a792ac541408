"""What a kind of edge is sold as: the sizes one would type, and the plan they come to where nobody has typed any."""

from groundwork.edgework import EdgeKind, EdgePlanned
from groundwork.measures import Measured

FOOT, INCH = 0.3048, 0.0254
SIZES = ("upstand", "length", "joint", "width", "height")
USUAL = {
    EdgeKind.KERB: ((0.025, 0.915, 0.003, 0.125, 0.150), (INCH, 3 * FOOT, INCH / 8, 4 * INCH, 6 * INCH)),
    EdgeKind.CHANNEL: ((-0.005, 0.915, 0.003, 0.255, 0.125), (-INCH / 4, 3 * FOOT, INCH / 8, 10 * INCH, 5 * INCH)),
    EdgeKind.SPIKED: ((0.0, 2.4, 0.0, 0.008, 0.050), (0.0, 8 * FOOT, 0.0, INCH / 4, 2 * INCH)),
    EdgeKind.CONCRETE: ((0.0, 3.0, 0.0, 0.150, 0.150), (0.0, 10 * FOOT, 0.0, 6 * INCH, 6 * INCH)),
    EdgeKind.ANGLE: ((0.0, 2.4, 0.0, 0.050, 0.050), (0.0, 8 * FOOT, 0.0, 2 * INCH, 2 * INCH)),
    EdgeKind.FORM: ((0.0, 2.4, 0.0, 0.050, 0.150), (0.0, 8 * FOOT, 0.0, 2 * INCH, 6 * INCH)),
    EdgeKind.WALL: ((0.0, 3.0, 0.0, 0.200, 0.300), (0.0, 10 * FOOT, 0.0, 8 * INCH, 12 * INCH)),
}
"""Of each kind as it is sold, metric and in feet and inches, metres (common practice, no published source): upstand,
length, joint, width, height."""


def usual_edge(kind: EdgeKind, side: int, *, metric: bool) -> EdgePlanned:
    """The plan of such an edge along a side, as it is sold; nobody has recorded it."""
    sizes = {name: Measured("", metres) for name, metres in zip(SIZES, USUAL[kind][not metric], strict=True)}
    return EdgePlanned("", side, kind, **sizes)
