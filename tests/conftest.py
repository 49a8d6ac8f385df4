"""Settings for all tests: no user's files are touched, and Qt needs no screen."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator

import pytest
from hypothesis import HealthCheck, settings

from tests.helpers.depth import examples
from woven_locus import kernel_cache
from woven_locus.core import kernels

# Nothing of the desktop on which they run steers the tests: its screens and their scale, its style, theme
# and fonts, its language and time zone, its settings.
for name in [name for name in os.environ if name.startswith(("QT_", "LC_", "XDG_CURRENT"))]:
    del os.environ[name]
for name in ("DISPLAY", "WAYLAND_DISPLAY", "LANGUAGE", "DESKTOP_SESSION", "KDE_FULL_SESSION"):
    os.environ.pop(name, None)
os.environ |= {"QT_QPA_PLATFORM": "offscreen", "LANG": "C.UTF-8", "TZ": "UTC"}
# A user's own settings are not changed by them either.
for folder in ("XDG_CONFIG_HOME", "XDG_STATE_HOME"):
    os.environ[folder] = tempfile.mkdtemp(prefix="woven-locus-test-")

settings.register_profile(
    "house",
    deadline=None,
    max_examples=examples(100),
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
settings.load_profile("house")


@pytest.fixture
def compiled_kernels() -> Iterator[None]:
    """The compiled kernels for one test; the plain twins again afterwards."""
    kernels.use_twins()
    kernel_cache.install()
    yield
    kernels.use_twins()


@pytest.fixture
def kept_to_users_cache() -> None:
    """Numba keeps to the first folder that it is given, and that must be none that goes with a test: whoever comes
    later in this process would have to compile everything."""
    kernel_cache.install(())
