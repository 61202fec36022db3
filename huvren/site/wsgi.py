"""WSGI entry for gunicorn."""

import gc
import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "huvren.site.settings")
application = get_wsgi_application()

# What is loaded now stays; a whole palette in an answer is thousands of short-lived objects that need no early look.
gc.collect()
gc.freeze()
gc.set_threshold(200_000, 20, 100)
