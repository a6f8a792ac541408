"""The addresses of a job’s Order room."""

from django.urls import path

from nivelum.orders import views

urlpatterns = [
    path("order/", views.order, name="order"),
    path("order/now/", views.order_now, name="order-now"),
    path("order.csv", views.order_csv, name="order-csv"),
]
