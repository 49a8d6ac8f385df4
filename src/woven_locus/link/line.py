"""What waits to be sent to one client, bounded in bytes."""

from __future__ import annotations

import asyncio
from collections import deque

# Bytes that may wait for a client who does not read.
MOST_BYTES = 8 << 20


class Line:
    """Texts in order, for one who takes them. What nobody asked for is refused when too much waits; whoever answers waits
    for room."""

    def __init__(self, most: int = MOST_BYTES) -> None:
        self._texts: deque[str] = deque()
        self._most, self._bytes = most, 0
        self._some, self._room = asyncio.Event(), asyncio.Event()
        self._room.set()

    def put_now(self, text: str) -> bool:
        """Whether there was room."""
        if self._bytes >= self._most:
            return False
        self._texts.append(text)
        self._bytes += len(text)
        self._some.set()
        if self._bytes >= self._most:
            self._room.clear()
        return True

    async def put(self, text: str) -> None:
        """Wait for room first."""
        while not self.put_now(text):
            await self._room.wait()

    async def get(self) -> str:
        """The next one, once there is one."""
        while not self._texts:
            self._some.clear()
            await self._some.wait()
        text = self._texts.popleft()
        self._bytes -= len(text)
        if self._bytes < self._most:
            self._room.set()
        return text

    @property
    def empty(self) -> bool:
        """Whether nothing waits."""
        return not self._texts
