"""Every surface of a job as it came out and as designed, what lies between them, and what is found on each."""

from groundwork.base import SurfaceKey
from groundwork.built.asbuilt import AsBuilt, as_built
from groundwork.built.aslaid import Dug, Laid, dug, layers_laid
from groundwork.built.leastfix import Fix, NoFix, asked_of, least_fix
from groundwork.job import Job
from groundwork.measures import Finding
from groundwork.surfaces import NoSurface
from groundwork.survey import Surveys
from groundwork.workings import JobPart, Workings, carried


class Surfaces(JobPart):
    """The surfaces of a job taken whole; `surveys` has them station by station."""

    PART = "surfaces"

    def __init__(self, workings: Workings, site: Job, surveys: Surveys) -> None:
        super().__init__(workings)
        self._site, self._surveys = site, surveys

    @carried
    def built(self, surface: str = SurfaceKey.FORMATION) -> AsBuilt | NoSurface:
        """A surface as built, or why nothing can be said of it. Raises `KeyError` where this base has none such."""
        try:
            return as_built(self._site, self._surveys.of(surface))
        except NoSurface as reason:
            return reason

    @carried
    def designed(self, surface: str) -> AsBuilt | NoSurface:
        """A surface as designed."""
        try:
            return AsBuilt(self._site, self._site.specification.surface(surface), self._site.stations)
        except NoSurface as reason:
            return reason

    @carried
    def fix(self, surface: str) -> Fix | NoFix | None:
        """The least work that puts a surface right, or why there is none; None where nothing is known of it."""
        built = self.built(surface)
        if isinstance(built, NoSurface):
            return None
        return least_fix(built, asked_of(built, self._surveys.of(surface).tolerance), self._site.unit)

    @property
    @carried
    def laid(self) -> tuple[Laid, ...]:
        """What was laid, layer by layer from the formation up, where surfaces were shot."""
        return layers_laid(self._site, [self._surveys.of(surface.key) for surface in self._surveys.levelled])

    @property
    @carried
    def dug(self) -> Dug | None:
        """What was dug from the existing ground, where it is known."""
        formation = self.built()
        return None if isinstance(formation, NoSurface) else dug(self._site, formation)

    @carried
    def findings(self, surface: str = SurfaceKey.FORMATION) -> tuple[Finding, ...]:
        """Everything found on a surface as shot."""
        built = self.built(surface)
        return (
            *self._surveys.findings(surface),
            *(() if isinstance(built, NoSurface) else built.findings),
            *self._surveys.more_findings(surface),
        )
