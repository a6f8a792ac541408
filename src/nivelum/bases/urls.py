"""The addresses of a job’s Base room."""

from django.urls import path

from nivelum.bases.views import adviser, brief, falls, news, section, strength

urlpatterns = [
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
    path("base/brief/pattern/", brief.pattern, name="pattern"),
]
