"""Settings, read from the environment. `./run` fills it in; a server's administrator does so by hand.

HUVREN_STATE          folder for everything that is not code (default: .huvren in the checkout)
HUVREN_DB_*           HOST, PORT, NAME, USER, PASSWORD of PostgreSQL
HUVREN_SECRET_KEY     Django's secret; without it, one is made and kept in the state folder
HUVREN_HOSTS          host names to answer to, separated by commas
HUVREN_DEMO           1: sign loopback visitors in as the demo artist
HUVREN_DEBUG          1: Django's debug pages, for work on the code only
HUVREN_HTTPS          1: secure cookies and strict transport, behind a proxy that speaks HTTPS
HUVREN_TRASH_DAYS     days after which the trash, and jobs that have ended, are removed for good (default: 30)
"""

import os
import secrets
from pathlib import Path

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
        path.write_text(secrets.token_urlsafe(48))
        path.chmod(0o600)
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = _flag("HUVREN_DEBUG")
DEMO = _flag("HUVREN_DEMO")
ALLOWED_HOSTS = [host for host in os.environ.get("HUVREN_HOSTS", "127.0.0.1,localhost,[::1]").split(",") if host]
CSRF_TRUSTED_ORIGINS = [origin for origin in os.environ.get("HUVREN_ORIGINS", "").split(",") if origin]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "procrastinate.contrib.django",
    "huvren.studio",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "huvren.studio.middleware.ContentPolicy",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "huvren.studio.middleware.DemoSignIn",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
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
    }
}
TRASH_DAYS = float(os.environ.get("HUVREN_TRASH_DAYS", "30"))
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_USER_MODEL = "studio.Artist"
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
FILE_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = _flag("HUVREN_HTTPS")
SECURE_HSTS_SECONDS = 31_536_000 if _flag("HUVREN_HTTPS") else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if _flag("HUVREN_HTTPS") else None
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
