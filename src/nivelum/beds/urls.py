"""The addresses of a job’s Bedding room."""

from django.urls import path

from nivelum.beds import bays, mortar, views

urlpatterns = [
    path("bed/", views.rails, name="rails"),
    path("bed/now/", views.rails_now, name="rails-now"),
    path("bed/plans/", views.plan_rails, name="plan-rails"),
    path("bed/rails/", views.rail_shot, name="rail-shot"),
    path("bed/strings/", views.rail_dip, name="rail-dip"),
    path("bed/thickness/", views.bed_thickness, name="bed-thickness"),
    path("bed/bays/", bays.bays, name="bays"),
    path("bed/bays/now/", bays.bays_now, name="bays-now"),
    path("bed/bays/<str:what>/", bays.bay_work, name="bay-work"),
    path("bed/mortar/", mortar.mortar, name="mortar"),
    path("bed/mortar/batches/", mortar.batch, name="batch"),
    path("bed/mortar/flags/", mortar.flag, name="flag"),
    path("bed/trial/", views.trial, name="trial"),
    path("bed/trial/units/", views.trial_unit, name="trial-unit"),
    path("bed/trial/take/", views.take_trial, name="take-trial"),
]
