"""Settings, all from the environment. What is safe is the default; `bin/start` loosens it for loopback."""

from pathlib import Path
from typing import Any

import environ
from csp.constants import NONE, SELF

env = environ.Env()

SITE = Path(__file__).resolve().parent
VAR = Path(env.str("NIVELUM_VAR", default=str(SITE.parents[1] / "var")))

DEBUG = False
SECRET_KEY = env.str("NIVELUM_SECRET_KEY")
ALLOWED_HOSTS = env.list("NIVELUM_HOSTS", default=[])
CSRF_TRUSTED_ORIGINS = env.list("NIVELUM_ORIGINS", default=[])
DATABASES = {
    "default": env.db("DATABASE_URL")
    | {"OPTIONS": {"pool": {"min_size": 1, "max_size": 8, "timeout": 8}}, "CONN_HEALTH_CHECKS": True}
}
# Behind a pool that hands a connection on after every transaction (PgBouncer) nothing may hang on one: no cursors
# that stay open, and the news are listened for on an address of their own.
LISTEN_URL = env.str("NIVELUM_LISTEN_URL", default="")
if LISTEN_URL:
    DATABASES["default"]["DISABLE_SERVER_SIDE_CURSORS"] = True
# The role that owns the tables, migrates and restores; the application's own can do neither. And one that can nothing
# but make a database of its own, to look into a backup that may be anybody's.
if env.str("NIVELUM_OWNER_URL", default=""):
    DATABASES["owner"] = env.db("NIVELUM_OWNER_URL") | {"TEST": {"MIRROR": "default"}}
CHECK_URL = env.str("NIVELUM_CHECK_URL", default="")

# Where pg_dump and pg_restore are, for backups; PATH is looked through too.
POSTGRES_PROGRAMS = env.str("NIVELUM_POSTGRES_PROGRAMS", default="")

# On loopback there is no certificate: bin/start says so, nothing else should.
SERVED_IN_THE_CLEAR = env.bool("NIVELUM_SERVED_IN_THE_CLEAR", default=False)
SECURE_SSL_REDIRECT = not SERVED_IN_THE_CLEAR
SECURE_REDIRECT_EXEMPT = [r"^health/", r"^metrics$"]
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = not SERVED_IN_THE_CLEAR
SECURE_HSTS_SECONDS = 0 if SERVED_IN_THE_CLEAR else 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = not SERVED_IN_THE_CLEAR
if env.int("NIVELUM_PROXIES", default=0):
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_AGE = 60 * 60 * 24 * 30
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "img-src": [SELF, "data:"],
        "object-src": [NONE],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "form-action": [SELF],
    }
}
DATA_UPLOAD_MAX_MEMORY_SIZE = 1_000_000
# s: how long the head of a request may take, and a new connection may say nothing.
HEAD_WITHIN = env.float("NIVELUM_HEAD_WITHIN", default=15.0)

# Levels that read by themselves, each with its driver and where it listens: "name=line:host:port", comma between.
PROBES = {
    name: tuple(where.split(":"))
    for name, where in (probe.split("=", 1) for probe in env.list("NIVELUM_PROBES", default=[]))
}
"""Where a density gauge (`gauge`) and a falling weight (`weight`) answer, each as kind, host and port."""
LEVELS = {
    name: tuple(where.split(":", 2))
    for name, where in (level.split("=", 1) for level in env.list("NIVELUM_LEVELS", default=[]))
}

# Where forecasts are asked for, with its driver: "http=http://host:port". Without one they come from files, or typed.
FORECASTS = (
    tuple(env.str("NIVELUM_FORECASTS", default="").split("=", 1)) if env.str("NIVELUM_FORECASTS", default="") else ()
)

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "allauth",
    "allauth.account",
    "allauth.mfa",
    "allauth.usersessions",
    "axes",
    "csp",
    "nivelum.crews",
    "nivelum.workshop",
    "nivelum.watch",
    "nivelum.jobs",
    "nivelum.money",
    "nivelum.weather",
    "nivelum.recording",
    "nivelum.bases",
    "nivelum.beds",
    "nivelum.edging",
    "nivelum.laying",
    "nivelum.joints",
    "nivelum.setouts",
    "nivelum.readings",
    "nivelum.water",
    "nivelum.orders",
    "nivelum.days",
    "nivelum.lifts",
    "nivelum.signoffs",
    "nivelum.instruments",
    "nivelum.exchange",
    "nivelum.records",
    "nivelum.sharing",
    "nivelum.people",
    "nivelum.live",
    "nivelum.away",
    "nivelum.demo",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "nivelum.compress.CompressPages",
    "nivelum.posted.KeptPrivate",
    "nivelum.posted.CleanPosted",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.locale.LocaleMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "nivelum.crews.sessions.SignInFirst",
    "nivelum.crews.sessions.NamePerson",
    "nivelum.crews.sessions.SpeakAsAsked",
    "allauth.account.middleware.AccountMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [SITE / "templates"],
        "APP_DIRS": False,
        "OPTIONS": {
            "loaders": [
                (
                    "django.template.loaders.cached.Loader",
                    ["nivelum.lean.Loader"],
                )
            ],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
            "libraries": {"measures": "nivelum.jobs.templatetags.measures"},
            "builtins": ["nivelum.jobs.templatetags.addresses"],
        },
    }
]

