"""People as they come and go: one is invited on one screen, joins on a phone, signs by PIN and leaves; a passkey, a
forgotten password, a lead who works alone."""

import re
import uuid

import pytest
from playwright.sync_api import Page, expect

from nivelum.crews.models import Membership, Person
from tests.browser.conftest import PATIENCE
from tests.conftest import DRAINED_PAD
from tests.nivelum.test_proving import proved

PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}


@pytest.fixture
def stranger(site: str, browser):
    """A device that nobody is signed in on."""
    contexts = []

    def opened(**options) -> Page:
        contexts.append(browser.new_context(base_url=site, service_workers="block", **options))
        page = contexts[-1].new_page()
        page.set_default_timeout(PATIENCE)
        return page

    yield opened
    for context in contexts:
        context.close()


def test_somebody_is_invited_joins_on_a_phone_signs_by_pin_and_leaves(field_world, person, stranger) -> None:
    world = field_world(job_file=DRAINED_PAD)
    proved(world)
    world.sign("base-proof")
    lead, name = person(world, "lead"), f"Brann {uuid.uuid4().hex[:6]}"
    lead.goto(f"/crews/{world.crew.id}/people/")
    lead.get_by_label("Who is it for?").fill("Brann")
    lead.get_by_role("button", name="Make the link").click()
    expect(lead.get_by_alt_text("The link as a code")).to_be_visible()
    way = lead.get_by_label("Address").input_value()

    phone = stranger(**PHONE)
    phone.goto(way)
    expect(phone.get_by_label("Your name")).to_be_focused()
    phone.get_by_label("Your name").fill(name)
    phone.get_by_label("Password").fill("sleeper-and-string")
    phone.get_by_role("button", name="Join", exact=True).tap()
    expect(phone.locator("#jobs")).to_contain_text("Test pad")
    phone.goto("/you/")
    phone.get_by_label("New PIN").fill("2580")
    phone.get_by_label("Once more").fill("2580")
    phone.get_by_role("button", name="Set the PIN").tap()
    expect(phone.get_by_text("Your PIN is set")).to_be_visible()

    # On the lead's own screen the second look is given by the one who joined, with their PIN.
    lead.goto(f"/jobs/{world.job.id}/sign-offs/?stage=base-proof")
    form = lead.locator("form.signing", has_text="A second pair of eyes")
    form.locator("[name=signer]").select_option(label=f"{name}, crew")
    form.locator("[name=pin]").fill("2580")
    form.locator("button.press").click()
    expect(lead.locator("#gate-says")).to_contain_text("Signed. Go on.")

    # A page of the job that stands open ends with the membership.
    phone.goto(f"/jobs/{world.job.id}/ground/")
    assert phone.evaluate("fetch('').then((answer) => answer.status)") == 200
    mine = phone.context.new_page()
    mine.goto("/you/")
    mine.get_by_text("Leave", exact=True).tap()
    mine.get_by_role("button", name=f"Leave {world.crew.name}").tap()
    expect(mine.get_by_text("You are of no crew")).to_be_visible()
    assert phone.evaluate("fetch('').then((answer) => answer.status)") == 404
    lead.goto(f"/crews/{world.crew.id}/people/")
    expect(lead.get_by_text(re.compile(f"{name} left"))).to_be_visible()
    lead.goto(f"/jobs/{world.job.id}/record/")
    expect(lead.locator("body")).to_contain_text(name)


def test_a_passkey_is_made_and_signs_in_without_a_password(field_world, site, stranger) -> None:
    """By Chromium's own virtual authenticator; an address of numbers can have no passkeys, a name can."""
    world, page = field_world(), stranger()
    named = site.replace("127.0.0.1", "localhost")
    devtools = page.context.new_cdp_session(page)
    devtools.send("WebAuthn.enable")
    options = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True,
               "isUserVerified": True, "automaticPresenceSimulation": True}  # fmt: skip
    devtools.send("WebAuthn.addVirtualAuthenticator", {"options": options})
    page.goto(f"{named}/sign-in/")
    page.fill("[name=login]", world.people["lead"].username)
    page.fill("[name=password]", "limestone")
    page.keyboard.press("Enter")
    page.wait_for_selector("#jobs")
    page.goto(f"{named}/you/")
    page.get_by_role("link", name="Add a passkey").click()
    page.get_by_label("Password").fill("limestone")  # once more, before anything is changed
    page.get_by_role("button", name="Go on").click()
    page.get_by_label("What is this device called?").fill("the lead’s phone")
    page.get_by_role("button", name="Make the passkey").click()
    expect(page.get_by_role("link", name="Remove the lead’s phone")).to_be_visible()

    page.locator("header details summary").click()
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="Sign in with a passkey").click()
    expect(page.locator("#jobs")).to_contain_text("Test pad")
    page.goto(f"{named}/you/")
    page.get_by_role("link", name="Remove the lead’s phone").click()
    page.get_by_label("Password").fill("limestone")
    page.get_by_role("button", name="Go on").click()
    page.get_by_role("button", name="Remove it").click()
    expect(page.get_by_text("None yet. With one you sign in")).to_be_visible()
    page.locator("header details summary").click()
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="Sign in with a passkey").click()
    expect(page.get_by_text("That passkey is not known here")).to_be_visible()


def test_a_forgotten_password_is_set_anew_by_a_link(field_world, person, stranger) -> None:
    world = field_world()
    lead = person(world, "lead")
    lead.goto(f"/crews/{world.crew.id}/people/")
    lead.locator("summary", has_text="Crew Person").click()
    lead.locator("details[open]").get_by_role("button", name="Forgot the password: a link").click()
    way = lead.get_by_label("Address").input_value()
    phone = stranger(**PHONE)
    phone.goto(way)
    phone.get_by_label("New password").fill("wheel-and-barrow")
    phone.get_by_role("button", name="Set it and go on").tap()
    expect(phone.locator("#jobs")).to_contain_text("Test pad")
    assert Person.objects.get(id=world.people["crew"].id).check_password("wheel-and-barrow")
    phone.goto(way)
    expect(phone.locator("h1")).to_have_text("This link has ended")


def test_a_lead_alone_says_that_nobody_else_looked(field_world, person) -> None:
    world = field_world(job_file=DRAINED_PAD)
    proved(world)
    world.sign("base-proof")
    Membership.objects.filter(crew=world.crew).exclude(person=world.people["lead"]).delete()
    lead = person(world, "lead", **PHONE)
    lead.goto(f"/jobs/{world.job.id}/sign-offs/?stage=base-proof")
    expect(lead.get_by_role("link", name="Invite somebody")).to_be_visible()
    lead.get_by_text("Accept it, with a reason").tap()
    lead.get_by_label("Why it may stay as it is").fill("on my own this week")
    lead.get_by_role("button", name="Accept it").tap()
    expect(lead.locator("#gate-says")).to_contain_text("Signed, with what was accepted")
    lead.goto(f"/jobs/{world.job.id}/record/")
    expect(lead.locator("body")).to_contain_text("on my own this week")
