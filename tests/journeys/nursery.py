"""Servers that start at once: processes forked from one that has the program loaded already.

Run as a program it reads `[arguments]` or a process id, in JSON, line by line. For arguments it forks, runs the command
line in the child, and prints the child's id; for an id it waits until that process has ended.
"""

import json
import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


class Nursery:
    """The process that is forked."""

    def __init__(self) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.journeys.nursery"],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT,
        )  # fmt: skip

    def start(self, arguments: list[str]) -> int:
        """Starts the program; its process id."""
        return self._ask(arguments)

    def wait(self, process: int) -> None:
        """Waits until one that was killed is gone."""
        self._ask(process)

    def close(self) -> None:
        """Ends it."""
        assert self._process.stdin
        self._process.stdin.close()
        self._process.wait()

    def _ask(self, what: list[str] | int) -> int:
        assert self._process.stdin
        assert self._process.stdout
        self._process.stdin.write(json.dumps(what) + "\n")
        self._process.stdin.flush()
        return int(self._process.stdout.readline())


def serve() -> None:
    """Forks as it is asked to."""
    import nervykite.server.app  # noqa: F401 what takes long to load
    from nervykite.cli import main

    for line in sys.stdin:
        what = json.loads(line)
        if isinstance(what, int):
            os.waitpid(what, 0)
            print(what, flush=True)
        elif child := os.fork():
            print(child, flush=True)
        else:
            nowhere = os.open(os.devnull, os.O_RDWR)
            os.dup2(nowhere, 0)
            os.dup2(nowhere, 1)
            os._exit(main(what))


if __name__ == "__main__":
    serve()
