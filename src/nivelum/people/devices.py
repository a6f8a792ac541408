"""What a device seems to be, by what its browser says."""

from django.utils.translation import gettext as _


def device_words(user_agent: str) -> str:
    if "iPad" in user_agent or ("Android" in user_agent and "Mobile" not in user_agent):
        return _("a tablet")
    if "Mobi" in user_agent:
        return _("a phone")
    return _("a computer") if "Mozilla" in user_agent else _("a device that says nothing of itself")
