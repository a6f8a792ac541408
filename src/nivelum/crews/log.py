"""The log of a crew: written with whatever it tells of, changed by nobody."""

from nivelum.crews.models import Crew, CrewLine, Deed, Person


def noted(crew: Crew, by: Person | None, deed: Deed, about: str = "", detail: str = "") -> CrewLine:
    """Adds a line; call it in the transaction of what it tells of."""
    return CrewLine.objects.create(
        crew=crew, by=by, by_name=by.name if by else "", deed=deed, about=about[:80], detail=detail[:200]
    )
