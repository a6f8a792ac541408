"""The design as it is told."""

from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.utils.translation import gettext_lazy as _

from groundwork.job import Design
from groundwork.measures import Unit
from nivelum.recording.kinds import Face, show


def _design(design: Design, _unit: Unit) -> SafeString:
    specification = design.site.specification
    layers = ", ".join(f"{layer.material} {layer.thickness * 1000:g} mm" for layer in specification.layers)
    return format_html("{}: {}", specification.school, layers)


show(Design, Face(_("Design"), _design, is_weighty=True))
