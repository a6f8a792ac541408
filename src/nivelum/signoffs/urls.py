"""The addresses of a job’s Sign-offs room."""

from django.urls import path

from nivelum.signoffs import views

urlpatterns = [
    path("sign-offs/", views.sign_offs, name="sign-offs"),
    path("sign-offs/now/", views.sign_offs_now, name="sign-offs-now"),
    path("sign-offs/sign/", views.sign, name="sign"),
    path("sign-offs/accept/", views.accept, name="accept"),
    path("sign-offs/take-back/", views.take_back, name="take-back"),
    path("sign-offs/looks/", views.look, name="look"),
    path("sign-offs/photos/", views.picture, name="picture"),
]
