"""WSGI entry for gunicorn."""

import gc
import os
import sys

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "huvren.site.settings")
application = get_wsgi_application()
# All that answers is loaded now, so that nobody's first request waits for it, here or after a process began anew.
assert get_resolver().url_patterns

# A thread that computes comes back to the interpreter some hundred times for one preview, and each time it may wait so long for
# one that reads a large file; usual are 5 ms.
sys.setswitchinterval(0.0005)

# What is loaded now stays; a whole palette in an answer is thousands of short-lived objects that need no early look.
gc.collect()
gc.freeze()
gc.set_threshold(200_000, 20, 100)
