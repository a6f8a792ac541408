"""The addresses under a job."""

from django.urls import path

from nivelum.instruments import views

urlpatterns = [
    path("ground/level/", views.level, name="level"),
    path("lifts/probe/", views.probe, name="probe"),
]
