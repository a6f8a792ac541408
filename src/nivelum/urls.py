"""Every address. Whatever belongs to a job has its `job_id`, to a crew its `crew_id`: access hangs on them."""

from django.contrib.auth.views import LogoutView
from django.urls import include, path

from nivelum.away import views as away
from nivelum.bases.views import adviser, brief, falls, news, section, strength
from nivelum.crews import views as crews
from nivelum.exchange import views as exchange
from nivelum.instruments import views as instruments
from nivelum.jobs import views as jobs
from nivelum.lifts import views as lifts
from nivelum.live import views as live
from nivelum.readings.views import book, sheet
from nivelum.readings.views import ground as readings
from nivelum.readings.views import surface as surfaces
from nivelum.records import views as records
from nivelum.setouts import views as setouts
from nivelum.sharing import views as sharing
from nivelum.signoffs import views as signoffs
from nivelum.water import views as water

job = [
    path("", jobs.open_job, name="job"),
    path("rooms.json", away.rooms, name="rooms"),
    path("base/", section.base, name="base"),
    path("base/news/", news.news, name="base-news"),
    path("base/keep/", section.keep_base, name="keep-base"),
    path("base/falls/", falls.falls, name="falls"),
    path("base/falls/keep/", falls.keep_falls, name="keep-falls"),
    path("base/schools/", adviser.adviser, name="schools"),
    path("base/schools/take/", adviser.take_school, name="take-school"),
    path("base/ground/", strength.strength, name="strength"),
    path("base/ground/keep/", strength.keep_cone, name="keep-cone"),
    path("base/ground/drop/", strength.drop_cone, name="drop-cone"),
    path("base/brief/", brief.brief, name="brief"),
    path("ground/", readings.ground, name="ground"),
    path("ground/now/", readings.ground_now, name="ground-now"),
    path("ground/set-up/", readings.set_up, name="set-up"),
    path("ground/readings/", readings.reading, name="reading"),
    path("ground/fills/", readings.fill, name="fill"),
    path("ground/strikes/", readings.strike, name="strike"),
    path("ground/hold/", readings.hold, name="hold"),
    path("ground/sights/", readings.sight, name="sight"),
    path("ground/falls/", readings.fall, name="fall"),
    path("ground/corrections/", readings.correct, name="correct"),
    path("ground/knocks/", readings.disturb, name="disturb"),
    path("ground/level/", instruments.level, name="level"),
    path("ground/surface/", surfaces.surface, name="surface"),
    path("ground/book/", book.book, name="book"),
    path("ground/sheet.json", sheet.sheet, name="field-sheet"),
    path("ground/targets/", book.targets, name="targets"),
    path("water/", water.water, name="water"),
    path("lifts/", lifts.lift, name="lifts"),
    path("lifts/now/", lifts.lift_now, name="lifts-now"),
    path("lifts/spread-targets/", lifts.spread, name="spread-targets"),
    path("lifts/more/", lifts.more, name="lifts-more"),
    path("lifts/tests/", lifts.tests, name="lift-tests"),
    path("lifts/ground/", lifts.subgrade, name="subgrade"),
    path("lifts/pour/", lifts.pour, name="pour"),
    path("lifts/deliveries/", lifts.deliveries, name="deliveries"),
    path("lifts/strikes/", lifts.strike, name="strike-work"),
    path("lifts/number/", lifts.choose, name="choose-lifts"),
    path("lifts/probe/", instruments.probe, name="probe"),
    path("lifts/<str:kind>/", lifts.record_work, name="work"),
    path("set-out/", setouts.set_out, name="set-out"),
    path("set-out/now/", setouts.set_out_now, name="set-out-now"),
    path("set-out/lengths/", setouts.length, name="length"),
    path("set-out/dropped/", setouts.drop_length, name="drop-length"),
    path("set-out/moves/", setouts.peg_move, name="peg-move"),
    path("set-out/margins/", setouts.margin, name="margin"),
    path("set-out/services/", setouts.services, name="services"),
    path("set-out/strings/", setouts.strings, name="strings"),
    path("set-out/square/", setouts.square, name="square"),
    path("sign-offs/", signoffs.sign_offs, name="sign-offs"),
    path("sign-offs/now/", signoffs.sign_offs_now, name="sign-offs-now"),
    path("sign-offs/sign/", signoffs.sign, name="sign"),
    path("sign-offs/accept/", signoffs.accept, name="accept"),
    path("sign-offs/take-back/", signoffs.take_back, name="take-back"),
    path("sign-offs/looks/", signoffs.look, name="look"),
    path("sign-offs/photos/", signoffs.picture, name="picture"),
    path("sign-offs/checks/", signoffs.gauge, name="gauge"),
    path("photos/<str:photo>/", jobs.photo, name="photo"),
    path("company/", records.company, name="company"),
    path("shares/", sharing.shares, name="shares"),
    path("shares/withdrawn/", sharing.withdraw, name="withdraw-share"),
    path("record/", records.record, name="record-page"),
    path("record.<str:ending>", records.taken_along, name="record"),
    path("record/signed-<int:number>.svg", records.drawing, name="signed-drawing"),
    path("handover.ics", records.handover_calendar, name="handover-calendar"),
    path("job.json", exchange.job_file, name="job-file"),
    path("surface.<str:ending>", exchange.surface, name="surface-file"),
    path("outline.<str:ending>", exchange.outline, name="outline"),
]

shared = [
    path("", sharing.opened, name="shared"),
    path("record.pdf", sharing.pdf, name="shared-pdf"),
    path("handover.ics", sharing.dates, name="shared-dates"),
    path("signed-<int:number>.svg", sharing.drawing, name="shared-drawing"),
    path("photos/<str:photo>/", sharing.photo, name="shared-photo"),
    path("sign/", sharing.sign, name="shared-sign"),
    path("accept/", sharing.accept, name="shared-accept"),
]

urlpatterns = [
    path("", jobs.yard, name="yard"),
    path("now/", jobs.yard_now, name="yard-now"),
    path("sign-in/", crews.SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("crews/<uuid:crew_id>/", crews.crew, name="crew"),
    path("crews/<uuid:crew_id>/pin/", crews.own_pin, name="own-pin"),
    path("crews/<uuid:crew_id>/heads.txt", records.heads, name="heads"),
    path("crews/<uuid:crew_id>/tools/new/", crews.tool, name="new-tool"),
    path("crews/<uuid:crew_id>/tools/<uuid:tool_id>/", crews.tool, name="tool"),
    path("live/", live.stream, name="live"),
    path("worker.js", away.worker, name="worker"),
    path("app.webmanifest", away.manifest, name="manifest"),
    path("signal/", away.signal, name="signal"),
    path("waiting/", away.waiting, name="waiting"),
    path("shared/<str:token>/", include(shared)),
    path("jobs/new/", brief.new_job, name="new-job"),
    path("jobs/<uuid:job_id>/", include(job)),
]

handler500 = "nivelum.unavailable.server_error"
