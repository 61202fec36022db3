"""What every request passes through, one file each; `site/settings.py` says in which order."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

Handler = Callable[[HttpRequest], HttpResponse]
