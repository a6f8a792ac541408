"""Addresses as Django's own `url` tag writes them, each worked out once: a page has dozens of the same job's."""

from functools import lru_cache
from typing import Any

from django import template
from django.template.base import Parser, Token
from django.template.context import Context
from django.template.defaulttags import URLNode
from django.template.defaulttags import url as usual
from django.urls import get_urlconf, reverse
from django.utils.html import conditional_escape

register = template.Library()


@register.tag
def url(parser: Parser, token: Token) -> "KnownAddress":
    node = usual(parser, token)
    return KnownAddress(node.view_name, node.args, node.kwargs, node.asvar)


class KnownAddress(URLNode):
    def render(self, context: Context) -> str:
        if self.asvar or self.kwargs:
            return super().render(context)
        given = tuple(each.resolve(context) for each in self.args)
        address = _address(get_urlconf(), self.view_name.resolve(context), given)
        return conditional_escape(address) if context.autoescape else address


@lru_cache(maxsize=10_000)
def _address(_urlconf: str | None, name: str, given: tuple[Any, ...]) -> str:
    return reverse(name, args=given)
