"""Settings. Secrets are files under ``var/`` made at the first start; nothing here is secret."""

import os
from pathlib import Path

from csp.constants import NONE, SELF

from web.project import environment
from web.project.logs import logging_of

BASE_DIR = Path(__file__).resolve().parents[2]
ENV = environment.read()
VAR = BASE_DIR / ENV["IRONMARGIN_VAR"]
DB_DIR = Path(ENV["IRONMARGIN_DB"]) if ENV["IRONMARGIN_DB"] else VAR / "db"
TESTING = os.environ.get("IRONMARGIN_TESTING") == "1"


def _kept(path: Path, otherwise: str = "") -> str:
    return path.read_text(encoding="utf-8").strip() if path.exists() else otherwise


SECRET_KEY = (
    ENV["IRONMARGIN_SECRET_KEY_FILE"]
    or _kept(VAR / "secret_key")
    or ("only-for-tests-" + "x" * 50 if TESTING else "")
)
DEBUG = False
ALLOWED_HOSTS = [
    "127.0.0.1",
    "localhost",
    "[::1]",
    *(["testserver"] if TESTING else []),
    *ENV["IRONMARGIN_HOSTS"],
]
BEHIND_TLS = ENV["IRONMARGIN_TLS"]
JOBS_INLINE = TESTING and os.environ.get("IRONMARGIN_JOBS") != "apart"
DEMO = ENV["IRONMARGIN_DEMO"]
METRICS_DIR, METRICS_PORT = ENV["IRONMARGIN_METRICS_DIR"], ENV["IRONMARGIN_METRICS_PORT"]
METRICS_ADDRESS = "127.0.0.1"
METER_SIMULATED = ENV["IRONMARGIN_METER_SIMULATED"]
METER_BROKER = ENV["IRONMARGIN_METER_BROKER"]
METER_NETS = ENV["IRONMARGIN_METER_NETS"]
PROXIES = ENV["IRONMARGIN_PROXIES"]
DEADLINE_S: float = ENV["IRONMARGIN_DEADLINE_S"]
LIMITS = {
    "sign-in": (30, 300),
    "sign-up": (5, 3600),
    "demo": (60, 60),
    "reset": (5, 3600),
    "invite": (20, 86_400),
    "quick-check": (60, 60),
    "api": (300, 60),
    "transfer": (12, 3600),
    "photo": (20, 300),
}
"""How often something may be asked for: tries, in so many seconds."""
if TESTING:
    LIMITS = {name: (10_000, seconds) for name, (_, seconds) in LIMITS.items()}

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "django_htmx",
    "django_tasks",
    "django_tasks_db",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "web.project",
    "web.design",
    "web.accounts",
    "web.storage",
    "web.rigs",
    "web.supplies",
    "web.setups",
    "web.clients",
    "web.verdicts",
    "web.board",
    "web.running_order",
    "web.reach",
    "web.now",
    "web.logbook",
    "web.bench",
    "web.hours",
    "web.meter",
    "web.api",
    "ninja",
    "web.steps",
    "web.drills",
]
MIDDLEWARE = [
    "web.project.logs.log_requests",
    "web.project.metrics.count_requests",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "web.accounts.middleware.SignedIn",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "axes.middleware.AxesMiddleware",
    "web.accounts.middleware.Policy",
    "web.storage.once.OnceOnly",
    "web.design.middleware.no_store",
]
ROOT_URLCONF = "web.project.urls"
WSGI_APPLICATION = "web.project.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "web.design.context.look",
                "web.setups.context.at_hand",
            ],
            "builtins": ["web.design.templatetags.figures"],
        },
    }
]

