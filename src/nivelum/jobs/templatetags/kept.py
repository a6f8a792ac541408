"""Parts of a page that are the same as long as what they show is."""

from typing import Any

from django import template
from django.template.base import FilterExpression, NodeList, Parser, Token
from django.template.context import Context
from django.utils.safestring import SafeString
from django.utils.translation import get_language

register = template.Library()
MOST = 300
"""So many parts are kept with a job: then it begins anew."""


@register.tag
def kept(parser: Parser, token: Token) -> "KeptPart":
    """`{% kept name value … %} … {% endkept %}` is written out once in each language, and stays with the job as long
    as each value is the same: the same object, or the same number or text. Its body shows nothing but these, the
    crew's units and the job's address: nothing of a person, and no form's own token."""
    _tag, name, *given = token.split_contents()
    body = parser.parse(("endkept",))
    parser.delete_first_token()
    return KeptPart(name, [parser.compile_filter(each) for each in given], body)


class KeptPart(template.Node):
    def __init__(self, name: str, given: list[FilterExpression], body: NodeList) -> None:
        self.name, self.given, self.nodelist = name, given, body

    def render(self, context: Context) -> SafeString:
        if "kept_parts" not in context:  # no page of a job, but of what a link shows of it
            return self.nodelist.render(context)
        given = [each.resolve(context) for each in self.given]
        plain = tuple((type(value), value) for value in given if isinstance(value, PLAIN))
        parts: dict[Any, tuple[list[Any], SafeString]] = context["kept_parts"]
        key = (self.name, get_language(), context["unit"], plain)
        known = parts.get(key)
        if known is None or not all(map(_is_the_same, known[0], given)):
            if len(parts) >= MOST:
                parts.clear()
            known = parts[key] = given, self.nodelist.render(context)
        return known[1]


def _is_the_same(one: object, other: object) -> bool:
    return one is other or isinstance(one, PLAIN)


PLAIN = (str, int, float, bool, type(None))
