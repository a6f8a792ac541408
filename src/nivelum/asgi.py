"""The application as uvicorn serves it."""

import os
import warnings
from typing import cast

from django.core.asgi import get_asgi_application

from nivelum.door import App, Door

# WhiteNoise hands files over in pieces it has at hand; that they are not fetched asynchronously is fine.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nivelum.settings")
application = Door(cast(App, get_asgi_application()))
