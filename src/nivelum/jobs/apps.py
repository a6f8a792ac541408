"""The record of jobs; once every room is loaded, each says how its kinds of entry are shown."""

from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules


class JobsConfig(AppConfig):
    name = "nivelum.jobs"

    def ready(self) -> None:
        autodiscover_modules("kinds")
