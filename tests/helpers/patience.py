"""How long a test waits for what must come: a limit for what hangs, far beyond what a slow machine needs."""

SECONDS = 300
MSEC = 1000 * SECONDS
