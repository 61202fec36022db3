"""Figures for Prometheus at /metrics: off unless HUVREN_METRICS is 1, and only for whoever asks from an address that may."""

import functools
import os
from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse

ANSWERED = (0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0)


@functools.cache
def _figures() -> tuple[Any, Any]:
    # Loaded where it is wanted: the package decides while it is imported whether several processes count together.
    from prometheus_client import Counter, Histogram

    return (
        Counter("huvren_requests", "Requests answered", ["method", "route", "status"]),
        Histogram("huvren_request_seconds", "Seconds until the answer", ["route"], buckets=ANSWERED),
    )


def count(method: str, route: str, status: int, seconds: float) -> None:
    """Count a request, where figures are kept."""
    if settings.METRICS:
        requests, durations = _figures()
        requests.labels(method, route, str(status)).inc()
        durations.labels(route).observe(seconds)


def metrics(request: HttpRequest) -> HttpResponse:
    """All worker processes together, as text."""
    if not settings.METRICS or request.META.get("REMOTE_ADDR") not in settings.METRICS_FROM:
        raise Http404
    from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, generate_latest, multiprocess

    registry = REGISTRY
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        registry = CollectorRegistry()
        multiprocess.MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    return HttpResponse(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)
