"""The addresses of a job’s Water room."""

from django.urls import path

from nivelum.water import views

urlpatterns = [
    path("water/", views.water, name="water"),
]
