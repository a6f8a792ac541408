"""The addresses of a job’s Set-out room."""

from django.urls import path

from nivelum.setouts import views

urlpatterns = [
    path("set-out/", views.set_out, name="set-out"),
    path("set-out/now/", views.set_out_now, name="set-out-now"),
    path("set-out/lengths/", views.length, name="length"),
    path("set-out/dropped/", views.drop_length, name="drop-length"),
    path("set-out/moves/", views.peg_move, name="peg-move"),
    path("set-out/margins/", views.margin, name="margin"),
    path("set-out/services/", views.services, name="services"),
    path("set-out/strings/", views.strings, name="strings"),
    path("set-out/square/", views.square, name="square"),
]
