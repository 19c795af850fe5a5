"""What every test shares: properties are about facts, never about how long a busy machine takes, and the same cases are tried
every time. ``--hypothesis-profile wide`` looks for new ones, ten times as many."""

from hypothesis import HealthCheck, settings

CALM = [HealthCheck.too_slow]
settings.register_profile("facts", deadline=None, suppress_health_check=CALM, derandomize=True)
settings.register_profile("wide", deadline=None, suppress_health_check=CALM, max_examples=1000)
settings.load_profile("facts")
