"""Servers that share a process: what takes long to load (kernels, networks) is loaded once for all tests of a worker.

Each has a data folder of its own and is the whole program. Run as a program it reads `[folder, port]` or `null`, in
JSON, line by line. For a folder it answers once the server does, for null once the one that ran has ended.
"""

import json
import subprocess
import sys
import threading
import time
from pathlib import Path

ROOT = Path(__file__).parents[2]


class House:
    """The process in which servers run, one after the other."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.journeys.house"],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT,
        )  # fmt: skip

    def serve(self, folder: Path, port: int) -> None:
        """Has a data folder served; ends the server that runs, if one does."""
        self._ask([str(folder), port])

    def rest(self) -> None:
        """Ends the server that runs."""
        self._ask(None)

    @property
    def size(self) -> int:
        """Bytes of memory that the process takes."""
        return 4096 * int(Path(f"/proc/{self._process.pid}/statm").read_text().split()[1])

    def close(self) -> None:
        """Ends the process."""
        self._process.kill()
        self._process.wait()

    def _ask(self, what: list[str | int] | None) -> None:
        assert self._process.stdin
        assert self._process.stdout
        self._process.stdin.write(json.dumps(what) + "\n")
        self._process.stdin.flush()
        answer = self._process.stdout.readline().strip()
        assert answer == "yes", answer or "the servers' process has ended"


def main() -> None:
    """Serves as it is asked to."""
    from nervykite.server.listening import Listening

    answers, sys.stdout = sys.stdout, sys.stderr
    server: Listening | None = None
    thread: threading.Thread | None = None
    for line in sys.stdin:
        if server and thread:
            server.end()
            thread.join()
            server.close()
            server = None
        if what := json.loads(line):
            server = Listening(Path(what[0]), what[1], watches=False)
            thread = threading.Thread(target=server.run)
            thread.start()
            while thread.is_alive() and not server.answers:
                time.sleep(0.01)
        print("yes", file=answers, flush=True)


if __name__ == "__main__":
    main()
