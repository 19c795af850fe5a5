"""What every test shares: properties are about facts, never about how long a busy machine takes, and the same cases are tried
every time. ``--hypothesis-profile wide`` looks for new ones, ten times as many."""

import os
import tempfile
from pathlib import Path

from django.conf import settings as django_settings
from hypothesis import HealthCheck, settings

DATA = Path(os.environ.get("RELLUX_DATA") or tempfile.mkdtemp()) / os.environ.get("PYTEST_XDIST_WORKER", "alone")
DATA.mkdir(parents=True, exist_ok=True)
os.environ["RELLUX_DATA"] = str(DATA)
django_settings.DATA = DATA  # workers number their links alike: a safe-off of one would be taken for the other's

CALM = [HealthCheck.too_slow]
settings.register_profile("facts", deadline=None, suppress_health_check=CALM, derandomize=True)
settings.register_profile("wide", deadline=None, suppress_health_check=CALM, max_examples=1000)
settings.load_profile("facts")
