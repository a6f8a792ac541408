"""What is the base made of? Layers, their materials, tolerances, and how much of each is wanted."""

from groundwork.base.fabric import (
    FabricPlan,
    fabric_plan,
)
from groundwork.base.materials import (
    POURED,
    STONE,
    Family,
    Material,
    catalogue,
    material,
)
from groundwork.base.specification import (
    FORMATION_TOLERANCE,
    GREATEST_LIFT,
    LEAST_OF_BASE,
    BaseSpecification,
    Course,
    Details,
    GridJoints,
    Joint,
    Layer,
    Reinforcement,
    Role,
    Surface,
    SurfaceKey,
    Tolerance,
)
from groundwork.base.takeoff import (
    SWELL,
    Quantities,
    quantities,
)

__all__ = [
    "FORMATION_TOLERANCE",
    "GREATEST_LIFT",
    "LEAST_OF_BASE",
    "POURED",
    "STONE",
    "SWELL",
    "BaseSpecification",
    "Course",
    "Details",
    "FabricPlan",
    "Family",
    "GridJoints",
    "Joint",
    "Layer",
    "Material",
    "Quantities",
    "Reinforcement",
    "Role",
    "Surface",
    "SurfaceKey",
    "Tolerance",
    "catalogue",
    "fabric_plan",
    "material",
    "quantities",
]
