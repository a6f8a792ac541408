"""The addresses under a job."""

from django.urls import path

from nivelum.jobs import views

urlpatterns = [
    path("", views.open_job, name="job"),
    path("photos/<str:photo>/", views.photo, name="photo"),
]
