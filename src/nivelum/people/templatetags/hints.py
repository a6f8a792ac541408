"""The hint that stands on this page for whoever has not put it away."""

from typing import Any

from django import template

from nivelum.people.hints import HINTS

register = template.Library()


@register.inclusion_tag("people/hint.html", takes_context=True)
def hint_here(context: dict[str, Any]) -> dict[str, Any]:
    request = context["request"]
    name = getattr(request.resolver_match, "url_name", "")
    wanted = name in request.user.hints and name in HINTS
    return {"key": name, "says": HINTS[name] if wanted else "", "csrf_token": context.get("csrf_token")}
