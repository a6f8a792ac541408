"""The settings with made-up values for what has to be given: enough to know the types by."""

import os

for name, value in {
    "NIVELUM_SECRET_KEY": "x",
    "NIVELUM_HOSTS": "localhost",
    "NIVELUM_SERVED_IN_THE_CLEAR": "yes",
    "DATABASE_URL": "postgres://x:x@127.0.0.1:1/x",
}.items():
    os.environ.setdefault(name, value)

from nivelum.settings import *  # noqa: E402, F403
