"""The addresses under a job."""

from django.urls import path

from nivelum.exchange import views

urlpatterns = [
    path("job.json", views.job_file, name="job-file"),
    path("surface.<str:ending>", views.surface, name="surface-file"),
    path("outline.<str:ending>", views.outline, name="outline"),
]
