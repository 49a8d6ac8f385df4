"""An open plan."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from woven_locus.core.editing import Edit, History, Notice
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import TerrainClass, TerrainTable
from woven_locus.core.plan import Plan
from woven_locus.core.routing import Connections, Links
from woven_locus.document.misses import MissBook
from woven_locus.document.routes import RouteBook
from woven_locus.document.soundness import Soundness
from woven_locus.files import plan_json
from woven_locus.files.journal import Journal, LeftOver, Run, replay

Listener = Callable[[Notice], None]


def starter_terrain() -> TerrainTable:
    """The classes of a new plan."""
    return TerrainTable(
        [
            TerrainClass("meadow", "Meadow", "m", True, True, 1.0, "#A9B07A", "tufts"),
            TerrainClass("terrace", "Terrace", "t", True, True, 1.2, "#C9B27C", "steps"),
            TerrainClass("bog", "Bog", "b", False, True, 3.0, "#6E7A5E", "reeds"),
            TerrainClass("stream", "Stream", "s", False, False, 1.0, "#7FA3BD", "waves"),
            TerrainClass("scree", "Scree", "c", True, True, 2.0, "#B5ABA0", "stipple"),
            TerrainClass("cliff", "Cliff", "k", False, False, 1.0, "#84756B", "cracks"),
        ]
    )


def new_plan(spec: GridSpec, name: str = "Untitled plan") -> Plan:
    """An empty plan: meadow all over, the starter terrain classes, the shipped kinds and road classes."""
    from woven_locus.demo import open_demo

    demo = open_demo()
    return Plan(
        name, spec, starter_terrain(), demo.kinds, road_table=demo.road_table, money="tallies"
    )


class Document:
    """Plan, history and where it is kept.

    revision : grows with every change of the plan; work done for an older one is out of date.
    path : the file, or None when it was never saved.
    """

    def __init__(self, plan: Plan, path: Path | None = None) -> None:
        self.plan, self.path = plan, path
        self.history = History(plan)
        self.history.listen(self._changed)
        self.revision = 0
        self.journal: Journal | None = None
        self._run: Run | None = None
        self.routes = RouteBook(plan)
        self.misses = MissBook(plan)
        self._listeners: list[Listener] = []
        self._connections: Connections | None = None
        self._links: Links | None = None
        self._cut_off: frozenset[int] = frozenset()
        self._soundness: Soundness | None = None

    @classmethod
    def open(cls, path: Path) -> Document:
        """Raises FileProblem. What takes longest to derive is worked out here, off the interface
        when the interface asks in a job."""
        document = cls(plan_json.load(path), path)
        document.links()
        document.unsound()
        return document

    def save(self, path: Path | None = None) -> Path:
        """Write the plan, to `path` from now on if given. Raises FileProblem."""
        target = path or self.path
        if target is None:
            raise ValueError("a plan that was never saved needs a path")
        digest = plan_json.save(self.plan, target)
        self.now_saved(target, self.revision, digest)
        return target

    def now_saved(self, path: Path, revision: int, digest: str | None = None) -> None:
        """The file holds the plan as it stood at `revision`; it may have changed since, while a
        large plan was being written. Either way the journal begins anew, since what it began with
        is no longer in the file."""
        self.path = path
        unsaved = self.revision != revision
        if unsaved:
            # What was saved before is no longer in the file either.
            self.history.mark_unsaved()
        else:
            self.history.mark_saved()
        if self.journal is not None:
            self.journal.begin(self.plan, path, unsaved=unsaved, digest=digest, run=self._run)

    def keep_journal(self, folder: Path, run: Run | None = None) -> None:
        """Record every step from here on in a journal in `folder`. run : see `Journal.begin`."""
        self.journal, self._run = Journal(folder), run
        self.journal.begin(self.plan, self.path, unsaved=not self.history.saved, run=run)
        self.history.watch(self._record)

    def _record(self, action: str, edit: Edit) -> None:
        """Keep a step in the journal; one that goes back behind its beginning begins it anew."""
        journal = self.journal
        assert journal is not None
        if journal.knows(action):
            journal.record(action, edit)
        else:
            self.history.settle()
            journal.begin(self.plan, self.path, unsaved=True, run=self._run)

    def prepare(self, edit: Edit) -> None:
        """Pack a large edit for the journal ahead of doing it, on the thread that made it."""
        if self.journal is not None:
            self.journal.prepare(edit)

    def close(self) -> None:
        """Closed in good order: the journal goes."""
        if self.journal is not None:
            self.journal.close()

    @classmethod
    def restore(cls, journal: LeftOver) -> Document:
        """The document of a process that was killed, with its steps. Raises FileProblem."""
        plan, path, steps = journal.restore()
        document = cls(plan, path)
        replay(document.history, steps)
        document.history.mark_unsaved()
        return document

    @property
    def title(self) -> str:
        return self.plan.name

    def listen(self, listener: Listener) -> None:
        """Call `listener` after each change, once derived state is current."""
        self._listeners.append(listener)

    def links(self) -> Links:
        """What is joined by road now; worked out once per change."""
        if self._links is None:
            if self._connections is None:
                self._connections = Connections(self.plan)
            self._links = self._connections.links()
            self._cut_off = frozenset(self._links.cut_off)
        return self._links

    def is_linked(self, number: int) -> bool:
        """Whether a structure reaches another by road."""
        self.links()
        return number not in self._cut_off

    def unsound(self) -> frozenset[int]:
        """Structures that the judge would refuse where they stand, after terrain changed, say."""
        if self._soundness is None:
            self._soundness = Soundness(self.plan)
        return frozenset(self._soundness.unsound)

    def known_unsound(self, seconds: float = 0.0) -> tuple[frozenset[int], bool]:
        """`unsound` as far as it is known after working on it for so long, and whether that is all: for
        whoever may not wait."""
        if self._soundness is None:
            self._soundness = Soundness(self.plan)
        found, done = self._soundness.known(seconds)
        return frozenset(found), done

    def now(self) -> str:
        """The time as the register keeps it."""
        return datetime.now(UTC).replace(microsecond=0).isoformat().replace("+00:00", "Z")

    def _changed(self, notice: Notice) -> None:
        if notice.boxes:
            self.revision += 1
        if notice.reformed:
            # Whatever was worked out for the old classes, or the old grid, is void.
            self._soundness = None
        if notice.layers & {"grid", "kinds"}:
            # Doors lie elsewhere now.
            self._connections = self._links = None
        if self._connections is not None:
            self._connections.update(notice.structures)
        if self._soundness is not None:
            self._soundness.update(notice)
        if notice.structures or "road" in notice.layers:
            self._links = None
        self.routes.follow(notice)
        self.misses.follow(notice)
        for listener in self._listeners:
            listener(notice)
