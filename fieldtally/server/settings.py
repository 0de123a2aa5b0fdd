"""Settings.  What differs from place to place is told by :mod:`.hosting.place`; there is no secret in this file."""

import json
import os
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured

from fieldtally.server.hosting.logs import logging_of
from fieldtally.server.hosting.place import Wrong, place
from fieldtally.server.hosting.queues import settings_for

ROOT = Path(__file__).resolve().parents[2]
try:
    PLACE = place()
except Wrong as wrong:
    raise ImproperlyConfigured(str(wrong)) from None
SECRET_KEY = PLACE.secret.get_secret_value()
DEMO = PLACE.demo
DEBUG = False
ALLOWED_HOSTS = sorted({"127.0.0.1", "localhost", PLACE.host, *PLACE.hosts})
ORIGIN = PLACE.address
HTTPS = PLACE.https

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "allauth",
    "allauth.account",
    "allauth.headless",
    "allauth.mfa",
    "allauth.socialaccount",
    "allauth.socialaccount.providers.openid_connect",
    "django_tasks",
    "django_tasks_db",
    "fieldtally.server.hosting.apps.HostingConfig",
    "fieldtally.server.devices",
    "fieldtally.server.people.apps.PeopleConfig",
    "fieldtally.server.plan",
    "fieldtally.server.prepare.apps.PrepareConfig",
    "fieldtally.server.log",
    "fieldtally.server.rounds",
    "fieldtally.server.measuring",
    "fieldtally.server.training.apps.TrainingConfig",
    "fieldtally.server.panels",
    "fieldtally.server.verdict",
    "fieldtally.server.share.apps.ShareConfig",
    "fieldtally.server.demo.apps.DemoConfig",
]
MIDDLEWARE = [
    "fieldtally.server.hosting.proxies.visitors_address",
    "fieldtally.server.hosting.logs.each_request",
    "fieldtally.server.hosting.health.seen_from_outside",
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

# The owner migrates; what serves is signed in as the role of grants.py, which cannot undo a record.
DATABASES = PLACE.databases
DATABASE_ROUTERS = ["fieldtally.server.hosting.replica.ReadRouter"] if PLACE.replica else []
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
_QUEUES = settings_for(PLACE.queue, PLACE.redis)
TASKS = {"default": {"BACKEND": os.environ["FT_TASKS"]}} if "FT_TASKS" in os.environ else _QUEUES["TASKS"]
RQ_QUEUES = _QUEUES.get("RQ_QUEUES", {})
INSTALLED_APPS += ["django_rq"] * bool(RQ_QUEUES)
# Throttling counts must be shared by all server processes.
CACHES = {
    "default": {
        "BACKEND": "fieldtally.server.hosting.cache.ForgivingCache",
        "LOCATION": PLACE.redis,
        "KEY_PREFIX": "field-tally",
        "OPTIONS": {"socket_timeout": 1.0, "socket_connect_timeout": 0.5},
    }
    if PLACE.redis
    else {"BACKEND": "django.core.cache.backends.db.DatabaseCache", "LOCATION": "server_cache"}
}

# Photos, sounds and files lie in their rows, or where FT_STORE says.
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    **PLACE.stored_by,
}

