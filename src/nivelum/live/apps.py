"""What goes on when the application is there."""

from django.apps import AppConfig
from django.db.models.signals import post_delete


class Live(AppConfig):
    name = "nivelum.live"

    def ready(self) -> None:
        from nivelum.live.leaving import told_of_leaving  # noqa: PLC0415 (models are there only now)

        post_delete.connect(told_of_leaving, sender="crews.Membership", dispatch_uid="left a crew")
