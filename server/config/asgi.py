"""The application as an ASGI server sees it."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
application = get_asgi_application()
