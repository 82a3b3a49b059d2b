"""The WSGI application."""

import gc
import os
import sys

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

from web.project.deadline import ends_in_time
from web.project.environment import Wrong

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "web.project.settings")
try:
    application = ends_in_time(get_wsgi_application())
except Wrong as error:
    sys.exit(f"settings: {error}")

# Every view is loaded before the server makes its processes: they share it, and the first who asks
# does not wait for it.
_ = get_resolver().url_patterns

# What stands now stays: the collector need not walk it again (a tenth of a second, in the middle of
# a page), nor the processes copy what it would have touched.
gc.collect()
gc.freeze()
