"""The addresses of a job’s Joints room."""

from django.urls import path

from nivelum.joints import filling, seating, units

urlpatterns = [
    path("joints/", seating.seating, name="seating"),
    path("joints/now/", seating.seating_now, name="seating-now"),
    path("joints/before/", seating.shot_before, name="laid-high"),
    path("joints/passes/", seating.gone_over, name="seat-pass"),
    path("joints/units/", units.units, name="units"),
    path("joints/units/now/", units.units_now, name="units-now"),
    path("joints/units/<str:what>/", units.unit_work, name="unit-work"),
    path("joints/filling/", filling.fill, name="filling"),
    path("joints/filling/now/", filling.fill_now, name="filling-now"),
    path("joints/filling/<str:what>/", filling.fill_work, name="fill-work"),
]
