"""The door for a production server."""

import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fieldtally.server.settings")
application = get_wsgi_application()
# Every door is read now: else whoever comes first would wait for it, in each process anew.
get_resolver().url_patterns  # noqa: B018 - reading it is what is wanted
