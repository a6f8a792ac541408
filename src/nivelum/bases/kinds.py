"""The design as it is told."""

from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork.job import Design
from groundwork.measures import Unit, format_limit, in_system
from groundwork.schools import schools
from nivelum.jobs.templatetags.measures import stacked
from nivelum.recording.kinds import Face, show


def _design(design: Design, unit: Unit) -> SafeString:
    specification = design.site.specification
    layers = format_html_join(
        ", ",
        "{} {}",
        (
            (in_system(gettext(layer.made_of.title), unit), stacked(format_limit(layer.thickness, unit)))
            for layer in specification.layers
        ),
    )
    return format_html("{}: {}", gettext(schools()[specification.school].title), layers)


show(Design, Face(_("Design"), _design, is_weighty=True))
