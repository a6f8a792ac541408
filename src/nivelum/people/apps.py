"""What goes on when the application is there."""

from django.apps import AppConfig


class People(AppConfig):
    name = "nivelum.people"
