"""A server of a data folder, from the claim on the folder to the last connection."""

from pathlib import Path

import uvicorn

from ..core.common.errors import Refusal
from ..studio import Studio
from ..studio.claim import Claim
from .app import create_app


class Listening:
    """The application over a data folder, listening on loopback; `run` answers until it is told to `end`.

    folder: the data folder; port: 0 for any that is free; watches: see `Studio`. Raises Refusal if the folder is
    served already or the port is taken.
    """

    def __init__(self, folder: Path, port: int, watches: bool = True) -> None:
        self._studio = Studio(folder, watches)
        try:
            self._claim = Claim(folder)
        except Refusal:
            self._studio.close()
            raise
        config = uvicorn.Config(
            create_app(self._studio), host="127.0.0.1", port=port, log_level="warning",
            ws_per_message_deflate=False, ws_max_size=1 << 24,
        )  # fmt: skip
        try:
            self._socket = config.bind_socket()
        except SystemExit as error:
            self.close()
            raise Refusal(f"Port {port} is taken. Give another with --port.") from error
        self._server = uvicorn.Server(config)

    @property
    def address(self) -> str:
        """Where the page is."""
        return f"http://127.0.0.1:{self._socket.getsockname()[1]}/"

    def run(self) -> None:
        """Answers, until it is told to end or the program is."""
        self._server.run(sockets=[self._socket])

    @property
    def answers(self) -> bool:
        """True if it has begun to answer."""
        return self._server.started

    def end(self) -> None:
        """Has `run` come back; may be called from any thread."""
        self._server.should_exit = True

    def close(self) -> None:
        """Lets the folder go."""
        self._studio.close()
        self._claim.release()

    def __enter__(self) -> "Listening":
        return self

    def __exit__(self, *_trouble: object) -> None:
        self.close()
