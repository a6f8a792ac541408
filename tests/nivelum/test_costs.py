"""Money: a price book, an estimate by hand, versions, then against now; nobody sees it who may not."""

import re
import subprocess
from datetime import date
from decimal import Decimal

import pytest
from django.test import Client
from tests.conftest import World, made
from tests.nivelum.test_instruments import url
from tests.nivelum.test_placing import send

from groundwork.stages import LessonKind
from nivelum.crews.models import CrewLine
from nivelum.jobs.models import Job, Taught
from nivelum.money.models import KeptEstimate, MoneyTerms, PriceSet
from nivelum.money.shown import money
from nivelum.records.page import Part
from nivelum.sharing.models import For
from nivelum.sharing.services import make_share

D = Decimal
PRICES = {
    "material|dense-graded|tonne": "31.40", "material|kerb|piece": "7.85", "labour|crew|hour": "42",
    "disposal|spoil|load taken away": "180", "hire|plate|day": "65",
}  # fmt: skip


def book(world: World, role: str = "lead", **fields: str):
    return world.client(role).post(f"/crews/{world.crew.id}/prices/", fields)


@pytest.fixture
def priced(world: World) -> World:
    for thing, amount in PRICES.items():
        assert book(world, thing=thing, amount=amount, since="2026-01-01").status_code == 302, thing
    return world


def text(world: World, leaf: str = "order/costs/", role: str = "lead") -> str:
    answer = world.client(role).get(url(world, leaf))
    assert answer.status_code == 200
    return " ".join(re.sub(r"<[^>]*>", " ", answer.content.decode()).split())


def test_an_estimate_is_what_one_reckons_by_hand(priced: World) -> None:
    """8.5 t × 31.40 = 266.90; 17 kerbs × 7.85 = 133.45; a load away 180.00."""
    shown = text(priced)
    for sum_ in ("€266.90", "€133.45", "€180.00"):
        assert sum_ in shown
    assert "Without a price, and so not in it:" in shown and "concrete sand" in shown
    assert "Contingency, 10 % of each stage" in shown and "Tax" not in shown


def test_versions_are_kept_and_held_against_what_was_spent(priced: World) -> None:
    assert send(priced, "order/costs/keep/", "lead", begins="2026-12-07", name="as asked").status_code == 302
    kept = KeptEstimate.objects.get(job=priced.job)
    total = kept.estimate.net
    assert ("Then against now" in text(priced) and "as estimated" in text(priced)) or "under the estimate" in text(
        priced
    )
    order = {
        "what": "dense-graded",
        "measure": "mass",
        "way": "tonne",
        "number": "10",
        "wanted": "2026-12-07",
        "newest": "none",
    }
    send(priced, "order/placed/made/", **order)
    made_id = next(s for s in priced.assessment().orders.supplies if s.what == "dense-graded").orders[0].made.id
    send(priced, "order/placed/come/", order=made_id, number="10", ticket="A")
    shown = text(priced)
    assert "€314.00" in shown  # spent: 10 t × 31.40
    assert book(priced, thing="material|kerb|piece", amount="8.00", since=date.today().isoformat()).status_code == 302
    assert send(priced, "order/costs/keep/", "lead", begins="2026-12-07", name="").status_code == 302
    newest, first = KeptEstimate.objects.filter(job=priced.job)
    assert (newest.number, first.number) == (2, 1) and first.estimate.net == total
    assert newest.estimate.net > total
    pdf = made(priced.client("lead"), url(priced, "order/estimate.pdf?version=1")).content
    said = subprocess.run(
        ["pdftotext", "-layout", "-", "-"], input=pdf, capture_output=True, check=True
    ).stdout.decode()
    assert "version 1" in said and "133.45" in said and "as asked" in said


def test_prices_keep_their_days_and_what_is_typed_wrongly_is_said(priced: World) -> None:
    assert book(priced, thing="hire|plate|day", amount="70", since="2027-01-01").status_code == 302
    page = priced.client("lead").get(f"/crews/{priced.crew.id}/prices/").content.decode()
    assert "€65.00" in page and "€70.00 from 1 Jan 2027" in " ".join(page.split())
    for harm, says in (({"amount": "a lot"}, "like 12.50"), ({"thing": "gold|x|y"}, "valid choice"),
                       ({"since": "then"}, "valid date"), ({"amount": ""}, "required")):  # fmt: skip
        answer = book(priced, **{"thing": "hire|saw|day", "amount": "12.34", "since": "2026-02-03"} | harm)
        assert answer.status_code == 422 and says in answer.content.decode()
    assert PriceSet.objects.filter(crew=priced.crew).count() == len(PRICES) + 1


def test_how_a_crew_reckons(priced: World) -> None:
    data = {
        "currency": "usd",
        "contingency": "7,5",
        "tax": "8.25",
        "people": "3",
        "hours_a_day": "9",
        "works_on": ["0", "1", "2", "3"],
    }
    assert priced.client("lead").post(f"/crews/{priced.crew.id}/prices/", data).status_code == 302
    terms = MoneyTerms.objects.get(crew=priced.crew)
    assert (terms.currency, terms.contingency, terms.tax, terms.days_off) == (
        "USD",
        D("0.075"),
        D("0.0825"),
        {4, 5, 6},
    )
    shown = text(priced)
    assert "US$266.90" in shown and "Tax, 8.25 %" in shown and "Contingency, 7.5 % of each stage" in shown
    assert CrewLine.objects.filter(crew=priced.crew, detail="how it reckons").exists()
    for harm in ({"currency": "money"}, {"people": "0"}, {"works_on": []}, {"tax": "101"}, {"hours_a_day": "0"}):
        assert priced.client("lead").post(f"/crews/{priced.crew.id}/prices/", data | harm).status_code == 422, harm


