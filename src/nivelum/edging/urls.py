"""The addresses of a job’s Edges room."""

from django.urls import path

from nivelum.edging import views

urlpatterns = [
    path("edges/", views.edges, name="edges"),
    path("edges/now/", views.edges_now, name="edges-now"),
    path("edges/plans/", views.plan_edge, name="plan-edge"),
    path("edges/tops/", views.edge_top, name="edge-top"),
    path("edges/strings/", views.edge_string, name="edge-string"),
    path("edges/lines/", views.edge_line, name="edge-line"),
    path("edges/beds/", views.edge_bedded, name="edge-bedded"),
    path("edges/held/<str:what>/", views.side_work, name="side-work"),
    path("edges/boards/", views.edge_board, name="edge-board"),
]
