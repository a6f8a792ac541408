"""The addresses of a job’s Lifts room."""

from django.urls import path

from nivelum.lifts import views

urlpatterns = [
    path("lifts/", views.lift, name="lifts"),
    path("lifts/now/", views.lift_now, name="lifts-now"),
    path("lifts/spread-targets/", views.spread, name="spread-targets"),
    path("lifts/more/", views.more, name="lifts-more"),
    path("lifts/tests/", views.tests, name="lift-tests"),
    path("lifts/ground/", views.subgrade, name="subgrade"),
    path("lifts/pour/", views.pour, name="pour"),
    path("lifts/deliveries/", views.deliveries, name="deliveries"),
    path("lifts/strikes/", views.strike, name="strike-work"),
    path("lifts/number/", views.choose, name="choose-lifts"),
    path("lifts/<str:kind>/", views.record_work, name="work"),
]
