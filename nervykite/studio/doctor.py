"""Looks at a data folder and at the program itself: what is well, what is not, what was mended, what to do."""

import hashlib
import shutil
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import av

from ..core.common.errors import Refusal
from ..core.see.matte import networks
from ..store.projects import Unreadable
from .claim import Claim
from .studio import SPARE, Studio

State = Literal["well", "mended", "trouble"]
DECODED = ("h264", "hevc", "av1", "vp9", "prores", "mjpeg", "aac")
ENCODED = ("libx264", "aac", "mjpeg", "png")


@dataclass(frozen=True)
class Finding:
    """The result of one look: how it is, and a sentence about it."""

    what: str
    state: State
    sentence: str


def examine(folder: Path, page: Path, thorough: bool = False) -> Iterator[Finding]:
    """Everything there is to look at, one after the other.

    folder: the data folder, in which is mended what can be unless a server is using it; page: the folder of the built
    page; thorough: whether every stored file is read and held against its hash. Raises Refusal if the folder cannot be
    used at all.
    """
    studio = Studio(folder)
    try:
        claim: Claim | None = Claim(folder)
    except Refusal:
        claim = None
        yield Finding("server", "well", "A server is using this folder, so nothing is mended now.")
    try:
        looks: list[Callable[[], Iterator[Finding]]] = [
            lambda: _disk(folder), lambda: _database(studio), lambda: _projects(studio),
            lambda: _files(studio, thorough), lambda: _left_over(studio, claim is not None), _codecs, _networks,
            lambda: _page(page),
        ]  # fmt: skip
        for look in looks:
            try:
                yield from look()
            except Exception as error:
                yield Finding("examination", "trouble", f"It could not be finished: {error}.")
    finally:
        studio.close()
        if claim is not None:
            claim.release()


def _disk(folder: Path) -> Iterator[Finding]:
    free = shutil.disk_usage(folder).free
    if free < 5 * SPARE:
        yield Finding("disk", "trouble", f"Only {free / 1e9:.1f} GB of the disk are free. Make room on it.")
    else:
        yield Finding("disk", "well", f"{free / 1e9:.0f} GB are free.")


def _database(studio: Studio) -> Iterator[Finding]:
    with studio.database.reading() as connection:
        whole = [row[0] for row in connection.execute("PRAGMA integrity_check").fetchall()]
        dangling = connection.execute("PRAGMA foreign_key_check").fetchall()
    if whole != ["ok"]:
        advice = "Make a copy of the folder, and bring back nervykite.sqlite from a backup."
        yield Finding("database", "trouble", f"It is damaged ({whole[0]}). {advice}")
    elif dangling:
        tables = ", ".join(sorted({row[0] for row in dangling}))
        yield Finding("database", "trouble", f"Rows of {tables} refer to what is not there. Bring back a backup of it.")
    else:
        yield Finding("database", "well", "It is whole.")


def _projects(studio: Studio) -> Iterator[Finding]:
    entries = studio.projects.list()
    unreadable = []
    for entry in entries:
        try:
            studio.evaluation(studio.state(entry.id)).at(0)
        except Unreadable:
            unreadable.append(entry.name)
        except Exception as error:
            unreadable.append(f"{entry.name} ({error})")
    for name in unreadable:
        yield Finding(
            "projects", "trouble", f"{name} cannot be shown. Open it on the page, and take back its last steps."
        )
    if not unreadable:
        yield Finding("projects", "well", f"{len(entries)} can be shown.")


def _files(studio: Studio, thorough: bool) -> Iterator[Finding]:
    missing = set(studio.files.missing())
    with studio.database.reading() as connection:
        hashes = [hash_ for (hash_,) in connection.execute("SELECT hash FROM files")]
        names = {
            file: row["name"]
            for row in connection.execute("SELECT name, file, proxy_file, sound_file FROM shots")
            for file in (row["file"], row["proxy_file"], row["sound_file"])
        }
    if thorough:
        missing |= {h for h in hashes if h not in missing and _hash(studio.files.path(h)) != h}
    for hash_ in sorted(missing):
        whose = f"of {names[hash_]} " if hash_ in names else ""
        yield Finding("files", "trouble", f"A file {whose}is gone or damaged. Import it again, or bring back a backup.")
    if not missing:
        yield Finding("files", "well", f"{len(hashes)} are there{' and unchanged' if thorough else ''}.")


def _hash(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _left_over(studio: Studio, mends: bool) -> Iterator[Finding]:
    if not mends:
        return
    studio.recover()
    given = studio.tidy()
    if given.files:
        yield Finding(
            "room", "mended", f"{given.files} files that nobody needs were removed, {given.bytes / 1e6:.1f} MB."
        )
    else:
        yield Finding("room", "well", "Nothing is left over.")


def _codecs() -> Iterator[Finding]:
    lacking = [f"reading {name}" for name in DECODED if not _has(name, "r")]
    lacking += [f"writing {name}" for name in ENCODED if not _has(name, "w")]
    if lacking:
        yield Finding("codecs", "trouble", f"There is nothing for {', '.join(lacking)}. Run “make setup” again.")
    else:
        yield Finding("codecs", "well", "All are there.")


def _has(name: str, mode: Literal["r", "w"]) -> bool:
    try:
        av.codec.Codec(name, mode)
    except ValueError:
        return False
    return True


def _networks() -> Iterator[Finding]:
    try:
        networks.load()
    except Refusal as refusal:
        yield Finding("networks", "trouble", str(refusal))
    else:
        yield Finding("networks", "well", "Those that find people can be asked.")


def _page(page: Path) -> Iterator[Finding]:
    if not (page / "index.html").is_file():
        yield Finding("page", "trouble", "It has not been built. Run “make setup”.")
    elif not list(page.glob("assets/*.woff2")):
        yield Finding("page", "trouble", "Its fonts are not there. Remove the built page, and run “make setup” again.")
    else:
        yield Finding("page", "well", "It is built, and its fonts are there.")
