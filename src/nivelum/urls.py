"""Every address. Whatever belongs to a job has its `job_id`, to a crew its `crew_id`: access hangs on them."""

from django.contrib.auth.views import LogoutView
from django.urls import include, path

from nivelum.bases.views import adviser, brief, falls, news, section, strength
from nivelum.crews import views as crews
from nivelum.exchange import views as exchange
from nivelum.jobs import views as jobs
from nivelum.live import views as live
from nivelum.readings import views as readings
from nivelum.signoffs import views as signoffs

job = [
    path("", jobs.open_job, name="job"),
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
    path("sign-offs/", signoffs.sign_offs, name="sign-offs"),
    path("sign-offs/now/", signoffs.sign_offs_now, name="sign-offs-now"),
    path("sign-offs/sign/", signoffs.sign, name="sign"),
    path("sign-offs/accept/", signoffs.accept, name="accept"),
    path("record.json", exchange.record, name="record"),
    path("job.json", exchange.job_file, name="job-file"),
    path("outline.<str:ending>", exchange.outline, name="outline"),
]

urlpatterns = [
    path("", jobs.yard, name="yard"),
    path("now/", jobs.yard_now, name="yard-now"),
    path("sign-in/", crews.SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("crews/<uuid:crew_id>/", crews.crew, name="crew"),
    path("live/", live.stream, name="live"),
    path("jobs/new/", brief.new_job, name="new-job"),
    path("jobs/<uuid:job_id>/", include(job)),
]
