"""The application as uvicorn serves it."""

import os
import warnings

from django.core.asgi import get_asgi_application

from nivelum.door import Door

# WhiteNoise hands files over in pieces it has at hand; that they are not fetched asynchronously is fine.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "nivelum.settings")
application = Door(get_asgi_application())
