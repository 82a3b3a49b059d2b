"""The WSGI application."""

import os
import sys

from django.core.wsgi import get_wsgi_application

from web.project.environment import Wrong

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "web.project.settings")
try:
    application = get_wsgi_application()
except Wrong as error:
    sys.exit(f"settings: {error}")
