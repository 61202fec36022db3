"""Log lines as JSON, one object a line, on standard output: what keeps and rotates them is the system's own."""

import json
import logging
from datetime import UTC, datetime

EXTRA = ("request_id", "user", "method", "route", "path", "status", "ms")


class JsonLines(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        line: dict[str, object] = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(), "logger": record.name, "message": record.getMessage(),
        }  # fmt: skip
        line |= {name: record.__dict__[name] for name in EXTRA if name in record.__dict__}
        if record.exc_info:
            line["error"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)
