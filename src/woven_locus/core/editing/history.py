"""Undo and redo, back to when the plan was opened. One gesture is one step."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from woven_locus.core.editing.change import Change
from woven_locus.core.editing.edit import Edit, Notice
from woven_locus.core.plan import Plan

Listener = Callable[[Notice], None]
# (what happened, the step): "do"; "join", done as part of the step before; "undo"; "redo". Of a gesture,
# "part" with each edit as it is done, then "commit" with the whole step, or "cancel" with what was taken back.
Watcher = Callable[[str, Edit], None]


class History:
    """Does edits to one plan and remembers them.

    entries : the labels of all steps, done and undone.  position : how many of them are done.
    """

    def __init__(self, plan: Plan) -> None:
        self._plan = plan
        self._steps: list[Edit] = []
        self._done = 0
        self._saved: int | None = 0
        # Steps up to here belong to a state that a file or a journal holds: they stay as they are.
        self._settled = 0
        self._gesture: list[Change] | None = None
        self._gesture_label = ""
        self._listeners: list[Listener] = []
        self._watchers: list[Watcher] = []
        self._telling = False
        # What to do with an error of a listener; without it the first one is raised when all were told.
        self.on_error: Callable[[Exception], None] | None = None

    def listen(self, listener: Listener) -> None:
        """Call `listener` after each change of the plan, undo and redo included. It must not edit."""
        self._listeners.append(listener)

    def watch(self, watcher: Watcher) -> None:
        """Call `watcher` for each step done, undone or redone, before any listener hears of it."""
        self._watchers.append(watcher)

    @property
    def entries(self) -> list[str]:
        """The labels of all steps, done and undone."""
        return [step.label for step in self._steps]

    @property
    def position(self) -> int:
        """How many steps are done."""
        return self._done

    @property
    def in_gesture(self) -> bool:
        """Whether a gesture is under way."""
        return self._gesture is not None

    @property
    def can_undo(self) -> bool:
        """Whether there is a step to take back, and no gesture under way."""
        return self._done > 0 and self._gesture is None

    @property
    def can_redo(self) -> bool:
        """Whether there is an undone step, and no gesture under way."""
        return self._done < len(self._steps) and self._gesture is None

    @property
    def saved(self) -> bool:
        """Whether the plan is as it was when it was last saved or opened."""
        return self._saved == self._done and not self._gesture

    def mark_saved(self) -> None:
        """The plan as it is now is what its file holds."""
        self._saved = self._settled = self._done

    def mark_unsaved(self) -> None:
        """No file holds the plan as it is, whatever is undone."""
        self._saved, self._settled = None, self._done

    def settle(self) -> None:
        """No later edit becomes part of a step that is there now."""
        self._settled = self._done

    def do(self, edit: Edit, *, joining: bool = True) -> None:
        """Apply an edit; inside a gesture it becomes part of it. An empty edit is no step.

        joining : it may become part of the step before, see `Edit.joined`.
        """
        self._check_nobody_is_told()
        if not edit.changes:
            return
        notice = edit.apply(self._plan)
        if self._gesture is not None:
            self._gesture.extend(edit.changes)
            self._record("part", edit)
        else:
            self._push(edit, joining)
        self._tell(notice)

    def apply_outside(self, edit: Edit, *, undo: bool = False) -> None:
        """Apply an edit that is no step here: a replay of one that was done before it began."""
        self._check_nobody_is_told()
        self._tell(edit.apply(self._plan, undo=undo))

    def forget_undone(self) -> None:
        """Nothing can be redone from here."""
        del self._steps[self._done :]

    def undo(self) -> bool:
        """Take back the last step. False when there is none."""
        self._check_nobody_is_told()
        if not self.can_undo:
            return False
        self._done -= 1
        step = self._steps[self._done]
        notice = step.apply(self._plan, undo=True)
        self._record("undo", step)
        self._tell(notice)
        return True

    def redo(self) -> bool:
        """Do the next undone step again. False when there is none."""
        self._check_nobody_is_told()
        if not self.can_redo:
            return False
        self._done += 1
        step = self._steps[self._done - 1]
        notice = step.apply(self._plan)
        self._record("redo", step)
        self._tell(notice)
        return True

    def go_to(self, position: int) -> None:
        """Undo or redo until `position` steps are done."""
        while self._done > position and self.undo():
            pass
        while self._done < position and self.redo():
            pass

    def begin(self, label: str) -> None:
        """Start a gesture: all edits until `commit` become one step called `label`."""
        if self._gesture is not None:
            raise RuntimeError("a gesture is open already")
        self._check_nobody_is_told()
        self._plan.in_gesture = True
        self._gesture, self._gesture_label = [], label

    def commit(self, label: str | None = None) -> None:
        """End the gesture. One in which nothing changed leaves no step."""
        changes = self._end_gesture()
        if changes:
            edit = Edit(label or self._gesture_label, tuple(changes))
            self._push(edit, joining=False, action="commit")
            self._tell(Notice((), frozenset(), frozenset(), edit.label))

    def cancel(self) -> None:
        """End the gesture and take back all of it."""
        if self._gesture:
            edit = Edit(self._gesture_label, tuple(self._gesture))
            notice = edit.apply(self._plan, undo=True)
            self._end_gesture()
            self._record("cancel", edit)
            self._tell(notice)
        else:
            self._end_gesture()

    def _end_gesture(self) -> list[Change] | None:
        changes, self._gesture = self._gesture, None
        self._plan.in_gesture = False
        return changes

    @contextmanager
    def gesture(self, label: str) -> Iterator[None]:
        """`begin` and `commit` around a block; an exception cancels and goes on."""
        self.begin(label)
        try:
            yield
        except BaseException:
            self.cancel()
            raise
        self.commit()

    def _push(self, edit: Edit, joining: bool, action: str = "do") -> None:
        if self._saved is not None and self._saved > self._done:
            self._saved = None  # the saved state can no longer be reached
        del self._steps[self._done :]
        before = self._steps[-1] if joining and self._done > self._settled else None
        joined = before.joined(edit) if before is not None else None
        if joined is not None:
            self._steps[-1] = joined
            self._record("join", edit)
        else:
            self._steps.append(edit)
            self._done += 1
            self._record(action, edit)

    def _record(self, action: str, step: Edit) -> None:
        for watcher in self._watchers:
            watcher(action, step)

    def _check_nobody_is_told(self) -> None:
        assert not self._telling, "a listener edits the plan: it would push a step of its own"

    def _tell(self, notice: Notice) -> None:
        """All listeners hear of it, whatever happens in one of them."""
        failed: list[Exception] = []
        self._telling = True
        try:
            for listener in self._listeners:
                try:
                    listener(notice)
                except Exception as error:  # noqa: BLE001 - handed on once the others were told
                    failed.append(error)
        finally:
            self._telling = False
        for each in failed:
            if self.on_error is None:
                raise each
            self.on_error(each)
