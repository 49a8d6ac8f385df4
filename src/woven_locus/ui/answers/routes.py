"""Keeps the pinned routes current: at once on small plans, in a worker on large ones."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from woven_locus.core.edits.mending import lay_all
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell
from woven_locus.core.routing import End, Manner, NoRoute, Over, RouteQuery, finish_route
from woven_locus.core.routing.joining import Proposal, propose_join
from woven_locus.core.routing.search import Path
from woven_locus.document import PinnedRoute
from woven_locus.ui.jobs.pool import Job
from woven_locus.ui.language import counted, tr
from woven_locus.ui.session.session import Session

# Up to this many cells a search is done within the frame of the edit.
AT_ONCE = 128 * 128


class RouteKeeper(QObject):
    """Works out stale routes whenever the plan changes, and says when one broke or was mended."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.current: PinnedRoute | None = None
        # The search that a worker does for a pin.
        self._searching: dict[PinnedRoute, Job] = {}
        self.manner = Manner()
        self.proposed: tuple[Cell, ...] = ()  # road that would mend the current route
        session.changed.connect(lambda _notice: self.refresh())
        session.replaced.connect(self._replaced)

    def _replaced(self) -> None:
        for pin in list(self._searching):
            self._give_up(pin)
        self.current, self.proposed = None, ()
        self.changed.emit()

    @property
    def pins(self) -> list[PinnedRoute]:
        return self._session.document.routes.pins

    def ask(self, start: End, goal: End) -> PinnedRoute | None:
        """Pin a route and work it out; None when an end is unknown (which is said)."""
        try:
            pin = self._session.document.routes.pin(start, goal, self.manner)
        except WovenError as err:
            self._session.say(tr(err), "no")
            return None
        self.current = pin
        self.refresh()
        return pin

    def travel(self, over: Over, moves: int, size: int) -> None:
        """How whoever asks from now on travels."""
        self.manner = Manner(over, moves, size)
        self.changed.emit()

    def drop(self, pin: PinnedRoute) -> None:
        self._session.document.routes.unpin(pin)
        self._give_up(pin)
        if self.current is pin:
            self.current = self.pins[-1] if self.pins else None
        self.changed.emit()

    def choose(self, pin: PinnedRoute | None) -> None:
        """Make a pin the current one, which is drawn strongest and can be walked."""
        if pin is not self.current:
            self.current, self.proposed = pin, ()
            self.changed.emit()

    def propose(self) -> None:
        """Look for the fewest cells of road that would join the ends of the current route."""
        pin, session = self.current, self._session
        if pin is None or not isinstance(pin.answer, NoRoute):
            session.say(
                tr("Choose a route that is broken: what would mend it can then be proposed"), "no"
            )
            return
        if any(end not in session.plan.register for end in pin.ends):
            session.say(tr("Nothing can be proposed: {why}", why=pin.answer.why), "no")
            return

        def done(found: Proposal) -> None:
            self.proposed = found.cells
            count = len(found.cells)
            if found:
                words = tr(
                    "{cells} of road would mend {title}; Shift+U lays them",
                    cells=counted(count, "{n} cell", "{n} cells"),
                    title=pin.title,
                )
                session.say(words)
                session.reveal.emit(found.cells[0])
            else:
                session.say(
                    tr(
                        "No road can mend {title}: what may not be built on lies between",
                        title=pin.title,
                    ),
                    "no",
                )
            self.changed.emit()

        session.asking.ask(
            tr("Looking for a road for {title}", title=pin.title),
            lambda plan, _control: propose_join(plan, pin.start, pin.goal),
            done,
            at_once=session.plan.terrain.size <= AT_ONCE,
        )

    def accept(self) -> bool:
        """Lay the road that is proposed; False when there is none, or the rules refuse it."""
        if not self.proposed or self.current is None:
            return False
        cells, title = self.proposed, self.current.title
        self.proposed = ()
        code = self._session.choices.ways.drawing.code
        label = tr("Joined {title} by road", title=title)
        return self._session.attempt(lay_all, self._session.plan, cells, code, label)

    def withdraw(self) -> bool:
        """Put the proposal away; False when there is none."""
        if not self.proposed:
            return False
        self.proposed = ()
        self.changed.emit()
        return True

    def refresh(self) -> None:
        """Work out what is stale: here and now on a small plan, else in a worker."""
        stale = [pin for pin in self.pins if pin.stale]
        if stale:
            self.proposed = ()
        for pin in stale:
            self._work_out(pin)
        if stale:
            self.changed.emit()

    def _work_out(self, pin: PinnedRoute) -> None:
        book = self._session.document.routes
        self._give_up(pin)
        query = book.question(pin)
        if isinstance(query, NoRoute):
            self._answer(pin, query)
        elif query.at_once or query.layer.size <= AT_ONCE:
            self._answer(pin, finish_route(self._session.plan, query, query.search()))
        else:
            pin.stale = False  # it is being seen to; a later edit marks it again
            self._send(pin, query.snapshot())

    def _send(self, pin: PinnedRoute, query: RouteQuery) -> None:
        """query : one of copies. An edit that concerns the pin gives this search up and asks again; one
        that does not leaves its answer good, so that it need not be of the newest revision."""
        document = self._session.document

        def done(path: Path) -> None:
            self._searching.pop(pin, None)
            self._answer(pin, finish_route(document.plan, query, path))
            self.changed.emit()

        def stopped() -> None:
            if self._searching.get(pin) is job:
                del self._searching[pin]
                self._answer(pin, NoRoute(tr("the search was stopped; the next edit asks again")))
                pin.stale = True
                self.changed.emit()

        job = self._searching[pin] = self._session.jobs.start(
            tr("Routing {title}", title=pin.title),
            lambda _control: query.search(),
            done,
            stopped=stopped,
        )

    def _give_up(self, pin: PinnedRoute) -> None:
        job = self._searching.pop(pin, None)
        if job is not None:
            job.stop()

    def _answer(self, pin: PinnedRoute, answer: object) -> None:
        first = pin.answer is None
        self._session.document.routes.answer(pin, answer)  # type: ignore[arg-type]
        if isinstance(answer, NoRoute):
            if first:
                self._session.say(
                    tr("No route {title}: {why}", title=pin.title, why=answer.why), "no"
                )
            elif pin.note == "broke":
                self._session.say(
                    tr("The route {title} broke: {why}", title=pin.title, why=answer.why), "no"
                )
        elif pin.note == "mended":
            self._session.say(tr("The route {title} is whole again", title=pin.title))