ROOT_URLCONF = "nivelum.urls"
ASGI_APPLICATION = "nivelum.asgi.application"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "crews.Person"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "yard"
LOGOUT_REDIRECT_URL = "sign-in"

# People: signed in, recovered and remembered by django-allauth; wrong tries are counted by django-axes, for all
# processes together, so that its own limits, which each process would count by itself, are left out.
ACCOUNT_ADAPTER = "nivelum.people.adapters.AccountAdapter"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_RATE_LIMITS = False
ACCOUNT_SESSION_REMEMBER = True
ACCOUNT_SESSION_COOKIE_AGE = SESSION_COOKIE_AGE
ACCOUNT_LOGOUT_ON_PASSWORD_CHANGE = False
MFA_ADAPTER = "nivelum.people.adapters.PasskeyAdapter"
MFA_SUPPORTED_TYPES = ["webauthn"]
MFA_PASSKEY_LOGIN_ENABLED = True
MFA_ALLOW_UNVERIFIED_EMAIL = True
MFA_WEBAUTHN_ALLOW_INSECURE_ORIGIN = SERVED_IN_THE_CLEAR

AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
# Who asks is who is connected: an address in a header is believed of so many proxies in a row, and of no more.
PROXIES = env.int("NIVELUM_PROXIES", default=0)
AXES_CLIENT_IP_CALLABLE = "nivelum.crews.tries.address"
AXES_LOCKOUT_TEMPLATE = "locked_out.html"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False

STATIC_URL = "static/"
STATIC_ROOT = VAR / "static"
STATICFILES_DIRS = [SITE / "static"]
# Photos are served by a view that asks who looks, never by their address alone.
MEDIA_ROOT = VAR / "photos"
STORAGES: dict[str, Any] = {
    "default": {"BACKEND": "nivelum.jobs.disk.WholeFiles"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

# Photos elsewhere than on this machine: any store that speaks S3.
if env.str("NIVELUM_S3_BUCKET", default=""):
    STORAGES["default"] = {
        "BACKEND": "nivelum.jobs.elsewhere.Bucket",
        "OPTIONS": {
            "bucket_name": env.str("NIVELUM_S3_BUCKET"),
            "endpoint_url": env.str("NIVELUM_S3_ENDPOINT", default="") or None,
            "region_name": env.str("NIVELUM_S3_REGION", default="us-east-1"),
            "access_key": env.str("NIVELUM_S3_KEY"),
            "secret_key": env.str("NIVELUM_S3_SECRET"),
        },
    }

LANGUAGE_CODE = "en-gb"
LANGUAGES = [
    ("en-gb", "English"),
    ("en-us", "English, North America"),
    ("en-au", "English, Australia and New Zealand"),
]
LOCALE_PATHS = [SITE / "locale"]
USE_I18N = True
USE_TZ = True
TIME_ZONE = env.str("NIVELUM_TIME_ZONE", default="UTC")

LOGGING: dict[str, Any] = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": env.str("NIVELUM_LOG_LEVEL", default="WARNING")},
}
# For whoever collects: a line of JSON each, with the request, the person and the job.
if env.bool("NIVELUM_LOG_JSON", default=False):
    MIDDLEWARE.insert(
        MIDDLEWARE.index("nivelum.crews.sessions.SignInFirst"), "django_structlog.middlewares.RequestMiddleware"
    )
    LOGGING["formatters"] = {"json": {"()": "nivelum.watch.log.formatter"}}
    LOGGING["handlers"]["console"]["formatter"] = "json"
    LOGGING["loggers"] = {"weasyprint.progress": {"level": "WARNING"}}
    from nivelum.watch.log import set_up_log

    set_up_log()

# Metrics for whoever has the token; without one there are none.
METRICS_TOKEN = env.str("NIVELUM_METRICS_TOKEN", default="")
if METRICS_TOKEN:
    INSTALLED_APPS.append("django_prometheus")
    MIDDLEWARE = [
        "django_prometheus.middleware.PrometheusBeforeMiddleware",
        *MIDDLEWARE,
        "django_prometheus.middleware.PrometheusAfterMiddleware",
    ]
    PROMETHEUS_EXPORT_MIGRATIONS = False