# Instruments that may be read, as docs/devices.md says: [{"key", "name", "form", "at", "units"}]; and which is the weather station: the
# key of one of them, or a device of its own.
DEVICES = json.loads(PLACE.devices or "[]")
WEATHER = PLACE.weather.strip()
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
MAILS = DEMO or bool(PLACE.mails_by)
ACCOUNT_EMAIL_VERIFICATION = "mandatory" if MAILS else "none"
ACCOUNT_LOGIN_ON_EMAIL_CONFIRMATION = True
ACCOUNT_PREVENT_ENUMERATION = True
ACCOUNT_EMAIL_UNKNOWN_ACCOUNTS = False
ACCOUNT_EMAIL_SUBJECT_PREFIX = ""
# By where somebody tries from, never by whose account they try: nobody locks another out.
ACCOUNT_RATE_LIMITS = {"login_failed": "10/m/ip,60/h/ip"}
# A code from an app on the phone, and ten codes on paper for the day it is lost.
MFA_ADAPTER = "fieldtally.server.people.twosteps.TwoSteps"
MFA_SUPPORTED_TYPES = ["totp", "recovery_codes", "webauthn"]
# A passkey signs in by itself: the device has asked for its own lock.
MFA_PASSKEY_LOGIN_ENABLED = True
# Browsers make none at an address without HTTPS but on this machine itself.
MFA_WEBAUTHN_ALLOW_INSECURE_ORIGIN = not PLACE.public
# A sign-in of the place's own, where it has one: it is trusted to know whose an address is.
ELSEWHERE = "elsewhere"
SOCIALACCOUNT_ADAPTER = "fieldtally.server.people.joining.ElsewhereAdapter"
SOCIALACCOUNT_OPENID_CONNECT_URL_PREFIX = "signed-in"
SOCIALACCOUNT_EMAIL_AUTHENTICATION = True
SOCIALACCOUNT_EMAIL_AUTHENTICATION_AUTO_CONNECT = True
SOCIALACCOUNT_REQUESTS_TIMEOUT = 5
SOCIALACCOUNT_PROVIDERS = {
    "openid_connect": {
        "OAUTH_PKCE_ENABLED": True,
        "APPS": [
            {
                "provider_id": ELSEWHERE,
                "name": PLACE.oidc_name,
                "client_id": PLACE.oidc_client,
                "secret": PLACE.oidc_secret.get_secret_value(),
                "settings": {"server_url": PLACE.oidc},
            }
        ]
        if PLACE.oidc
        else [],
    }
}
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS = {
    "account_confirm_email": ORIGIN + "/confirm/{key}",
    "account_reset_password": ORIGIN + "/forgotten",
    "account_reset_password_from_key": ORIGIN + "/new-password/{key}",
    "account_signup": ORIGIN + "/join",
    "socialaccount_login_error": ORIGIN + "/sign-in?back=refused",
}

EMAIL_BACKEND = (
    "fieldtally.server.people.posting.PostBackend"
    if PLACE.mails_by and not DEMO
    else "fieldtally.server.people.mailbox.MailboxBackend"
)
POSTS_BY = "django.core.mail.backends.smtp.EmailBackend"
if PLACE.mails_by:
    EMAIL_HOST, EMAIL_PORT = PLACE.mails_by.host, PLACE.mails_by.port
    EMAIL_HOST_USER, EMAIL_HOST_PASSWORD = PLACE.mails_by.user, PLACE.mails_by.password
    EMAIL_USE_SSL, EMAIL_USE_TLS = PLACE.mails_by.wrapped, PLACE.mails_by.upgraded
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = SERVER_EMAIL = PLACE.mail_from

SESSION_COOKIE_AGE = PLACE.keep_sign_in * 24 * 3600
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_TRUSTED_ORIGINS = [ORIGIN]
CSRF_FAILURE_VIEW = "fieldtally.server.shell.csrf_failure"
SECURE_REFERRER_POLICY = "same-origin"
if HTTPS:
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = False
    SECURE_SSL_REDIRECT = True
    # Only where proxies of ours are named is anything believed that a request says of how it came (see proxies.py, which removes the rest).
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
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
        "img-src": ["'self'", "data:", "blob:", *([PLACE.store_public] if PLACE.store_public else [])],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "manifest-src": ["'self'"],
        "worker-src": ["'self'"],
        "base-uri": ["'none'"],
        # Whoever signs in elsewhere is sent there by a form of ours.
        "form-action": ["'self'", *(["https:", PLACE.oidc] if PLACE.oidc else [])],
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
LOGGING = logging_of(PLACE.log)
if PLACE.errors:
    from fieldtally.server.hosting.errors import report_errors

    report_errors(PLACE.errors)
# What other names under the same domain do is not ours to promise; and this machine alone has no HTTPS.
SILENCED_SYSTEM_CHECKS = (
    ["security.W005", "security.W021"]
    if HTTPS
    else ["security.W004", "security.W008", "security.W012", "security.W016"]
)
