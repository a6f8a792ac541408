"""What goes on when the application is there."""

from django.apps import AppConfig


class Records(AppConfig):
    name = "nivelum.records"

    def ready(self) -> None:
        from nivelum.live.hub import says_of_company  # noqa: PLC0415 (models are there only now)
        from nivelum.records.company import company_of  # noqa: PLC0415

        says_of_company(company_of)
