"""Django settings. What differs between places comes from the environment; see docs/deployment.md."""

from __future__ import annotations

import os
import secrets
from pathlib import Path
from urllib.parse import unquote, urlsplit

ROOT = Path(__file__).resolve().parents[3]
DATA = Path(os.environ.get("HANDFUL_DATA", ROOT / "var"))
MEDIA_ROOT = Path(os.environ.get("HANDFUL_MEDIA", DATA / "media"))
RENDERS_ROOT = Path(os.environ.get("HANDFUL_RENDERS", DATA / "renders"))
THUMBNAILS_ROOT = DATA / "thumbnails"
STATES_ROOT = DATA / "states"
COMPILING = DATA / "compiling"
WEB_ROOT = ROOT / "web" / "dist"

DEMO = os.environ.get("HANDFUL_DEMO") == "1"
"""In demo mode anyone may continue as the demo artist."""


def _secret_key() -> str:
    if "HANDFUL_SECRET_KEY" in os.environ:
        return os.environ["HANDFUL_SECRET_KEY"]
    path = DATA / "secret-key"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return path.read_text()
    with os.fdopen(descriptor, "w") as file:
        key = secrets.token_urlsafe(48)
        file.write(key)
    return key


POOL = {"min_size": 2, "max_size": 20, "timeout": 10}
"""Connections that the threads of the web server share, of which each answers one request."""


SERVES = os.environ.get("HANDFUL_SERVES") == "1"
"""Whether this is the web server itself, and no command or test."""


def _database(url: str) -> dict[str, object]:
    parts = urlsplit(url)
    return {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": parts.path.lstrip("/"),
        "USER": unquote(parts.username or ""),
        "PASSWORD": unquote(parts.password or ""),
        "HOST": parts.hostname or "127.0.0.1",
        "PORT": str(parts.port or 5432),
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"pool": POOL} if SERVES else {},
    }


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = os.environ.get("HANDFUL_HOSTS", "127.0.0.1,localhost").split(",")
DATABASES = {"default": _database(os.environ.get("HANDFUL_DATABASE_URL", "postgresql:///handful"))}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "procrastinate.contrib.django",
    "handful.studio.people",
    "handful.studio.shots",
    "handful.studio.plates",
    "handful.studio.preview",
    "handful.studio.renders",
    "handful.studio.demo",
]
MIDDLEWARE = [
    "handful.studio.connections.in_parts",
    "handful.studio.watch.requests.told",
    "handful.studio.doors.no_stray_signs",
    "django.middleware.security.SecurityMiddleware",
    "handful.studio.doors.kept_in",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
ROOT_URLCONF = "handful.studio.urls"
TEST_RUNNER = "handful.studio.testing.Runner"
USE_TZ = True
TIME_ZONE = "UTC"
STATIC_URL = "/static/"

WHITENOISE_ROOT = WEB_ROOT if WEB_ROOT.is_dir() else None
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\."

SECURE = os.environ.get("HANDFUL_SECURE") == "1"
"""Whether people come by TLS only, through a proxy that says so; see docs/deployment.md."""

CSRF_TRUSTED_ORIGINS = [
    origin for origin in os.environ.get("HANDFUL_ORIGINS", "").split(",") if origin
]
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
if SECURE:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^api/v1/(alive|ready|metrics)$"]
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
    SECURE_HSTS_PRELOAD = True
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True

SESSION_ENGINE = "django.contrib.sessions.backends.cached_db"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        "django.request": {"level": "ERROR"},
        "django.security": {"level": "ERROR"},
        "handful.requests": {"level": os.environ.get("HANDFUL_LOG_REQUESTS", "WARNING")},
    },
}
