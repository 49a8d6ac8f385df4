"""``python -m woven_locus``."""

from woven_locus.cli.main import run

run()
