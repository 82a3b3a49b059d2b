"""Every test. An example may take as long as it takes: a loaded machine is no fault of what is
tested.
"""

from hypothesis import HealthCheck, settings

settings.register_profile("patient", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("patient")
