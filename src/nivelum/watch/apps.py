"""What goes on when the application is there."""

from django.apps import AppConfig


class Watch(AppConfig):
    name = "nivelum.watch"

    def ready(self) -> None:
        from nivelum.watch import log  # noqa: F401, PLC0415 (its receiver is connected only now)
