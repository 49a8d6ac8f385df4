"""Simulated time: whole steps, however unevenly the time passes that drives it."""

from __future__ import annotations

import math

# Simulated seconds of a step of whatever runs.
STEP = 1 / 30


class Clock:
    """step : simulated seconds of one step, above 0.  speed : simulated seconds for each that passes.

    It knows no wall clock: whoever runs it says how much time has passed. What is not yet a whole step waits,
    so that no time is lost between two calls.
    """

    def __init__(self, step: float, speed: float = 1.0) -> None:
        if not (math.isfinite(step) and step > 0):
            raise ValueError(f"a step must be longer than 0 seconds, not {step:g}")
        self.step, self.speed = step, speed
        self._owed = 0.0

    @property
    def owed(self) -> float:
        """Simulated seconds that have passed and were not yet taken as steps."""
        return self._owed

    def passed(self, seconds: float) -> int:
        """So many seconds have passed; returns how many steps they owe and takes them as done."""
        self.hold(seconds)
        return self.take()

    def hold(self, seconds: float) -> None:
        """So many seconds have passed in which no step could be done; they are made up later."""
        self._owed += max(0.0, seconds) * self.speed

    def take(self) -> int:
        """The whole steps that are owed by now, taken as done."""
        # A hair of rounding must not cost a step: ten tenths are one.
        steps = int(self._owed / self.step + 1e-9)
        self._owed = max(0.0, self._owed - steps * self.step)
        return steps

    def forget(self) -> None:
        """Nothing is owed any more."""
        self._owed = 0.0


def seconds_words(seconds: float) -> str:
    """``3:07`` or ``1:02:07``: minutes and seconds, and hours where there are some."""
    whole = math.floor(seconds + 1e-9)
    hours, rest = divmod(whole, 3600)
    minutes, rest = divmod(rest, 60)
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes}:{rest:02}"


def clock_text(seconds: int) -> str:
    """``1:02:05``: hours, minutes and seconds."""
    minutes, rest = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:,}:{minutes:02}:{rest:02}"
