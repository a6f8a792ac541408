"""Every address. Whatever belongs to a job has its `job_id`, to a crew its `crew_id`: access hangs on them."""

from django.urls import include, path

from nivelum.away import views as away
from nivelum.bases.views import brief
from nivelum.crews import views as crews
from nivelum.days import crew as days
from nivelum.days import week
from nivelum.jobs import views as jobs
from nivelum.live import views as live
from nivelum.orders import prices
from nivelum.records import views as records
from nivelum.sharing import views as sharing
from nivelum.watch import health, metrics

ON_A_JOB = (
    "jobs", "away", "bases", "readings", "water", "instruments", "lifts", "beds", "edging", "laying", "joints",
    "orders", "days", "setouts", "signoffs", "records", "sharing", "exchange",
)  # fmt: skip
"""The apps with addresses under a job, the one with a catch-all after what it would catch."""
job = [path("", include(f"nivelum.{app}.urls")) for app in ON_A_JOB]

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
    path("", include("nivelum.people.urls")),
    path("crews/<uuid:crew_id>/", crews.crew, name="crew"),
    path("crews/<uuid:crew_id>/prices/", prices.prices, name="prices"),
    path("crews/<uuid:crew_id>/weather/", days.crew_weather, name="crew-weather"),
    path("crews/<uuid:crew_id>/week/", week.week, name="week"),
    path("crews/<uuid:crew_id>/week/ask/", week.ask_week, name="ask-week"),
    path("crews/<uuid:crew_id>/week/asked/", week.asked_for_week, name="asked-week"),
    path("crews/<uuid:crew_id>/week/stop/", week.stop_week, name="stop-week"),
    path("crews/<uuid:crew_id>/week/said/", week.say_week, name="say-week"),
    path("crews/<uuid:crew_id>/week/<int:person_id>/", week.my_days, name="my-days"),
    path("crews/<uuid:crew_id>/week/<int:person_id>.ics", week.my_calendar, name="my-calendar"),
    path("crews/<uuid:crew_id>/heads.txt", records.heads, name="heads"),
    path("crews/<uuid:crew_id>/tools/new/", crews.tool, name="new-tool"),
    path("crews/<uuid:crew_id>/tools/<uuid:tool_id>/", crews.tool, name="tool"),
    path("live/", live.stream, name="live"),
    path("health/live", health.live, name="health-live"),
    path("health/ready", health.ready, name="health-ready"),
    path("metrics", metrics.metrics, name="metrics"),
    path("worker.js", away.worker, name="worker"),
    path("app.webmanifest", away.manifest, name="manifest"),
    path("signal/", away.signal, name="signal"),
    path("waiting/", away.waiting, name="waiting"),
    path("shared/<str:token>/", include(shared)),
    path("jobs/new/", brief.new_job, name="new-job"),
    path("jobs/<uuid:job_id>/", include(job)),
]

handler500 = "nivelum.unavailable.server_error"
