"""Django settings, read from the environment that `./run` prepares."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
LOCAL = Path(os.environ.get("MELLOW_SPAN_LOCAL", ROOT / ".local"))


def _connection() -> dict[str, Any]:
    """Connection of the private cluster, as written by scripts/cluster.py; empty before the cluster exists."""
    path = LOCAL / "connection.json"
    return dict(json.loads(path.read_text("utf-8"))) if path.exists() else {}


def _secret() -> str:
    """The signing key: made once for this machine and kept out of the repository."""
    path = LOCAL / "secret_key"
    return path.read_text("utf-8").strip() if path.exists() else "unset: ./run makes one"


SECRET_KEY = os.environ.get("MELLOW_SPAN_SECRET_KEY") or _secret()
DEBUG = os.environ.get("MELLOW_SPAN_DEBUG") == "1"
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *filter(None, os.environ.get("MELLOW_SPAN_HOSTS", "").split(","))]
CSRF_TRUSTED_ORIGINS = list(filter(None, os.environ.get("MELLOW_SPAN_ORIGINS", "").split(",")))

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "ninja",
    "mellow_span.jobs",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "mellow_span.settings.headers.ContentPolicy",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "mellow_span.urls"
WSGI_APPLICATION = "mellow_span.wsgi.application"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        **{k.upper(): v for k, v in _connection().items()},
    }
}
if name := os.environ.get("MELLOW_SPAN_DB_NAME"):
    DATABASES["default"]["NAME"] = name
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Five wrong passwords close one name from one address for ten minutes; the right one opens the count again.
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = 1 / 6
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False

SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_000_000

TIME_ZONE = "UTC"
USE_TZ = True
USE_I18N = False
STATIC_URL = "/static/"
WEB_BUILD = ROOT / "web" / "dist"
WHITENOISE_ROOT = WEB_BUILD if WEB_BUILD.exists() else None
WHITENOISE_INDEX_FILE = False


def WHITENOISE_IMMUTABLE_FILE_TEST(path: str, url: str) -> bool:  # noqa: N802 - the name the setting must have
    """Vite puts a content hash in the name of everything under /assets/."""
    return url.startswith("/assets/")


LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
