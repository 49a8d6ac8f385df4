"""Turning a run back: key frames now and then, and the steps from there done once more."""

from __future__ import annotations

from typing import Generic, Protocol, TypeVar

# Simulated seconds between two key frames at first; more once they take too much room.
FIRST_EVERY = 5.0
# Key frames, and bytes of them all, that are kept at most.
MOST_FRAMES, MOST_BYTES = 100, 256 << 20


class Stepped(Protocol):
    """What goes by steps.  step : seconds of one.  steps : done so far."""

    step: float
    steps: int

    def advance(self, steps: int = 1) -> None:
        """Do so many steps."""


class KeyFrame(Protocol):
    """All of a run that changes as it goes. steps : after how many."""

    @property
    def steps(self) -> int:
        """After how many."""

    @property
    def size(self) -> int:
        """Bytes."""


Run = TypeVar("Run", bound=Stepped)
Frame = TypeVar("Frame", bound=KeyFrame)


class Timeline(Generic[Run, Frame]):
    """Key frames of a run from `first` on, the step at which it began or at which it was last changed from outside: by an
    edit, a rule, a trip that should have begun earlier. What was before is another run."""

    def __init__(self, run: Run) -> None:
        self.run = run
        self.begin()

    def _taken(self) -> Frame:
        """A frame of the run as it is."""
        raise NotImplementedError

    def _put_back(self, frame: Frame) -> None:
        """Set the run to a frame, which stays as it is: one may come back to it."""
        raise NotImplementedError

    def begin(self) -> None:
        """What was before cannot be come to by doing the steps again."""
        self._every = max(1, round(FIRST_EVERY / self.run.step))
        self._frames: list[Frame] = [self._taken()]
        self.last = self.run.steps

    @property
    def first(self) -> int:
        """The earliest step that one can go back to."""
        return self._frames[0].steps

    def advance(self, steps: int = 1) -> None:
        """Do steps of the run, keeping frames."""
        for _ in range(steps):
            self.run.advance()
            now = self.run.steps
            if now > self.last:
                self.last = now
                if now - self._frames[-1].steps >= self._every:
                    self._frames.append(self._taken())
                    self._thin_out()

    def _thin_out(self) -> None:
        while len(self._frames) > 2 and (
            len(self._frames) > MOST_FRAMES or sum(f.size for f in self._frames) > MOST_BYTES
        ):
            self._frames = [*self._frames[:-1:2], self._frames[-1]]
            self._every *= 2

    def go_to(self, step: int) -> int:
        """Set the run to the last key frame that is no later than a step, unless it is already between that and the step.
        Returns how many steps are left to do; the step is brought between `first` and the last that was done."""
        step = min(max(step, self.first), self.last)
        frame = next(frame for frame in reversed(self._frames) if frame.steps <= step)
        if not frame.steps <= self.run.steps <= step:
            self._put_back(frame)
        return step - self.run.steps
