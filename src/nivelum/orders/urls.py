"""The addresses of a job’s Order room."""

from django.urls import path

from nivelum.orders import costs, needs, placing, work

urlpatterns = [
    path("order/", needs.order, name="order"),
    path("order/now/", needs.order_now, name="order-now"),
    path("order.csv", needs.order_csv, name="order-csv"),
    path("order/placed/", placing.orders, name="orders"),
    path("order/placed/now/", placing.orders_now, name="orders-now"),
    path("order/placed/made/", placing.make_order, name="make-order"),
    path("order/placed/come/", placing.order_come, name="order-come"),
    path("order/placed/moved/", placing.order_moved, name="order-moved"),
    path("order/placed.ics", placing.calendar_of_orders, name="orders-calendar"),
    path("order/sheet.<str:ending>", placing.order_sheet, name="order-sheet"),
    path("order/work/", work.work, name="hours"),
    path("order/work/now/", work.work_now, name="hours-now"),
    path("order/work/<str:what>/", work.record_hours, name="record-hours"),
    path("order/costs/", costs.costs, name="costs"),
    path("order/costs/now/", costs.costs_now, name="costs-now"),
    path("order/costs/keep/", costs.keep, name="keep-estimate"),
    path("order/costs/compare/", costs.compare, name="compare"),
    path("order/estimate.pdf", costs.estimate_pdf, name="estimate-pdf"),
]
