"""The server: WebSocket on the loopback, a token, no foreign Origin, bounded messages and clients.

Each client has a task that reads its requests and one that writes to it. What it is to be told waits in a line of its
own; who lets that line grow too long is dropped, and nobody waits for it. Questions that take long are answered on a copy
of the plan, beside the loop, with the revision that they are of.
"""

from __future__ import annotations

import asyncio
import hmac
import json
import logging
import secrets
import threading
from collections.abc import Awaitable, Callable
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qs, urlsplit

from websockets.asyncio.server import Server, ServerConnection, serve
from websockets.exceptions import ConnectionClosed
from websockets.http11 import Request, Response

from woven_locus.core.editing import Notice
from woven_locus.core.errors import Refused
from woven_locus.core.plan import Plan
from woven_locus.document import Document
from woven_locus.link import rpc
from woven_locus.link.agents import Agents, Report, reported, together
from woven_locus.link.changes import change_json
from woven_locus.link.line import Line
from woven_locus.link.method import Host, Method, Params
from woven_locus.link.runs import moments
from woven_locus.link.table import TOPICS, Subscribe, Unsubscribe, openrpc

HOST = "127.0.0.1"
# Bytes of a message that is taken; clients at once.
LARGEST_MESSAGE, MOST_CLIENTS = 1 << 20, 256
# Messages of one client in a second, and how many it may save up.
RATE, BURST = 5000.0, 5000.0
_LOCAL = ("127.0.0.1", "localhost", "::1")

log = logging.getLogger(__name__)
# Answers with a copy of the plan that nobody changes, and the revision that it is of.
Copied = Callable[[], tuple[Plan, int]]
# Runs something on the thread that owns the document.
OnOwner = Callable[[Callable[[], Any]], Awaitable[Any]]


async def at_once(work: Callable[[], Any]) -> Any:
    """For a document that the loop's own thread owns."""
    return work()


class Link:
    """Serves a document. on_owner : runs something on the thread that owns the document; the loop's own by default.
    on_clients : told how many there are, on the loop's thread.  on_agents : told of all agents that clients report, there
    too.

    token : without which nobody gets in.
    """

    def __init__(
        self,
        host: Host,
        port: int = 0,
        on_owner: OnOwner = at_once,
        on_clients: Callable[[int], object] = lambda _count: None,
        on_agents: Callable[[Agents], object] = lambda _agents: None,
    ) -> None:
        self.host, self.token = host, secrets.token_urlsafe(24)
        self._port, self._on_owner = port, on_owner
        self._on_clients, self._on_agents = on_clients, on_agents
        self._agents: dict[_Client, Agents] = {}
        self._clients: set[_Client] = set()
        self._server: Server | None = None
        self._loop: asyncio.AbstractEventLoop | None = None
        self._thread = 0
        self._listen()

    @property
    def url(self) -> str:
        """Where it listens."""
        assert self._server is not None
        return f"ws://{HOST}:{next(iter(self._server.sockets)).getsockname()[1]}"

    async def start(self) -> None:
        """Begin to listen. Raises Refused for a port that cannot be had."""
        self._loop, self._thread = asyncio.get_running_loop(), threading.get_ident()
        try:
            self._server = await serve(
                self._talk,
                HOST,
                self._port,
                process_request=self._let_in,
                max_size=LARGEST_MESSAGE,
                # Answers are made at once; a client that sends without reading fills its own line.
                compression=None,
                server_header=None,
            )
        except OSError as err:
            raise Refused(
                f"port {self._port} cannot be had: {err.strerror}; leave --port out for a free one"
            ) from None

    async def stop(self) -> None:
        """End all talks, and listen no longer."""
        if self._server is not None:
            for client in list(self._clients):
                client.end()
            self._server.close()
            await self._server.wait_closed()
        self._loop = None

    def follow(self, document: Document) -> None:
        """Another document is open; on the thread that owns it. Clients are told."""
        self.host.document = document
        self._listen()
        notice = Notice(
            (document.plan.spec.box,),
            frozenset({"grid"}),
            frozenset(),
            "Another plan was opened",
            True,
        )
        self._changed(notice)

    def _listen(self) -> None:
        document = self.host.document

        def told(notice: Notice) -> None:
            if self.host.document is document:
                self._changed(notice)

        document.listen(told)

    # --- who gets in ------------------------------------------------------------------------------

    def _let_in(self, connection: ServerConnection, request: Request) -> Response | None:
        origin = request.headers.get("Origin")
        if origin is not None and urlsplit(origin).hostname not in _LOCAL:
            return connection.respond(
                HTTPStatus.FORBIDDEN, "this link answers pages of this machine only\n"
            )
        named = request.headers.get("Authorization", "")
        given = named[7:] if named[:7].lower() == "bearer " else ""
        if not given:
            given = parse_qs(urlsplit(request.path).query).get("token", [""])[0]
        if not hmac.compare_digest(given.encode("utf-8", "replace"), self.token.encode()):
            return connection.respond(
                HTTPStatus.UNAUTHORIZED, "the token that was printed is missing or wrong\n"
            )
        if len(self._clients) >= MOST_CLIENTS:
            return connection.respond(HTTPStatus.SERVICE_UNAVAILABLE, "too many clients\n")
        return None

    async def _talk(self, connection: ServerConnection) -> None:
        client = _Client(self, connection)
        self._clients.add(client)
        self._on_clients(len(self._clients))
        try:
            await client.talk()
        finally:
            self._clients.discard(client)
            if self._agents.pop(client, None) is not None:
                self._on_agents(together(self._agents.values()))
            self._on_clients(len(self._clients))

    # --- telling ----------------------------------------------------------------------------------

    def _changed(self, notice: Notice) -> None:
        """On the thread that owns the document: what is told is made of the plan as it is now."""
        loop = self._loop
        if (
            loop is None
            or not notice.layers
            or not any(c.hears("changes") for c in list(self._clients))
        ):
            return
        text = rpc.notice(
            "changed", change_json(self.host.plan, notice, self.host.document.revision)
        )
        # In order, whichever thread it is: before the answer to the edit that made it.
        if threading.get_ident() == self._thread:
            self._tell(text)
        else:
            loop.call_soon_threadsafe(self._tell, text)

    def _tell(self, text: str) -> None:
        for client in list(self._clients):
            if client.hears("changes"):
                client.put(text)

    def report(self, client: _Client, agents: Agents) -> None:
        """What a client says of its agents, in place of what it said before; gone when it is."""
        self._agents[client] = agents
        self._on_agents(together(self._agents.values()))

    # --- asking -----------------------------------------------------------------------------------

    async def run(self, method: Method, params: Params) -> Any:
        """What a method of the plan gives. Raises WovenError."""
        if not method.long:
            return await self._on_owner(lambda: method.run(self.host, params))
        plan, revision = await self.copied()
        found = await asyncio.to_thread(method.run, plan, params)
        return found | {"revision": revision}

    async def copied(self) -> tuple[Plan, int]:
        """A copy of the plan, and the revision that it is of."""
        host = self.host
        found: tuple[Plan, int] = await self._on_owner(
            lambda: (host.plan.twin(), host.document.revision)
        )
        return found