DATABASE_PATIENCE_S = 15
"""Longer a page waits for no answer of the database: it says that the database is away."""
ONLY_SUITE, MIGRATED_SUITE = "one", "web_0"
SUITE = os.environ.get("IRONMARGIN_SUITE", ONLY_SUITE)
"""Which part of the tests runs, of several at once."""
TEST_RUNNER = "tests.runner.Runner"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "HOST": ENV["IRONMARGIN_DB_HOST"] or "127.0.0.1",
        "PORT": str(ENV["IRONMARGIN_DB_PORT"])
        if ENV["IRONMARGIN_DB_HOST"]
        else _kept(DB_DIR / "port", "3306"),
        "NAME": ENV["IRONMARGIN_DB_NAME"],
        "USER": ENV["IRONMARGIN_DB_USER"],
        "PASSWORD": ENV["IRONMARGIN_DB_PASSWORD_FILE"] or _kept(DB_DIR / "password"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            "charset": "utf8mb4",
            "isolation_level": "read committed",
            "init_command": "SET sql_mode='TRADITIONAL'",
            "connect_timeout": 5,
            "read_timeout": DATABASE_PATIENCE_S,
            "write_timeout": DATABASE_PATIENCE_S,
        },
        "TEST": {
            "NAME": f"test_ironmargin_{SUITE}",
            # Made straight from the models but once: migrating takes half a minute of each suite.
            "MIGRATE": SUITE in (ONLY_SUITE, MIGRATED_SUITE),
            "CHARSET": "utf8mb4",
            "COLLATION": "utf8mb4_uca1400_as_ci",
        },
    }
}
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
if TESTING:
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
        "NumericPasswordValidator",
    )
]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
OTP_TOTP_ISSUER = "Iron Margin"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "setups"
LOGOUT_REDIRECT_URL = "home"
PASSWORD_RESET_TIMEOUT = 86_400
EMAIL_BACKEND = "django.core.mail.backends." + (
    "smtp.EmailBackend" if ENV["IRONMARGIN_MAIL_HOST"] else "console.EmailBackend"
)
EMAIL_HOST, EMAIL_PORT = ENV["IRONMARGIN_MAIL_HOST"], ENV["IRONMARGIN_MAIL_PORT"]
EMAIL_HOST_USER = ENV["IRONMARGIN_MAIL_USER"]
EMAIL_HOST_PASSWORD = ENV["IRONMARGIN_MAIL_PASSWORD_FILE"]
EMAIL_USE_TLS, EMAIL_TIMEOUT = ENV["IRONMARGIN_MAIL_TLS"], 10
DEFAULT_FROM_EMAIL = SERVER_EMAIL = ENV["IRONMARGIN_MAIL_FROM"]

LANGUAGE_CODE = "en"
TIME_ZONE = "UTC"
USE_TZ = True
USE_I18N = False

STATIC_URL = "static/"
STATIC_ROOT = VAR / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if TESTING
        else "web.project.static_files.NamedByContent"
    },
}
STATICFILES_FINDERS = ["web.project.static_files.OfOurPages"]
WHITENOISE_USE_FINDERS = TESTING
WHITENOISE_AUTOREFRESH = False

SECURE_SSL_REDIRECT = BEHIND_TLS
SECURE_REDIRECT_EXEMPT = [r"^(health|ready)$"]
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if PROXIES else None
AXES_IPWARE_PROXY_COUNT = PROXIES or None
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = BEHIND_TLS
SECURE_HSTS_SECONDS = 31_536_000 if BEHIND_TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = (
    BEHIND_TLS and ENV["IRONMARGIN_HSTS"] == "whole-domain"
)
# Subdomains and preloading bind other services of the domain: its owner's decision, not ours.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SECURE_REFERRER_POLICY = "same-origin"
SECURE_CROSS_ORIGIN_OPENER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "data:"],
        "media-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "manifest-src": [SELF],
        "worker-src": [SELF],
    }
}
DATA_UPLOAD_MAX_MEMORY_SIZE = FILE_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
DATA_UPLOAD_MAX_NUMBER_FIELDS = 5000
MESSAGE_STORAGE = "django.contrib.messages.storage.session.SessionStorage"

LOGGING = logging_of(ENV["IRONMARGIN_LOG"], TESTING)
CSRF_FAILURE_VIEW = "web.design.views.csrf_failure"
