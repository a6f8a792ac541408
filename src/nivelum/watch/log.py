"""The log: one JSON object a line, with the request it belongs to, and the job where there is one."""

import re
from typing import Any

import structlog
from django.dispatch import receiver
from django.http import HttpRequest
from django_structlog.signals import bind_extra_request_metadata

_JOB = re.compile(r"^/jobs/([0-9a-f-]{36})/")
_OPENS = re.compile(r"/(join|password|shared)/[^/\s]+")


def without_tokens(_logger: Any, _name: str, event: structlog.typing.EventDict) -> structlog.typing.EventDict:
    """A line without what an address opens with."""
    return {key: _OPENS.sub(r"/\1/…", value) if isinstance(value, str) else value for key, value in event.items()}


_EACH: list[structlog.typing.Processor] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso", utc=True),
    structlog.processors.dict_tracebacks,
]


def set_up_log() -> None:
    """From now on what is logged goes the same way, whoever logs it."""
    structlog.configure(
        processors=[
            structlog.stdlib.filter_by_level, *_EACH, structlog.stdlib.ProcessorFormatter.wrap_for_formatter,
        ],
        logger_factory=structlog.stdlib.LoggerFactory(),
        cache_logger_on_first_use=True,
    )  # fmt: skip


def formatter() -> Any:
    """For Python's own logging."""
    return structlog.stdlib.ProcessorFormatter(
        processors=[
            structlog.stdlib.ProcessorFormatter.remove_processors_meta, without_tokens,
            structlog.processors.JSONRenderer(),
        ],
        foreign_pre_chain=_EACH,
    )  # fmt: skip


@receiver(bind_extra_request_metadata)
def _name_the_job(request: HttpRequest, logger: Any, **_signal: Any) -> None:
    if found := _JOB.match(request.path):
        structlog.contextvars.bind_contextvars(job=found[1])
