"""Django settings. Everything of a user lives in one directory, ``RELLUX_DATA`` (else as ``rellux.places`` says)."""

import contextlib
import logging
import os
from pathlib import Path

from csp.constants import NONCE, NONE, SELF
from django.core.management.utils import get_random_secret_key

from rellux.places import data_home, interface

DATA = Path(os.environ.get("RELLUX_DATA") or data_home())
DATA.mkdir(parents=True, exist_ok=True)
LOGS = DATA / "logs"
with contextlib.suppress(OSError):  # a full or read-only disk: the console still says it
    LOGS.mkdir(exist_ok=True)
logging.raiseExceptions = False  # a log that cannot be written must not bury the terminal
WEB = interface()


def _secret_key() -> str:
    """Made once, kept with the data, readable by its owner only; made again where the file was emptied."""
    path = DATA / "secret-key"
    if not path.exists() or not path.read_text().strip():
        path.touch(mode=0o600)
        path.write_text(get_random_secret_key())
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
ROOT_URLCONF = "rellux.server.urls"
ASGI_APPLICATION = "rellux.server.asgi.application"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_USER_MODEL = "accounts.User"
USE_TZ = True
TIME_ZONE = "UTC"

ANSWERS = os.environ.get("RELLUX_PROCESS") not in ("recorder", "simulated-controllers")
"""Whether this process answers the browser: the others do without what only answering needs."""

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    *(("rest_framework", "drf_spectacular") if ANSWERS else ()),
    "rellux.server.accounts",
    "rellux.server.answers",
    "rellux.server.rigs",
    "rellux.server.wiring",
    "rellux.server.setup",
    "rellux.server.guarding",
    "rellux.server.proving",
    "rellux.server.menus",
    "rellux.server.links",
    "rellux.server.runs",
    "rellux.server.profiles",
    "rellux.server.tuning",
    "rellux.server.calibration",
    "rellux.server.questions",
    "rellux.server.library",
    "rellux.server.equipment",
    "rellux.server.zones",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "rellux.server.rigs.archived.ArchivedGate",
]

SECURE_REFERRER_POLICY = "no-referrer"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF, NONCE],  # the interface makes some of its styles at run time
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "rellux.sqlite3",
        "TEST": {"NAME": str(DATA / "test.sqlite3")},  # a file: the recorder's threads share it as in use
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA cache_size=-20000; PRAGMA wal_autocheckpoint=8000;",
        },
    }
}

STATIC_URL = "/app/"
STATIC_ROOT = WEB
WHITENOISE_ALLOW_ALL_ORIGINS = False
WHITENOISE_AUTOREFRESH = True  # the interface may be built anew under a running server
WHITENOISE_IMMUTABLE_FILE_TEST = r"/app/assets/.+-[\w-]{8}\.\w+$"
CSRF_COOKIE_SAMESITE = "Strict"
CSRF_FAILURE_VIEW = "rellux.server.api.errors.csrf_failure"

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rellux.server.accounts.local.LocalOperator"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["rellux.server.api.strict_json.StrictJSONParser"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "rellux.server.api.errors.handle",
    "COERCE_DECIMAL_TO_STRING": False,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Rellux",
    "VERSION": "1",
    "DESCRIPTION": "Everything the interface does. Temperatures in °C, times in s, power in W.",
    "SERVE_INCLUDE_SCHEMA": False,
    "ENUM_GENERATE_CHOICE_DESCRIPTION": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "ENUM_NAME_OVERRIDES": {
        "Quantity": "rellux.core.units.Kind",
        "RigKind": "rellux.core.purpose.purpose.RigKind",
        "Effect": "rellux.core.purpose.purpose.Effect",
        "Severity": "rellux.core.findings.Severity",
        "Station": "rellux.core.spine.Station",
        "Role": "rellux.core.wiring.model.Role",
        "EquipmentRole": "rellux.core.equipment.equipment.EquipmentRole",
        "Junction": "rellux.core.sensing.choosing.Junction",
        "AlarmState": "rellux.core.control.alarms.alarm.AlarmState",
        "AlarmKind": "rellux.core.control.alarms.settings.AlarmKind",
        "FaultSchool": "rellux.core.guarding.plan.FaultSchool",
        "ScoreVerdict": "rellux.core.profiles.scoring.Verdict",
        "SchoolEnum": "rellux.core.calibration.schools.OffsetSchool",
        "CertificateSaysEnum": "rellux.core.calibration.certificates.CertificateSays",
        "Interval": "rellux.core.calibration.due.Interval",
        "Advice": "rellux.core.calibration.verdicts.Advice",
        "ReferenceKind": "rellux.core.calibration.references.ReferenceKind",
    },
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "rellux.server.api.schema.everything_present",
    ],
}

UPLOAD_LIMIT = 200 * 1024 * 1024
PHOTO_LIMIT = 13 * 1024 * 1024
BODY_LIMIT = 2 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = UPLOAD_LIMIT
FILE_UPLOAD_TEMP_DIR = DATA

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"seldom": {"()": "rellux.server.logs.Seldom"}},
    "formatters": {"dated": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {
        "console": {"class": "logging.StreamHandler", "filters": ["seldom"]},
        "file": {
            "class": "logging.handlers.RotatingFileHandler",
            "filename": LOGS / f"{os.environ.get('RELLUX_PROCESS', 'manage')}.log",
            "maxBytes": 1_000_000,
            "backupCount": 3,
            "delay": True,
            "formatter": "dated",
            "filters": ["seldom"],
        },
    },
    "root": {"handlers": ["console", "file"], "level": "WARNING"},
    "loggers": {"django.request": {"level": "ERROR"}, "pymodbus": {"level": "CRITICAL"}, "rellux": {"level": "INFO"}},
}
