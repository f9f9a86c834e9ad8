"""Django settings, read from the environment that `./run` prepares."""

from __future__ import annotations

import json
from typing import Any

from mellow_span.settings.environment import ROOT, WrongSettings, environment

try:
    GIVEN = environment()
except WrongSettings as wrong:
    # Nothing starts with wrong settings, whichever process asked for them first.
    raise SystemExit(str(wrong)) from None
LOCAL = GIVEN.local


def _connection() -> dict[str, Any]:
    """Connection of the private cluster, as written by scripts/cluster.py; empty before the cluster exists."""
    path = LOCAL / "connection.json"
    return dict(json.loads(path.read_text("utf-8"))) if path.exists() else {}


SECRET_KEY = GIVEN.secret_key
DEBUG = GIVEN.debug
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *GIVEN.hosts]
CSRF_TRUSTED_ORIGINS = list(GIVEN.origins)

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "ninja",
    "procrastinate.contrib.django",
    "mellow_span.serving",
    "mellow_span.jobs",
    "mellow_span.people",
    "mellow_span.logbook",
    "mellow_span.learning",
]
MIDDLEWARE = [
    "mellow_span.settings.logs.Requests",
    "mellow_span.settings.headers.ContentPolicy",
    "mellow_span.api.errors.OneShape",
    "mellow_span.settings.headers.KnownHost",
    "django.middleware.security.SecurityMiddleware",
    "mellow_span.settings.headers.Files",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "mellow_span.people.sessions.Sessions",
]
ROOT_URLCONF = "mellow_span.serving.urls"
WSGI_APPLICATION = "mellow_span.serving.wsgi.application"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
OTP_TOTP_ISSUER = "Mellow Span"
OTP_TOTP_THROTTLE_FACTOR = OTP_STATIC_THROTTLE_FACTOR = 1

STATEMENT_MS, LOCK_MS = GIVEN.statement_ms, 4000
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        # No statement and no wait for a lock outlives the person who waits for it.
        "OPTIONS": {"connect_timeout": 5, "options": f"-c statement_timeout={STATEMENT_MS} -c lock_timeout={LOCK_MS}"},
        **{k.upper(): v for k, v in _connection().items()},
    }
}
if GIVEN.db_name:
    DATABASES["default"]["NAME"] = GIVEN.db_name
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# A session lasts so long at most, and ends when it was not used for so long [s]: unsent work stays in the browser either way.
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
SESSION_IDLE = 60 * 60 * 24 * 7
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
WHITENOISE_ALLOW_ALL_ORIGINS = False


def WHITENOISE_IMMUTABLE_FILE_TEST(path: str, url: str) -> bool:  # noqa: N802 - the name the setting must have
    """Vite puts a content hash in the name of everything under /assets/."""
    return url.startswith("/assets/")


# Outside services, as http://host:port; empty: none is set up. The start command sets up the stand-ins.
MERCHANT = str(GIVEN.merchant or "").rstrip("/")
INSTRUMENT = GIVEN.instrument
# Served over https, behind a proxy that ends it: see docs/operations.md.
HTTPS = GIVEN.https
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
SECURE_HSTS_SECONDS = 60 * 60 * 24 * 365 if HTTPS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if HTTPS else None
if HTTPS:
    CSRF_TRUSTED_ORIGINS += [f"https://{host}" for host in ALLOWED_HOSTS if host not in ("127.0.0.1", "localhost", "[::1]")]

# One line of JSON for each request and each trouble, with no name, address or text of anybody in it; plain lines while it is worked on.
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "mellow_span.settings.logs.Json"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "json"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {
        "mellow_span": {"level": "INFO" if GIVEN.log else "WARNING"},
        # Each refused request is one line of ours already.
        "django.request": {"level": "CRITICAL"},
        "django.security": {"level": "CRITICAL"},
        "waitress.queue": {"level": "ERROR"},
        # The queue is asked for by the program that is started: of that it warns each time.
        "procrastinate.blueprints": {"level": "ERROR"},
    },
}
