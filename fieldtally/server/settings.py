"""Settings.  What differs from place to place comes from the environment; there is no secret in this file.

``FT_SECRET``, ``FT_DB_PORT``, ``FT_DB_USER``, ``FT_DB_PASSWORD`` and ``FT_DB_NAME`` come from ./start and ./test.  ``FT_DEMO=1`` serves the
demo: its accounts, and a page that shows outgoing mail instead of sending it.
"""

import json
import os
from pathlib import Path
from urllib.parse import urlsplit

from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[2]
SECRET_KEY = os.environ["FT_SECRET"]
DEMO = os.environ.get("FT_DEMO") == "1"
DEBUG = False
ALLOWED_HOSTS = os.environ.get("FT_HOSTS", "127.0.0.1,localhost").split(",")
ORIGIN = os.environ.get("FT_ORIGIN", f"http://127.0.0.1:{os.environ.get('FT_PORT', '8000')}")
HTTPS = ORIGIN.startswith("https://")
if DEMO and urlsplit(ORIGIN).hostname not in ("127.0.0.1", "localhost", "::1"):
    # Its passwords are known to all, and its letters can be read by all.
    raise ImproperlyConfigured("The demo is for this machine alone: set FT_DEMO=0 to be reached at another address.")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "allauth",
    "allauth.account",
    "allauth.headless",
    "django_tasks",
    "django_tasks_db",
    "fieldtally.server.devices",
    "fieldtally.server.people",
    "fieldtally.server.plan",
    "fieldtally.server.prepare",
    "fieldtally.server.log",
    "fieldtally.server.rounds",
    "fieldtally.server.measuring",
    "fieldtally.server.training.apps.TrainingConfig",
    "fieldtally.server.panels",
    "fieldtally.server.verdict",
    "fieldtally.server.share",
    "fieldtally.server.demo",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "allauth.account.middleware.AccountMiddleware",
]
ROOT_URLCONF = "fieldtally.server.urls"
WSGI_APPLICATION = "fieldtally.server.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "fieldtally/server/people/letters"],
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("FT_DB_NAME", "fieldtally"),
        # The owner migrates; what serves is signed in as the role of grants.py, which cannot undo a record.
        "USER": os.environ.get("FT_DB_USER", "fieldtally"),
        "PASSWORD": os.environ.get("FT_DB_PASSWORD", ""),
        "HOST": "127.0.0.1",
        "PORT": os.environ.get("FT_DB_PORT", ""),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
# Throttling counts must be shared by all server processes.
TASKS = {"default": {"BACKEND": os.environ.get("FT_TASKS", "django_tasks_db.DatabaseBackend")}}
CACHES = {"default": {"BACKEND": "django.core.cache.backends.db.DatabaseCache", "LOCATION": "server_cache"}}

# Instruments that may be read, as docs/devices.md says: [{"key", "name", "form", "at", "units"}]; and which is the weather station: the
# key of one of them, or a device of its own.
DEVICES = json.loads(os.environ.get("FT_DEVICES") or "[]")
WEATHER = os.environ.get("FT_WEATHER", "").strip()
WEATHER = json.loads(WEATHER) if WEATHER.startswith("{") else WEATHER

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
ACCOUNT_USER_MODEL_USERNAME_FIELD = None
ACCOUNT_LOGIN_METHODS = {"email"}
ACCOUNT_SIGNUP_FIELDS = ["email*", "password1*"]
ACCOUNT_SIGNUP_FORM_CLASS = "fieldtally.server.people.joining.NameForm"
ACCOUNT_ADAPTER = "fieldtally.server.people.joining.AccountAdapter"
# Where letters reach people, an address is confirmed before it opens anything, so that joining tells nobody which addresses are known here.
MAILS = DEMO or "FT_MAIL_HOST" in os.environ
ACCOUNT_EMAIL_VERIFICATION = "mandatory" if MAILS else "none"
ACCOUNT_LOGIN_ON_EMAIL_CONFIRMATION = True
ACCOUNT_PREVENT_ENUMERATION = True
ACCOUNT_EMAIL_UNKNOWN_ACCOUNTS = False
ACCOUNT_EMAIL_SUBJECT_PREFIX = ""
# By where somebody tries from, never by whose account they try: nobody locks another out.
ACCOUNT_RATE_LIMITS = {"login_failed": "10/m/ip,60/h/ip"}
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS = {
    "account_confirm_email": ORIGIN + "/confirm/{key}",
    "account_reset_password": ORIGIN + "/forgotten",
    "account_reset_password_from_key": ORIGIN + "/new-password/{key}",
    "account_signup": ORIGIN + "/join",
}

EMAIL_BACKEND = (
    "fieldtally.server.people.mailbox.MailboxBackend"
    if DEMO or "FT_MAIL_HOST" not in os.environ
    else "django.core.mail.backends.smtp.EmailBackend"
)
EMAIL_HOST = os.environ.get("FT_MAIL_HOST", "localhost")
DEFAULT_FROM_EMAIL = os.environ.get("FT_MAIL_FROM", "field-tally@localhost")

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_TRUSTED_ORIGINS = [ORIGIN]
CSRF_FAILURE_VIEW = "fieldtally.server.shell.csrf_failure"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
DATA_UPLOAD_MAX_MEMORY_SIZE = 10_000_000
FILE_UPLOAD_HANDLERS = [
    "fieldtally.server.uploads.Bounded",
    "django.core.files.uploadhandler.MemoryFileUploadHandler",
    "django.core.files.uploadhandler.TemporaryFileUploadHandler",
]
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        "style-src": ["'self'"],
        "img-src": ["'self'", "data:", "blob:"],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "manifest-src": ["'self'"],
        "worker-src": ["'self'"],
        "base-uri": ["'none'"],
        "form-action": ["'self'"],
        "frame-ancestors": ["'none'"],
    }
}

WEB = ROOT / "web/dist"
STATIC_URL = "/assets-of-server/"
WHITENOISE_ROOT = WEB
WHITENOISE_INDEX_FILE = False
WHITENOISE_MAX_AGE = 60 if DEMO else 3600
# What has a digest in its name never changes.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.\w+$"

USE_TZ = True
TIME_ZONE = "UTC"
USE_I18N = False
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"django.request": {"level": "ERROR"}},
}
SILENCED_SYSTEM_CHECKS = ["security.W004", "security.W008"]