@pytest.mark.parametrize(
    ("amount", "currency", "digits", "said"),
    [
        ("1234.5", "EUR", 2, "€1,234.50"),
        ("1234", "JPY", 0, "JP¥1,234"),
        ("-40.7", "GBP", 2, "−£40.70"),
        ("1.125", "KWD", 3, "KWD1.125"),
    ],
)
def test_money_is_said_as_its_currency_has_it(amount: str, currency: str, digits: int, said: str) -> None:
    assert money(D(amount), currency, digits).replace("\u00a0", "") == said


@pytest.mark.parametrize("role", ["crew", "engineer", "viewer"])
def test_nobody_else_sees_money_on_any_page(priced: World, role: str) -> None:
    send(priced, "order/costs/keep/", "lead", begins="2026-12-07", name="")
    client = priced.client(role)
    assert client.get(f"/crews/{priced.crew.id}/prices/").status_code == 403
    for leaf in ("order/", "order/placed/", "order/work/", "order.csv", "order/sheet.csv", "record/", "record.json",
                 "record.csv", "job.json"):  # fmt: skip
        answer = client.get(url(priced, leaf))
        content = answer.content.decode("utf-8", "ignore")
        assert "266.90" not in content and "€" not in content, leaf
        assert "order/costs" not in content, leaf


def test_a_link_shows_money_only_where_the_lead_says_so(priced: World) -> None:
    send(priced, "order/costs/keep/", "lead", begins="2026-12-07", name="")
    for shows in (False, True):
        token = make_share(priced.visit("lead"), For.CLIENT, "the client", [Part.PLAIN], 30, None, shows)[1]
        page = Client().get(f"/shared/{token}/").content.decode()
        assert ("€266.90" in page) == shows
    token = make_share(priced.visit("engineer"), For.CLIENT, "x", [Part.PLAIN], 30, None, True)[1]
    assert "€" not in Client().get(f"/shared/{token}/").content.decode()


def test_two_bases_and_two_patterns_side_by_side(priced: World) -> None:
    """What one is less by is the difference of what both come to, as shown."""
    for one, other in (("dense", "slab"), ("running-half", "herringbone")):
        shown = text(priced, f"order/costs/compare/?one={one}&other={other}")
        totals = re.search(r"In all, with contingency and tax €([\d,.]+) €([\d,.]+)", shown)
        less = re.search(r"€([\d,.]+) less", shown)
        assert totals and less and "Days from begin to end" in shown and "Person-hours" in shown
        mine, others, apart = (Decimal(each.replace(",", "")) for each in (*totals.groups(), less[1]))
        assert apart == abs(mine - others) > 0
    opened = priced.client("lead").get(url(priced, "order/costs/compare/")).content.decode()
    found = re.findall(r'<option value="([\w-]+)" selected', opened)
    assert found[0] == "dense" != found[1], "two that differ stand there as it opens"
    assert "Choose two that differ" in text(priced, "order/costs/compare/?one=dense&other=dense")
    assert "Of what" not in text(priced, "order/costs/compare/?one=gold&other=dense")


def test_the_crews_own_pace_is_learnt_from_jobs_it_kept(priced: World) -> None:
    """Two jobs took half as long again at laying: with the table as two jobs, the fourth root of 1.5 squared."""
    before = priced.assessment().labour
    laying = sum(t.hours for t in before.tasks({}) if t.stage == "laying")
    for n in range(2):
        other = Job.objects.create(crew=priced.crew, name=f"Other {n}")
        Taught.objects.create(
            job=other, kind=str(LessonKind.HOURS), material="laying", value=1.5, spread=0.0, number=1, kept_by="x"
        )
    shown = text(priced, "order/work/", "crew")
    assert f"Laying {laying * 1.5**0.5:.1f} h" in shown and "At this crew’s own pace" in shown


def test_pressed_twice_an_estimate_is_kept_once(priced: World) -> None:
    for _press in range(2):
        send(priced, "order/costs/keep/", "lead", begins="2026-12-07", name="")
    assert KeptEstimate.objects.filter(job=priced.job).count() == 1


def test_a_signed_stage_teaches_its_hours_and_nobody_takes_them_unasked(priced: World) -> None:
    """The dig is 24 m² × 255 mm at 6 m³ an hour: 1.02 h; two took 1.5 h each: 2.9 times."""
    priced.shoot_all()
    data = {"stage": "excavation", "on": date.today().isoformat(), "people": "2", "hours": "1.5", "machine": ""}
    send(priced, "order/work/worked/", **data)
    assert "Hours, times what the table has" not in text(priced, "record/lessons/")
    priced.sign("excavation")
    assert "Hours, times what the table has Dig 2.94" in text(priced, "record/lessons/")
    assert not Taught.objects.filter(job=priced.job).exists()
    assert send(priced, "record/lessons/kept/", "lead").status_code == 302
    assert Taught.objects.get(job=priced.job, kind="hours").material == "excavation"


@pytest.mark.parametrize("day", ["9999-12-31", "0001-01-01"])
def test_work_begins_on_a_day_of_this_century(priced: World, day: str) -> None:
    answer = send(priced, "order/costs/keep/", "lead", begins=day, name="kept as typed")
    assert answer.status_code == 422 and "A day of this century" in answer.content.decode()
    assert "kept as typed" in answer.content.decode()
