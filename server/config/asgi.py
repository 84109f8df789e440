"""The application as an ASGI server sees it."""

import os
import warnings

from django.core.asgi import get_asgi_application

# Static files are small and read at once; Django warns because they are read synchronously.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
from .bodies_in import BoundedBodies  # noqa: E402 – settings come first

application = BoundedBodies(get_asgi_application())
