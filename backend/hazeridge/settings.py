"""Deployment settings, all from the environment (`./run` sets them; see docs/running.md)."""

import os
import secrets
from datetime import timedelta
from pathlib import Path

import dj_database_url

BACKEND = Path(__file__).resolve().parent.parent
FRONTEND_DIST = Path(os.environ.get("HAZERIDGE_DIST", BACKEND.parent / "frontend" / "dist"))

DEBUG = os.environ.get("HAZERIDGE_DEBUG") == "1"
#: Without one a command makes its own, known to nobody; the web server does not start.
SECRET_KEY = os.environ.get("HAZERIDGE_SECRET_KEY") or secrets.token_urlsafe(50)
SECRET_KEY_IS_GIVEN = bool(os.environ.get("HAZERIDGE_SECRET_KEY"))
ALLOWED_HOSTS = os.environ.get("HAZERIDGE_HOSTS", "127.0.0.1,localhost").split(",")
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("HAZERIDGE_ORIGINS", "").split(",") if o]

#: How many connections the requests of a web server share; 0: each thread keeps one of its own,
#: as the exchange and the worker do. Under ASGI every request has a thread, so that there they are
#: as many as there are requests.
DATABASE_POOL = max(0, int(os.environ.get("HAZERIDGE_DATABASE_POOL", "0")))
DATABASES = {
    "default": dj_database_url.parse(
        os.environ.get("HAZERIDGE_DATABASE_URL", "postgres://hazeridge@127.0.0.1/hazeridge"),
        conn_max_age=0 if DATABASE_POOL else 60,
        conn_health_checks=True,
    )
}
if DATABASE_POOL:
    #: Seconds: a request that has no connection by then is told that the database does not answer.
    DATABASES["default"].setdefault("OPTIONS", {})["pool"] = {
        "min_size": 1,
        "max_size": DATABASE_POOL,
        "timeout": 10,
    }
REDIS_URL = os.environ.get("HAZERIDGE_REDIS_URL", "redis://127.0.0.1:6379/0")

#: The centre's time zone; "today" on every screen begins at its midnight.
CENTRE_TIME_ZONE = os.environ.get("HAZERIDGE_TIME_ZONE", "Europe/London")
CENTRE_NAME = os.environ.get("HAZERIDGE_CENTRE", "Ostrel Island Ferries")
#: Numbers typed without a country code belong to this country.
CENTRE_REGION = os.environ.get("HAZERIDGE_REGION", "GB")
#: The site that an exchange of this installation serves; one exchange owns it at a time.
EXCHANGE_SITE = os.environ.get("HAZERIDGE_SITE", "main")
#: A file that the exchange touches with every round, for whoever watches over the process.
EXCHANGE_BEAT_FILE = os.environ.get("HAZERIDGE_BEAT_FILE", "")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.postgres",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "rest_framework",
    "django_filters",
    "drf_spectacular",
    "channels",
    "axes",
    "accounts",
    "changelog",
    "sounds",
    "agents",
    "wrapup",
    "queues",
    "mailboxes",
    "opening_hours",
    "lookups",
    "flows",
    "phone_numbers",
    "diversions",
    "exchange",
    "reports",
    "demo",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "hazeridge.headers.ContentPolicy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "hazeridge.urls"
ASGI_APPLICATION = "hazeridge.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {
        "NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator",
        "OPTIONS": {"user_attributes": ("username", "full_name")},
    },
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
#: Each failure is written down: names, addresses and the whole are limited by it as well.
AXES_ENABLE_ACCESS_FAILURE_LOG = True
SIGN_IN_FAILURES = {"username": 20, "ip_address": 40, "whole": 400}
# Who asks is who connects. Behind a proxy that is named (HAZERIDGE_PROXIES) the web server itself
# puts the address that the proxy gives in its place; no header counts here.
AXES_CLIENT_IP_CALLABLE = "accounts.throttle.address_of"
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_CALLABLE = "accounts.api.locked_out"
AXES_VERBOSE = False

SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 12 * 3600
SESSION_COOKIE_NAME = "hazeridge_session"
CSRF_FAILURE_VIEW = "web.problems.token_missing"
CSRF_COOKIE_NAME = "hazeridge_csrf"
#: Behind HTTPS cookies go over nothing else, and browsers are told never to come without it.
HTTPS = os.environ.get("HAZERIDGE_HTTPS") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = HTTPS
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = HTTPS
#: Set only where a proxy of ours sets this header itself, and takes it off what comes in.
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if HTTPS else None
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
#: Scripts, styles and sounds are our own; styles in elements are what the component library sets.
CONTENT_POLICY = {
    "default-src": "'self'",
    "script-src": "'self'",
    "style-src": "'self' 'unsafe-inline'",
    "img-src": "'self' data: blob:",
    "media-src": "'self' blob:",
    "font-src": "'self' data:",
    "connect-src": "'self'",
    "object-src": "'none'",
    "base-uri": "'none'",
    "form-action": "'self'",
    "frame-ancestors": "'none'",
}

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["accounts.permissions.Allowed"],
    "DEFAULT_PARSER_CLASSES": ["web.parsers.CleanJSONParser"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PAGINATION_CLASS": "web.pages.Pages",
    "DEFAULT_SCHEMA_CLASS": "web.schema.Schema",
    "EXCEPTION_HANDLER": "web.problems.handle",
    "TEST_REQUEST_DEFAULT_FORMAT": "json",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Hazeridge",
    "DESCRIPTION": "Everything that Hazeridge's own interface does, it does through this.",
    "VERSION": "1",
    "OAS_VERSION": "3.1.0",
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "flows.api.add_definition_schema",
        "exchange.topics_schema.add_topics_schema",
        "web.schema.finish",
    ],
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "SCHEMA_PATH_PREFIX": "/api/v1",
    "ENUM_NAME_OVERRIDES": {"RoleEnum": "accounts.models.Role", "WhenShutEnum": ["wait", "leave"]},
}

CHANNEL_LAYERS = {
    "default": {
        "BACKEND": "exchange.patient_layer.PatientLayer",
        "CONFIG": {"hosts": [REDIS_URL], "capacity": 1000, "expiry": 20},
    }
}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.redis.RedisCache", "LOCATION": REDIS_URL}}
CELERY_BROKER_URL = REDIS_URL
CELERY_TASK_IGNORE_RESULT = True
CELERY_TASK_ALWAYS_EAGER = os.environ.get("HAZERIDGE_EAGER") == "1"
CELERY_BROKER_CONNECTION_RETRY_ON_STARTUP = True
# What was asked for while Redis or the worker was away is made up for.
CELERY_BEAT_SCHEDULE = {
    "voices": {"task": "mailboxes.tasks.catch_up", "schedule": 30.0},
    "figures": {"task": "reports.tasks.catch_up", "schedule": 5.0},
    "files": {"task": "reports.tasks.make_files", "schedule": 60.0},
    "retention": {"task": "reports.tasks.forget_what_is_old", "schedule": 60.0},
}

# Mail is written to a folder unless a server is named: nothing leaves the machine by itself.
EMAIL_HOST = os.environ.get("HAZERIDGE_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("HAZERIDGE_MAIL_PORT", "25"))
EMAIL_TIMEOUT = 20
EMAIL_FILE_PATH = os.environ.get("HAZERIDGE_MAIL_DIR", str(BACKEND.parent / "var" / "mail"))
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if EMAIL_HOST else 'filebased'}.EmailBackend"
MAIL_FROM = os.environ.get("HAZERIDGE_MAIL_FROM", "reports@hazeridge.example")

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-gb"
USE_I18N = False
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

STATIC_URL = "/static/"
WHITENOISE_ROOT = FRONTEND_DIST if FRONTEND_DIST.is_dir() else None
# What the front end is built into has a digest in its name: it is never another.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/"
DATA_UPLOAD_MAX_MEMORY_SIZE = 12 * 1024 * 1024

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "INFO"},
    "loggers": {
        "axes": {"level": "ERROR"},
        # A refused request is answered in words; only what is our own fault is logged.
        "django.request": {"level": "ERROR"},
    },
}
