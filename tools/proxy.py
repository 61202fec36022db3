"""The proxy before every server of ours: nginx, configured here, started and stopped with what it stands before.

The application's threads are few, and one that waits for a slow visitor is lost to all others. The proxy takes requests in and hands
answers out at whatever pace, thousands at once, and passes on only what is whole. It refuses a body that is too large before it takes
it, asks the application who sends before it takes a large one, and says who asks, on its own word alone.
"""

import json
import os
import pwd
import re
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from huvren.studio.bounds import HEAVY, LONG_DEADLINE_S, MOST_ANONYMOUS_BYTES, MOST_JSON_BYTES, SIGNED_OUT, UPLOADS

SMALL_BYTES = 99_999
"""Bodies of fewer digits than six are taken without asking; nothing that is worth spooling fits in."""
AWAY = "The server cannot be reached just now. Nothing was changed; try again in a moment."
TOO_LARGE = "That is more than can be sent here. Nothing was changed."
HEADERS = """
    proxy_set_header Host $http_host;
    proxy_set_header Connection "";
    proxy_set_header X-Request-Id $request_id;
    proxy_set_header X-Huvren-Client $remote_addr;
    proxy_set_header X-Huvren-Scheme $seen_scheme;
    proxy_set_header X-Huvren-Protocol $server_protocol;
    proxy_set_header X-Forwarded-Proto "";
    proxy_set_header X-Forwarded-Protocol "";
    proxy_set_header X-Forwarded-Ssl "";
"""


@dataclass(frozen=True)
class Places:
    """Where a proxy and the application meet: a folder of their own."""

    folder: Path

    @property
    def socket(self) -> Path:
        return self.folder / "app.sock"

    @property
    def heavy(self) -> Path:
        """Of the processes that heavy requests go to, so that light ones never wait for a thread, an interpreter or a processor."""
        return self.folder / "heavy.sock"

    @property
    def streams(self) -> Path:
        return self.folder / "streams.sock"

    @property
    def configuration(self) -> Path:
        return self.folder / "nginx.conf"


def _problem(status: int, code: str, message: str, transport: str) -> str:
    body = json.dumps({"type": "about:blank", "status": status, "code": code, "message": message})
    return f"""{{
      internal; default_type application/problem+json; add_header X-Content-Type-Options nosniff always; {transport}
      {"add_header Retry-After 2 always;" if status >= 500 else ""}
      return {status} '{body}';
    }}"""