class _Client:
    """One who is connected."""

    def __init__(self, link: Link, connection: ServerConnection) -> None:
        self._link, self._connection = link, connection
        self._line = Line()
        self._topics: set[str] = set()
        self._running: dict[str, tuple[asyncio.Task[None], threading.Event]] = {}
        self._saved, self._then = BURST, 0.0

    def hears(self, topic: str) -> bool:
        """Whether it wants to be told of something."""
        return topic in self._topics

    def put(self, text: str) -> None:
        """Have it told; one who does not read is dropped."""
        if not self._line.put_now(text):
            log.warning("a client that does not read was dropped")
            self.end()

    def end(self) -> None:
        """Without waiting for anybody."""
        self._connection.transport.abort()

    async def talk(self) -> None:
        writer = asyncio.create_task(self._write())
        try:
            async for message in self._connection:
                await self._keep_rate()
                found = await rpc.answer(message, self._run, _bug)
                if found is not None:
                    # Whoever asks and does not read waits for himself.
                    await self._line.put(found)
        except ConnectionClosed:
            pass
        finally:
            writer.cancel()
            for topic in list(self._running):
                self._stop(topic)

    async def _write(self) -> None:
        while True:
            text = await self._line.get()
            try:
                await self._connection.send(text)
            except ConnectionClosed:
                return

    async def _keep_rate(self) -> None:
        """A bucket of RATE messages a second: who sends more waits, the others do not."""
        now = asyncio.get_running_loop().time()
        self._saved = min(BURST, self._saved + (now - self._then) * RATE) - 1.0
        self._then = now
        if self._saved < 0:
            await asyncio.sleep(-self._saved / RATE)
        elif self._line.empty:
            # Many requests in a row leave the others their turn.
            await asyncio.sleep(0)

    async def _run(self, method: Method, params: Params) -> Any:
        if method.name == "rpc.discover":
            return openrpc()
        if isinstance(params, Subscribe):
            return await self._subscribe(params)
        if isinstance(params, Report):
            agents = reported(params.agents)
            self._link.report(self, agents)
            return {"shown": len(agents)}
        if isinstance(params, Unsubscribe):
            self._topics.discard(params.to)
            self._stop(params.to)
            return {"to": params.to}
        return await self._link.run(method, params)

    async def _subscribe(self, params: Subscribe) -> dict[str, Any]:
        if params.to not in TOPICS:
            raise Refused(f"nobody tells of {params.to!r}; there is {', '.join(TOPICS)}")
        if params.to == "changes":
            self._topics.add(params.to)
            return {"to": params.to, "revision": self._link.host.document.revision}
        self._stop(params.to)
        plan, revision = await self._link.copied()
        stopped = threading.Event()
        task = asyncio.create_task(self._follow(plan, params, stopped))
        self._running[params.to] = task, stopped
        return {"to": params.to, "revision": revision}

    def _stop(self, topic: str) -> None:
        task, stopped = self._running.pop(topic, (None, None))
        if task is not None and stopped is not None:
            stopped.set()
            task.cancel()

    async def _follow(self, plan: Plan, asked: Subscribe, stopped: threading.Event) -> None:
        """Tell of each moment of a run; it does not run ahead of who listens."""
        found = moments(plan, asked, stopped.is_set)
        try:
            while (moment := await asyncio.to_thread(next, found, None)) is not None:
                await self._line.put(rpc.notice(asked.to, moment))
        except Refused as err:
            await self._line.put(rpc.notice(asked.to, {"problem": str(err), "done": True}))


def _bug(error: Exception) -> None:
    log.error("a method of the link failed", exc_info=error)


def greeting(link: Link) -> str:
    """The one line that says where it listens."""
    return json.dumps({"url": link.url, "token": link.token})
