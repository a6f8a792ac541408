"""A school's base completed for a job: as it would have to be built there to be sound, before it is compared."""

from dataclasses import replace

from groundwork.base import POURED, BaseSpecification, Family, GridJoints, Layer, Role
from groundwork.brief import Neighbour
from groundwork.job import Job
from groundwork.measures import trade
from groundwork.schools import School, school
from groundwork.soundness.rules import BY_THE_SOILS_TABLE, LEAST_FALL, Case
from groundwork.strength import SOFT, TABLE, fabric_overlap, least_sub_base

SEPARATED = (Role.SUB_BASE, Role.BASE, Role.BOUND_BASE)


def completed(job: Job, chosen: School) -> BaseSpecification:
    """The school's usual base with what this job's brief chose, as thick as its ground asks, separated from it, and
    with the margin that follows; the formation's own tolerance is kept."""
    base = chosen.specification(job.brief.traffic, job.unit)
    base = replace(base, formation_tolerance=job.specification.formation_tolerance)
    base = _with_the_pavers(base, job, chosen)
    case = Case(replace(job, specification=base))
    base = _thick_enough(base, case)
    details = base.details
    lowest = next((role for role in SEPARATED if base.layer(role)), None)
    if lowest and not base.lies_on_what_is_there and (case.clean_stone or job.brief.soil.is_fine):
        details = replace(details, fabric_under=details.fabric_under | {lowest})
    overlap = max(details.fabric_overlap, trade(fabric_overlap(case.bearing_ratio)[0], job.unit))
    details = replace(
        details,
        early_edge=job.specification.details.early_edge,
        fabric_overlap=overlap if details.fabric_under else details.fabric_overlap,
        side_fabric=case.clean_stone and job.brief.neighbour is Neighbour.DENSE,
        dense_strip=base.takes_water_in and any(edge.falls_towards() > -LEAST_FALL for edge in job.building_edges),
        margin=trade(chosen.margin_for(job.brief.traffic, base.unbound), job.unit),
    )
    if details.geogrid:
        soft = case.bearing_ratio < SOFT
        details = replace(details, geogrid=GridJoints.LAPPED if soft else GridJoints.BUTTED)
    return replace(base, details=details)


def with_pavers(base: BaseSpecification, job: Job) -> BaseSpecification:
    """A base with the units and the joint that a job's brief names."""
    brief, paving, details = job.brief, base.layers[0], base.details
    if brief.paver:
        paving = Layer(Role.PAVING, brief.paver, brief.paver_thickness or paving.thickness)
    if brief.joint is not None:
        details = replace(details, joint=replace(details.joint, width=brief.joint))
    return replace(base, layers=(paving, *base.layers[1:]), details=details)


def with_margin(before: BaseSpecification, after: BaseSpecification, job: Job) -> BaseSpecification:
    """A changed base with the margin that follows from its thickness, where it followed from it before."""
    traffic = job.brief.traffic
    usual = trade(school(before.school).margin_for(traffic, before.unbound), job.unit)
    if abs(before.details.margin - usual) > 1e-6 or abs(after.details.margin - before.details.margin) > 1e-6:
        return after
    margin = trade(school(after.school).margin_for(traffic, after.unbound), job.unit)
    return replace(after, details=replace(after.details, margin=margin))


def _with_the_pavers(base: BaseSpecification, job: Job, chosen: School) -> BaseSpecification:
    """The units and the joint the job has settled, as far as the school can be built with them."""
    paving, joint = settled_paving(job), settled_joint(job)
    if paving and paving.made_of in chosen.by_role[Role.PAVING].materials:
        base = replace(base, layers=(paving, *base.layers[1:]))
    least, most = chosen.joint_bounds
    details = base.details
    if joint is not None and least - 1e-9 <= joint <= most + 1e-9:
        details = replace(details, joint=replace(details.joint, width=joint))
    before = job.specification.details.joint
    if not _is_usual(job) and before.fill in chosen.fills:
        details = replace(details, joint=replace(details.joint, fill=before.fill, maker_range=before.maker_range))
    return replace(base, details=details)


def _is_usual(job: Job) -> bool:
    """Whether a job's pavers and joints are only its school's usual ones: nobody chose them."""
    before, usual = job.specification, school(job.specification.school)
    return any(
        before.layers[0] == base.layers[0] and before.details.joint == base.details.joint
        for base in (usual.specification(traffic, job.unit) for traffic in usual.traffic)
    )


def settled_paving(job: Job) -> Layer | None:
    """The units that were chosen, on the brief or in the base itself; None where nobody has."""
    brief, before = job.brief, job.specification.layers[0]
    if not _is_usual(job):
        return before
    if not brief.paver:
        return None
    thickness = brief.paver_thickness
    return Layer(Role.PAVING, brief.paver, before.thickness if thickness is None else thickness)


def settled_joint(job: Job) -> float | None:
    """The joint that was chosen; None where nobody has."""
    return job.brief.joint if _is_usual(job) else job.specification.details.joint.width


def _thick_enough(base: BaseSpecification, case: Case) -> BaseSpecification:
    """Thickened from below to what the table asks on this ground, where the table is for this traffic."""
    bound = any(layer.family in POURED for layer in base.layers)
    if case.traffic not in BY_THE_SOILS_TABLE or bound or not base.unbound:
        return base
    try:
        least = least_sub_base(case.bearing_ratio)
    except ValueError:
        least = TABLE[0][1]
    least = trade(least, case.job.unit)
    if base.unbound >= least - 1e-9 or base.layers[-1].family is Family.PANEL:
        return base
    lowest = base.layers[-1]
    thicker = replace(lowest, thickness=round(lowest.thickness + least - base.unbound, 6))
    return replace(base, layers=(*base.layers[:-1], thicker))
