"""The addresses of a job’s Record room."""

from django.urls import path

from nivelum.records import lessons, views

urlpatterns = [
    path("company/", views.company, name="company"),
    path("record/", views.record, name="record-page"),
    path("record.<str:ending>", views.taken_along, name="record"),
    path("record/signed-<int:number>.svg", views.drawing, name="signed-drawing"),
    path("record/lessons/", lessons.lessons_page, name="lessons"),
    path("record/lessons/kept/", lessons.keep, name="keep-lessons"),
    path("handover.ics", views.handover_calendar, name="handover-calendar"),
]
