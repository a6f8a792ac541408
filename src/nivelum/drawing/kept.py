"""Drawings are kept with what they show, and taken over by the next as long as nothing they show changes."""

from collections.abc import Callable
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar

from django.utils.translation import get_language

from groundwork.assess import Assessment

Given = ParamSpec("Given")
Drawn = TypeVar("Drawn")


def kept(draw: Callable[Concatenate[Assessment, Given], Drawn]) -> Callable[Concatenate[Assessment, Given], Drawn]:
    """A drawing of an assessment, drawn once in each language for the same things asked, of which there are to be
    few: each is kept for as long as the job is. It must read nothing of a record but through the assessment's parts.
    """

    @wraps(draw)
    def once(assessment: Assessment, /, *given: Given.args, **named: Given.kwargs) -> Drawn:
        key = f"{draw.__module__}.{draw.__name__}", (*given, *named.items(), get_language())
        return assessment.carry(key, lambda: draw(assessment, *given, **named))

    return once
