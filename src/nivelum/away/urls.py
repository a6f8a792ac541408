"""The addresses under a job."""

from django.urls import path

from nivelum.away import views

urlpatterns = [
    path("rooms.json", views.rooms, name="rooms"),
]
