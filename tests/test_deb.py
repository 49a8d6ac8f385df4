"""The Debian package: built, without an error of lintian's, installed in a bare root, run and removed.

It takes a quarter of an hour, an administrator and a mirror of Debian's, so that it runs only as `make deb-check`.
"""

import os
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]

pytestmark = pytest.mark.skipif(
    not os.environ.get("DEB_CHECK")
    or os.geteuid() != 0
    or any(shutil.which(name) is None for name in ("dpkg-deb", "lintian", "mmdebstrap")),
    reason="runs as `make deb-check`, as root, with lintian and mmdebstrap",
)


@pytest.fixture(scope="module")
def package() -> Path:
    subprocess.run(["bash", "tools/deb.sh"], cwd=ROOT, check=True)
    (found,) = (ROOT / "dist").glob("woven-locus_*.deb")
    return found


@pytest.fixture(scope="module")
def bare(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    """The smallest Debian 12 with a package manager."""
    root = tmp_path_factory.mktemp("bare") / "root"
    subprocess.run(["mmdebstrap", "--variant=apt", "bookworm", str(root)], check=True)
    yield root
    shutil.rmtree(root, ignore_errors=True)


def test_lintian_finds_no_error(package: Path) -> None:
    done = subprocess.run(
        ["lintian", "--allow-root", "--fail-on", "error", "--no-tag-display-limit", str(package)],
        capture_output=True,
        text=True,
        check=False,
    )
    errors = [line for line in done.stdout.splitlines() if line.startswith("E:")]
    assert errors == []
    assert done.returncode == 0, done.stderr


def test_it_is_installed_run_and_removed(package: Path, bare: Path) -> None:
    shutil.copy(package, bare / "woven-locus.deb")

    def inside(*command: str, check: bool = True) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            ["chroot", str(bare), *command],
            env={"PATH": "/usr/bin:/usr/sbin:/bin:/sbin", "HOME": "/root", "LC_ALL": "C.UTF-8"},
            capture_output=True,
            text=True,
            check=check,
        )

    inside("apt-get", "update", "-q")
    inside("apt-get", "install", "-y", "-q", "--no-install-recommends", "/woven-locus.deb")
    assert inside("woven-locus", "--version").stdout.strip().endswith("0.2.0")
    inside("woven-locus", "demo", "--copy", "/tmp/a.plan.json")
    assert '"groups"' in inside("woven-locus", "links", "/tmp/a.plan.json").stdout
    # Its kernels came with it.
    asked = ("traffic", "/tmp/a.plan.json", "--seconds", "2")
    assert "compiling" not in inside("woven-locus", *asked).stderr
    assert (bare / "root/.cache/woven-locus/kernels").exists()
    # The window comes up and stays until it is told to end; without a display it is told so.
    shown = inside(
        "env", "QT_QPA_PLATFORM=offscreen", "timeout", "20", "woven-locus", "demo", check=False
    )
    assert shown.returncode == 124, shown.stderr
    assert "Traceback" not in shown.stderr
    refused = inside("woven-locus", "demo", check=False)
    assert refused.returncode == 2
    assert "display" in refused.stderr
    assert (bare / "usr/share/applications/org.woven_locus.WovenLocus.desktop").exists()
    inside("apt-get", "purge", "-y", "-q", "woven-locus")
    assert not (bare / "usr/lib/woven-locus").exists()
    assert not (bare / "usr/bin/woven-locus").exists()
