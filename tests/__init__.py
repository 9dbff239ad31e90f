"""Tests: they prove what is computed and done, never how fast, on machines of any speed."""

from hypothesis import HealthCheck, settings

settings.register_profile("any machine", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any machine")
