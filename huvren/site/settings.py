"""Settings, read from the environment. `./run` fills it in; a server's administrator does so by hand.

HUVREN_STATE          folder for everything that is not code (default: .huvren in the checkout)
HUVREN_DB_*           HOST, PORT, NAME, USER, PASSWORD of PostgreSQL
HUVREN_SECRET_KEY     Django's secret; without it, one is made and kept in the state folder
HUVREN_HOSTS          host names to answer to, separated by commas
HUVREN_DEMO           1: sign loopback visitors in as the demo artist
HUVREN_DEBUG          1: Django's debug pages, for work on the code only
HUVREN_HTTPS          1: secure cookies and strict transport, behind a proxy that speaks HTTPS
HUVREN_TRUSTED_PROXIES  addresses or networks of proxies before this server whose word on who asks is taken, separated by commas
HUVREN_WORKERS        web worker processes of `./run serve` (default: 2)
HUVREN_TRASH_DAYS     days after which the trash, and jobs that have ended, are removed for good (default: 30)
HUVREN_QUOTA_MB, _PICTURES, _PALETTES, _JOBS   what one artist may keep, and jobs that may wait (4096, 5000, 10000, 50)
HUVREN_MOST_ARCHIVE_MB  the largest archive that is brought in (default: 1024)
HUVREN_DEADLINE_S     seconds of work after which a request breaks itself off (default: 20)
HUVREN_GRACE_S        seconds after that until its process is replaced where it does not (default: 10)
HUVREN_LANES          heavy requests at once on a computer (default: one a core, 2 at least)
HUVREN_MACHINE        what is one computer (default: its name)
HUVREN_RATES          0: no limits on how often something may be asked for
HUVREN_PUBLIC_SCHEMA  1: /api/openapi.json for everybody, not only for who is signed in
HUVREN_METRICS        1: figures for Prometheus at /metrics, for the addresses of HUVREN_METRICS_FROM (default: 127.0.0.1,::1)
HUVREN_OWN_PROXY      set by `./run`: our own proxy stands before this process, and says who asks

docs/OPERATING.md tells what to do with them.
"""

import contextlib
import os
import secrets
from pathlib import Path

from huvren.studio.bounds import MOST_JSON_BYTES

ROOT = Path(__file__).resolve().parent.parent.parent
STATE = Path(os.environ.get("HUVREN_STATE", ROOT / ".huvren"))


def _flag(name: str) -> bool:
    return os.environ.get(name, "") == "1"


def _secret_key() -> str:
    if key := os.environ.get("HUVREN_SECRET_KEY"):
        return key
    path = STATE / "secret-key"
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        # Nobody else may read it for a moment, and of two processes that begin at once both take the key of the first.
        made = path.with_name(f"secret-key.{os.getpid()}")
        with os.fdopen(os.open(made, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(48))
        with contextlib.suppress(FileExistsError):
            os.link(made, path)
        made.unlink()
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = _flag("HUVREN_DEBUG")
DEMO = _flag("HUVREN_DEMO")
ALLOWED_HOSTS = [host for host in os.environ.get("HUVREN_HOSTS", "127.0.0.1,localhost,[::1]").split(",") if host]
CSRF_TRUSTED_ORIGINS = [origin for origin in os.environ.get("HUVREN_ORIGINS", "").split(",") if origin]
HTTPS = _flag("HUVREN_HTTPS")
BEHIND_OWN_PROXY = _flag("HUVREN_OWN_PROXY")
PUBLIC_SCHEMA = _flag("HUVREN_PUBLIC_SCHEMA")
METRICS = _flag("HUVREN_METRICS")
METRICS_FROM = os.environ.get("HUVREN_METRICS_FROM", "127.0.0.1,::1").split(",")
RATES = os.environ.get("HUVREN_RATES", "1") != "0"
if DEMO and HTTPS:
    raise SystemExit("HUVREN_DEMO signs visitors in without a password, so it cannot go together with HUVREN_HTTPS.")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.staticfiles",
    "procrastinate.contrib.django",
    "huvren.studio",
]
MIDDLEWARE = [
    "huvren.studio.middleware.client.ClientAddress",
    "huvren.studio.middleware.log.RequestLog",
    "django.middleware.security.SecurityMiddleware",
    "huvren.studio.middleware.policy.ContentPolicy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "huvren.studio.middleware.problems.ApiProblems",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "huvren.studio.middleware.demo.DemoSignIn",
    "huvren.studio.middleware.bodies.BodyLimits",
    "huvren.studio.middleware.lanes.Lanes",
    "huvren.studio.middleware.deadline.Deadline",
]
ROOT_URLCONF = "huvren.site.urls"
WSGI_APPLICATION = "huvren.site.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]
STATEMENT_MS = int(os.environ.get("HUVREN_STATEMENT_MS", "20000"))
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": os.environ.get("HUVREN_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("HUVREN_DB_PORT", "5432"),
        "NAME": os.environ.get("HUVREN_DB_NAME", "huvren"),
        "USER": os.environ.get("HUVREN_DB_USER", "huvren"),
        "PASSWORD": os.environ.get("HUVREN_DB_PASSWORD", ""),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        # A database that is away, or stuck, is noticed within seconds; a question that takes longer than any should is broken off.
        "OPTIONS": {
            "connect_timeout": 3,
            "tcp_user_timeout": 5000,
            "keepalives_idle": 20,
            "options": f"-c statement_timeout={STATEMENT_MS} -c lock_timeout=10000 -c idle_in_transaction_session_timeout=120000",
        },
    }
}
TRASH_DAYS = float(os.environ.get("HUVREN_TRASH_DAYS", "30"))
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_USER_MODEL = "studio.Artist"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
LOGIN_URL = "/sign-in"
LOGIN_REDIRECT_URL = "/"
LANGUAGE_CODE = "en-us"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "/static/"
STATIC_ROOT = STATE / "static"
STATICFILES_DIRS = [folder for folder in [ROOT / "web" / "dist"] if folder.exists()]
STORAGES = {
    # Everything is kept in PostgreSQL. A file that is saved by mistake must not vanish with the process.
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage", "OPTIONS": {"location": STATE / "files"}},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
# Vite puts a hash into the name of every file below assets/.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/assets/.+-[\w-]{8}\.\w+$"
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = MOST_JSON_BYTES
DATA_UPLOAD_MAX_NUMBER_FIELDS = 20
DATA_UPLOAD_MAX_NUMBER_FILES = 2

SESSION_ENGINE = "huvren.studio.sessions"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
# Our own proxy says it with every answer, those that it gives itself included.
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS and not BEHIND_OWN_PROXY else 0
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "huvren.site.logs.JsonLines"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "stream": "ext://sys.stdout", "formatter": "json"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        "huvren": {"level": "INFO"},
        # Django would add a warning for every 4xx; our own line for each request says as much.
        "django.request": {"level": "ERROR"},
    },
}
