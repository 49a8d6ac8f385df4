"""The live link of a window: its server in a thread of its own, everything that concerns the plan on the interface's."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication

from woven_locus.core.errors import Refused, WovenError
from woven_locus.ui.answers.reported import ReportedAgents
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session

if TYPE_CHECKING:
    import asyncio

    from woven_locus.link.agents import Agents
    from woven_locus.link.server import Link

# What clients ask in a row before the window gets its turn, how long the next in the row is waited for, and how long the
# link's end, seconds.
SLICE, LINGER, PATIENCE = 0.012, 0.001, 2.0


class LiveLink(QObject):
    """problem : why it could not begin, or nothing.  clients : how many there are."""

    changed = pyqtSignal()  # began, ended, could not begin, clients came or went
    _asked = pyqtSignal()  # from the link's thread
    _told = pyqtSignal(int)  # from the link's thread: clients there now
    _reported = pyqtSignal()  # from the link's thread: of agents

    def __init__(self, session: Session, shown: ReportedAgents) -> None:
        """shown : what games report of their own agents."""
        super().__init__(session)
        self._session, self._shown = session, shown
        self._agents: Agents | None = None
        self._telling = False
        self._link: Link | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        self._ended: asyncio.Event | None = None
        self._thread: threading.Thread | None = None
        self._waiting: deque[tuple[Callable[[], Any], asyncio.Future[Any]]] = deque()
        self._more, self._called = threading.Event(), False
        self.problem, self.clients = "", 0
        # From another thread they wait for the event loop.
        self._asked.connect(self._do_some)
        self._told.connect(self._count)
        self._reported.connect(self._show_agents)
        session.replaced.connect(self._follow)

    @property
    def url(self) -> str:
        """Where it listens; empty when it does not."""
        return self._link.url if self._link is not None and self._loop is not None else ""

    @property
    def token(self) -> str:
        """Without which nobody gets in."""
        return self._link.token if self._link is not None else ""

    @property
    def read_only(self) -> bool:
        """Whether edits are refused."""
        return self._link is not None and self._link.host.read_only

    # --- beginning and ending -----------------------------------------------------------------------

    def start(self, read_only: bool = False) -> None:
        """Begin to listen; `changed` tells when it does."""
        if self._thread is not None:
            return
        # Late: it takes a tenth of a second to import, and most never ask for it.
        from woven_locus.link.method import Host, NotAllowed
        from woven_locus.link.server import Link

        self.problem, self.clients = "", 0

        class OpenPlan(Host):
            """Whose saving is the window's affair."""

            def check_may_edit(self) -> None:
                super().check_may_edit()
                if QApplication.activeModalWidget() or QApplication.activePopupWidget():
                    # What it shows, and will do, is of the plan as it is.
                    raise NotAllowed(
                        tr("a sheet is open in the window; ask again when it is closed")
                    )

            def save(self) -> str:
                raise Refused(tr("the window saves this plan"))

        host = OpenPlan(self._session.document, read_only)
        self._link = Link(
            host,
            on_owner=self._on_owner,
            on_clients=self._told.emit,
            on_agents=self._report,
        )
        self._thread = threading.Thread(target=self._run, args=(self._link,), daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """End all talks. What clients still wait for is not done."""
        thread = self._thread
        if thread is None:
            return
        self._link = None
        loop, ended = self._loop, self._ended
        if loop is not None and ended is not None:
            while self._waiting:
                # Its end would wait for them, and they for this thread.
                _work, future = self._waiting.popleft()
                loop.call_soon_threadsafe(_settle, future, None, Refused(tr("the link has ended")))
            loop.call_soon_threadsafe(ended.set)
        thread.join(PATIENCE)
        self._thread = self._loop = self._ended = None
        self.clients = 0
        self._agents = None
        self._shown.take(None)
        self.changed.emit()

    def _run(self, link: Link) -> None:
        try:
            import asyncio

            asyncio.run(self._serve(link))
        except WovenError as err:
            self.problem = tr(err)
            self._told.emit(0)

    async def _serve(self, link: Link) -> None:
        import asyncio

        ended = asyncio.Event()
        await link.start()
        # In this order, and in the other one in `stop`: either it ends this, or this sees that it is not wanted.
        self._ended, self._loop = ended, asyncio.get_running_loop()
        if self._link is link:
            self._told.emit(0)
            await ended.wait()
        await link.stop()

    # --- on the interface's thread ------------------------------------------------------------------

    async def _on_owner(self, work: Callable[[], Any]) -> Any:
        """From the link's thread: have something done on the interface's."""
        import asyncio

        future: asyncio.Future[Any] = asyncio.get_running_loop().create_future()
        self._waiting.append((work, future))
        self._more.set()
        if not self._called:
            # Once, however many wait: else each would have a slice of its own before the window's turn.
            self._called = True
            self._asked.emit()
        return await future

    def _report(self, agents: Agents) -> None:
        """From the link's thread. Only the newest counts, however fast they come."""
        self._agents = agents
        if not self._telling:
            self._telling = True
            self._reported.emit()

    def _show_agents(self) -> None:
        # In this order: what comes from now on is told anew.
        self._telling = False
        if self._link is not None:
            self._shown.take(self._agents)

    def _do_some(self) -> None:
        """A few things in a row; then the window's own events have their turn."""
        self._called = False
        until = time.perf_counter() + SLICE
        with self._session.bunch.held():
            while self._loop is not None and self._waiting:
                self._more.clear()
                work, future = self._waiting.popleft()
                value: Any = None
                error: Exception | None = None
                try:
                    value = work()
                except Exception as err:  # noqa: BLE001 (it is raised where it was asked)
                    error = err
                self._loop.call_soon_threadsafe(_settle, future, value, error)
                if time.perf_counter() >= until:
                    break
                if not self._waiting:
                    # A client's next message is read once this one is answered.
                    self._more.wait(LINGER)
        if self._waiting and not self._called:
            self._called = True
            QTimer.singleShot(0, self._do_some)

    def _count(self, clients: int) -> None:
        if clients > self.clients:
            self._session.say(tr("A game is connected by the live link."))
        self.clients = clients
        if self.problem and self._thread is not None:
            self._thread.join(PATIENCE)
            self._thread = self._link = None
        self.changed.emit()

    def _follow(self) -> None:
        """Another document is open."""
        if self._link is not None:
            self._link.follow(self._session.document)


def _settle(future: asyncio.Future[Any], value: Any, error: Exception | None) -> None:
    if future.done():
        return  # whoever asked is gone
    if error is not None:
        future.set_exception(error)
    else:
        future.set_result(value)
