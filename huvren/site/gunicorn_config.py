"""gunicorn's own lines, as JSON like all others; and who comes and goes among its processes."""

from typing import Any

from huvren.studio.services.load.handover import begin, has_come, has_gone


def on_starting(server: Any) -> None:
    """In the master, before its first process."""
    del server
    begin()


def post_worker_init(worker: Any) -> None:
    """In a process that has loaded the application and answers from now on."""
    del worker
    has_come()


def child_exit(server: Any, worker: Any) -> None:
    """In the master, before it makes up for a process that is over."""
    has_gone(server, worker.pid)


logconfig_dict = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "huvren.site.logs.JsonLines"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "stream": "ext://sys.stdout", "formatter": "json"}},
    "root": {"level": "WARNING", "handlers": ["console"]},
    "loggers": {
        "gunicorn.error": {"level": "INFO", "handlers": ["console"], "propagate": False},
        "gunicorn.access": {"level": "ERROR", "handlers": ["console"], "propagate": False},
    },
}
