"""Files in a store that speaks S3, which gives up in time where it does not answer."""

from typing import Any

from botocore.config import Config
from storages.backends.s3 import S3Storage


class Bucket(S3Storage):  # type: ignore[misc] # it comes without types
    """A file of the same name takes the place of another, as on a disk; none has an address of its own."""

    def __init__(self, **options: Any) -> None:
        quick = Config(
            connect_timeout=2, read_timeout=10, retries={"max_attempts": 2, "mode": "standard"},
            s3={"addressing_style": "path"}, signature_version="s3v4",
            request_checksum_calculation="when_required", response_checksum_validation="when_required",
        )  # fmt: skip
        super().__init__(client_config=quick, file_overwrite=True, default_acl=None, querystring_auth=True, **options)
