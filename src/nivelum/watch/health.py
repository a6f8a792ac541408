"""Whether the server answers, and whether it can do its work."""

import asyncio
from dataclasses import dataclass

from django.contrib.auth.decorators import login_not_required
from django.core.files.storage import default_storage
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor
from django.http import HttpRequest, HttpResponse, JsonResponse
from health_check.base import HealthCheck
from health_check.exceptions import ServiceUnavailable
from health_check.views import HealthCheckView


@dataclass
class TheDatabase(HealthCheck):  # type: ignore[misc] # it comes without types
    """It answers, and is as this version wants it."""

    def run(self) -> None:
        try:
            executor = MigrationExecutor(connection)
            waiting = executor.migration_plan(executor.loader.graph.leaf_nodes())
        except DatabaseError as error:
            raise ServiceUnavailable("the database does not answer") from error
        finally:
            connection.close()
        if waiting:
            raise ServiceUnavailable(f"{len(waiting)} migrations wait: run bin/serve set-up")


@dataclass
class Photos(HealthCheck):  # type: ignore[misc] # it comes without types
    """Where photos are kept can be reached."""

    def run(self) -> None:
        try:
            default_storage.exists("00000000-0000-0000-0000-000000000000/none.jpg")
        except Exception as error:
            raise ServiceUnavailable("where photos are kept does not answer") from error


class Ready(HealthCheckView):  # type: ignore[misc] # it comes without types
    """200 where work can be done, else 503, and why."""

    checks = (TheDatabase, Photos)

    async def get(self, request: HttpRequest, *_arguments: object, **_named: object) -> HttpResponse:
        with self.get_executor() as executor:
            found = await asyncio.gather(*(check.get_result(executor) for check in self.get_checks()))
        said = {type(each.check).__name__: str(each.error or "OK") for each in found}
        return JsonResponse(said, status=503 if any(each.error for each in found) else 200)


ready = login_not_required(Ready.as_view())


@login_not_required
def live(request: HttpRequest) -> HttpResponse:
    """That this process answers; the door says it, and this where there is none."""
    return HttpResponse("live\n", content_type="text/plain")
