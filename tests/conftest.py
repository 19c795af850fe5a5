"""What every test shares: properties are about facts, never about how long a busy machine takes."""

from hypothesis import HealthCheck, settings

settings.register_profile("facts", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("facts")