def configuration(places: Places, host: str, port: int, trusted: tuple[str, ...] = (), *, is_https: bool = False) -> str:
    """The text of nginx's configuration. trusted : addresses and networks of proxies before this one whose word is taken.

    is_https : whether visitors come by TLS; then every answer, whoever gives it, says that they always should.
    """
    transport = 'add_header Strict-Transport-Security "max-age=31536000" always;' if is_https else ""
    owner = "user nobody nogroup;" if os.geteuid() == 0 else ""
    asks = (
        "auth_request /_may_send; auth_request_set $why $upstream_http_x_huvren_refusal; "
        "error_page 401 @signed_out; error_page 403 @refused; error_page 413 @too_large; "
        # Whatever else the application says when it is asked, the database being away above all, is 500 to nginx.
        "error_page 500 502 504 =503 @away;"
    )
    uploads = "\n".join(
        f"    location = {body.path} {{ client_max_body_size {body.most_bytes}; {asks} proxy_pass http://heavy; }}"
        for body in UPLOADS
    )
    temporary = "\n".join(
        f"  {kind}_temp_path {places.folder}/{kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    listened = f"[{host}]" if ":" in host else host
    return f"""
daemon off;
{owner}
pid {places.folder}/nginx.pid;
error_log stderr warn;
worker_processes 2;
worker_rlimit_nofile 16384;
events {{ worker_connections 6000; }}
http {{
  access_log off;
  server_tokens off;
{temporary}
  client_header_timeout 15s;
  client_body_timeout 30s;
  send_timeout 60s;
  keepalive_timeout 65s;
  reset_timedout_connection on;
  # Shelves and palettes are text that repeats itself. No answer holds a secret beside what a visitor sent: tokens are masked anew.
  gzip on;
  gzip_comp_level 4;
  gzip_min_length 1024;
  gzip_proxied any;
  gzip_vary on;
  gzip_types application/json application/problem+json application/javascript text/css text/csv image/svg+xml;
  large_client_header_buffers 4 8k;
  client_body_buffer_size 128k;
  {" ".join(f"set_real_ip_from {network};" for network in trusted)}
  {"real_ip_header X-Forwarded-For; real_ip_recursive on;" if trusted else ""}
  geo $realip_remote_addr $is_trusted {{ default 0; {" ".join(f"{network} 1;" for network in trusted)} }}
  map "$is_trusted:$http_x_forwarded_proto" $seen_scheme {{ default $scheme; "1:https" https; }}
  map "$http_transfer_encoding:$content_length" $is_large {{ default 0; "~^.+:" 1; "~:[0-9]{{6,}}$" 1; }}
  # Looked up anew for the request that asks: it passes here too.
  map $uri $asks_itself {{ volatile; default 0; /_may_send 1; /sign-in 1; {" ".join(f"{body.path} 1;" for body in UPLOADS)} }}
  map "$is_large$asks_itself" $asks_first {{ volatile; default 0; 10 1; }}
  # The same that the lane takes for heavy (`huvren/studio/bounds.py`).
  map $uri $is_heavy {{ volatile; default 0; "~{HEAVY.pattern}" 1; }}
  map "$is_large$is_heavy" $who {{ volatile; default heavy; 00 app; }}
  upstream app {{ server unix:{places.socket} fail_timeout=0; }}
  upstream heavy {{ server unix:{places.heavy} fail_timeout=0; }}
  upstream streams {{ server unix:{places.streams} fail_timeout=0; }}
  server {{
    listen {listened}:{port} backlog=2048;
    client_max_body_size {SMALL_BYTES};
    proxy_http_version 1.1;
    proxy_connect_timeout 5s;
    proxy_read_timeout {LONG_DEADLINE_S + 30:.0f}s;
    proxy_buffers 16 32k;
    proxy_max_temp_file_size 4096m;
    {transport}
{HEADERS}
    error_page 413 414 @too_large;
    error_page 502 504 =503 @away;
    if ($asks_first) {{ rewrite ^ /_large last; }}
    location / {{ proxy_pass http://$who; }}
    location = /sign-in {{ client_max_body_size {MOST_ANONYMOUS_BYTES}; proxy_pass http://app; }}
    location = /_large {{ internal; client_max_body_size {MOST_JSON_BYTES}; {asks} proxy_pass http://heavy$request_uri; }}
{uploads}
    location = /_may_send {{
      internal;
      client_max_body_size 0;
      proxy_pass http://app/api/may-send;
      proxy_pass_request_body off;
{HEADERS}
      proxy_set_header Content-Length "";
      proxy_set_header X-Huvren-Bytes $content_length;
      proxy_set_header X-Huvren-Path $request_uri;
    }}
    location = /api/changes {{
      auth_request /_may_listen;
      auth_request_set $artist $upstream_http_x_huvren_artist;
      auth_request_set $palette $upstream_http_x_huvren_palette;
      error_page 401 @signed_out; error_page 403 500 502 504 =503 @away;
      proxy_pass http://streams;
      proxy_buffering off;
{HEADERS}
      proxy_set_header X-Huvren-Artist $artist;
      proxy_set_header X-Huvren-Palette $palette;
    }}
    location = /_may_listen {{
      internal;
      proxy_pass http://app/api/may-listen;
      proxy_pass_request_body off;
{HEADERS}
      proxy_set_header X-Huvren-Path $request_uri;
    }}
    location @too_large {_problem(413, "too_large", TOO_LARGE, transport)}
    location @signed_out {_problem(401, "signed_out", SIGNED_OUT, transport)}
    location @refused {{ internal; default_type application/problem+json; return 413 $why; }}
    location @away {_problem(503, "away", AWAY, transport)}
  }}
}}
"""


@contextmanager
def places() -> Iterator[Places]:
    """A folder for a proxy and its application, for the time of a block. Only the two may enter it."""
    folder = Path(tempfile.mkdtemp(prefix="huvren-serve-"))
    try:
        folder.chmod(0o750)
        if os.geteuid() == 0:
            os.chown(folder, 0, pwd.getpwnam("nobody").pw_gid)
        yield Places(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def nginx() -> str:
    """The program, which Debian keeps where only administrators look."""
    return shutil.which("nginx") or "/usr/sbin/nginx"


_SAID = re.compile(r"(?P<day>\d{4}/\d\d/\d\d) (?P<time>\d\d:\d\d:\d\d) \[(?P<level>[a-z]+)\] (?P<message>.*)")
LEVELS = {"emerg": "critical", "alert": "critical", "crit": "critical", "error": "error", "warn": "warning"}


def as_json(line: str) -> str:
    """A line that nginx said, as the application's own lines are: an object of JSON."""
    said = _SAID.match(line)
    # It says the time of this computer; the others say it in UTC.
    moment = datetime.strptime(f"{said['day']} {said['time']}", "%Y/%m/%d %H:%M:%S").astimezone(UTC) if said else datetime.now(UTC)
    return json.dumps({
        "time": moment.isoformat(timespec="milliseconds"), "level": LEVELS.get(said["level"], "info") if said else "info",
        "logger": "nginx", "message": said["message"] if said else line,
    }, ensure_ascii=False)  # fmt: skip


def command(place: Places) -> list[str | Path]:
    return [nginx(), "-p", place.folder, "-e", "stderr", "-c", place.configuration]
