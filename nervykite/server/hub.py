"""News for the open pages: a project changed, a job went on."""

import asyncio

from .messages import News

MOST = 500
"""How much news waits for a page at most."""


class Hub:
    """Hands messages to everyone who listens to a project; may be called from any thread."""

    def __init__(self) -> None:
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listeners: dict[str, set[asyncio.Queue]] = {}

    def start(self) -> None:
        """Remembers the running loop."""
        self._loop = asyncio.get_running_loop()

    def listen(self, project: str) -> asyncio.Queue:
        """A queue that gets the project's messages; give it back with `leave`."""
        queue: asyncio.Queue = asyncio.Queue(MOST)
        self._listeners.setdefault(project, set()).add(queue)
        return queue

    def leave(self, project: str, queue: asyncio.Queue) -> None:
        """Ends a listener."""
        self._listeners.get(project, set()).discard(queue)

    def tell(self, project: str, message: News) -> None:
        """Sends a message to all who listen."""
        if self._loop is None or self._loop.is_closed():
            return

        def deliver() -> None:
            for queue in self._listeners.get(project, ()):
                if queue.full():  # a page that takes nothing in; what is newer says more
                    queue.get_nowait()
                queue.put_nowait(message)

        self._loop.call_soon_threadsafe(deliver)
