"""The addresses under a job."""

from django.urls import path

from nivelum.sharing import views

urlpatterns = [
    path("shares/", views.shares, name="shares"),
    path("shares/withdrawn/", views.withdraw, name="withdraw-share"),
]
