"""Once every room is loaded, each says how its kinds of entry are shown."""

from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules


class RecordingConfig(AppConfig):
    name = "nivelum.recording"

    def ready(self) -> None:
        autodiscover_modules("kinds")
