"""Settings for all tests: no user's files are touched, and Qt needs no screen."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, settings

from woven_locus import warm
from woven_locus.core import kernels

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# A user's own settings neither steer the tests nor are changed by them.
for folder in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
    os.environ[folder] = tempfile.mkdtemp(prefix="woven-locus-test-")

settings.register_profile(
    "house", deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
settings.load_profile("house")


@pytest.fixture
def compiled_kernels() -> Iterator[None]:
    """The compiled kernels for one test; the plain twins again afterwards."""
    kernels.use_twins()
    warm.install()
    yield
    kernels.use_twins()
