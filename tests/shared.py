"""What is made once a run and used by all workers, and copies of it that cost next to nothing."""

import fcntl
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from tempfile import mkdtemp

import pytest


def made_once(factory: pytest.TempPathFactory, name: str, make: Callable[[Path], object]) -> Path:
    """A folder that the first worker to need it makes, in a run; the others wait until it is there.

    factory: the fixture `tmp_path_factory`; make: fills the empty folder that it is given. Nobody may write to it
    afterwards, see `own_copy`.
    """
    root = factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        root = root.parent
    folder = root / f"shared-{name}"
    with (root / f"shared-{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.is_dir():
            part = Path(mkdtemp(dir=root))
            make(part)
            part.rename(folder)
    return folder


def own_copy(folder: Path, to: Path) -> Path:
    """A data folder to work with, like another: what is stored by its content, and so never written to, is shared."""

    def taken(source: str, target: str) -> None:
        if "/files/" in source:
            os.link(source, target)
        else:
            shutil.copy2(source, target)

    return Path(shutil.copytree(folder, to, copy_function=taken))
