"""What each role may do, in plain words."""

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

from nivelum.crews.models import CrewRole
from nivelum.crews.policy import MAY, Verb

VERB_WORDS: dict[Verb, Promise] = {
    Verb.SEE: _("see everything"),
    Verb.MEASURE: _("measure and record"),
    Verb.LOOK_AGAIN: _("give the second look"),
    Verb.SIGN: _("sign stages"),
    Verb.ACCEPT: _("accept a stop in writing"),
    Verb.STRIKE_ANY: _("strike out what others recorded"),
    Verb.DESIGN: _("start jobs, change the design"),
    Verb.SIGN_STRUCTURE: _("sign as the engineer"),
    Verb.ACCEPT_STRUCTURE: _("accept what bears on the structure"),
    Verb.SHARE: _("make links for clients"),
    Verb.RUN_CREW: _("run the crew: people, rod, kit"),
    Verb.SEE_MONEY: _("see money: prices, estimates"),
}


def role_table() -> list[tuple[Promise, list[bool]]]:
    """Each thing that can be done, and whether each role may, in the roles' order."""
    return [(words, [verb in MAY[CrewRole(role)] for role in CrewRole.values]) for verb, words in VERB_WORDS.items()]
