"""The set-out of a job as recorded: pegs, services, margins, and what holds it."""

from groundwork.entries import MarginMeasured, PegDistance, PegMove, ServicesLocated
from groundwork.job import Job
from groundwork.logbook import Logbook
from groundwork.measures import Finding
from groundwork.schools import school
from groundwork.setout.pegs import SetOut, margin_findings, set_out_findings
from groundwork.setout.services import Location, location, service_findings
from groundwork.workings import JobPart, Workings, carried


class SettingOut(JobPart):
    """What was taped, moved, located and measured before and around the dig."""

    PART = "setting_out"

    def __init__(self, workings: Workings, site: Job, logbook: Logbook) -> None:
        super().__init__(workings)
        self._site, self._logbook = site, logbook

    @property
    @carried
    def pegs(self) -> SetOut:
        """The pegs by what was taped between them since each was last moved, the newest length of each pair."""
        newest: dict[frozenset[str], PegDistance] = {}
        for entry in self._logbook.of_kind(PegDistance, PegMove).values():
            match entry:
                case PegDistance():
                    newest[frozenset((entry.start, entry.end))] = entry
                case PegMove():
                    newest = {pair: taped for pair, taped in newest.items() if entry.peg not in pair}
        return SetOut(self._site.outline, list(newest.values()))

    @property
    @carried
    def location(self) -> Location | None:
        """The services as last located."""
        return location(list(self._logbook.of_kind(ServicesLocated).values()), self._site.today)

    @property
    @carried
    def margins(self) -> dict[int, MarginMeasured]:
        """The newest margin measured on each side."""
        return {m.side: m for m in self._logbook.of_kind(MarginMeasured).values()}

    @property
    @carried
    def findings(self) -> tuple[Finding, ...]:
        """What holds the set-out: services, pegs."""
        return (*service_findings(self.location), *set_out_findings(self.pegs))

    @property
    @carried
    def margin_findings(self) -> tuple[Finding, ...]:
        """What holds the dig at its sides."""
        specification = self._site.specification
        usual = school(specification.school).margin_for(self._site.brief.traffic, specification.unbound)
        return tuple(
            margin_findings(
                self.margins,
                len(self._site.outline),
                specification.details.margin,
                usual,
                self._site.unit,
                self._site.walls,
            )
        )
