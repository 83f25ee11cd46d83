"""A bundle: a project and all files that it needs in one, to be opened elsewhere to the same pixels. See FORMATS.

It is a zip archive: `piece.json` has the document with a format and a version, `schema.json` says what that may hold
(JSON Schema), `files/HASH` are the files by the SHA-256 of what is in them.
"""

import json
import re
import sqlite3
import zipfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..core.edits.base import sources_of, without_unused_holds
from ..core.edits.copying import copied
from ..core.errors import Refusal
from ..core.model import Document
from ..core.model.base import new_id
from ..core.send.whole import whole
from ..store.projects import State
from ..store.rows import write_shot
from .studio import Studio

FORMAT, VERSION = "nervykite bundle", 1
BUNDLE = ".kite.zip"
"""How the name of a bundle ends."""
HASH = re.compile(r"\b[0-9a-f]{64}\b")
BLOCK = 1 << 20
MOST_TEXT = 400_000_000
"""Bytes that a document may have."""
Upgrade = Callable[[dict[str, Any]], dict[str, Any]]
UPGRADES: dict[int, Upgrade] = {}
"""What makes a document of a version one of the next."""


def write_bundle(
    studio: Studio,
    document: Document,
    out: Path,
    unused: bool = True,
    progress: Callable[[float], None] = lambda share: None,
) -> None:
    """Writes a project to a bundle, with or without takes and things of the shelf that it does not use.

    Whatever happens, `out` is as it was before or complete. Raises Refusal.
    """
    given = document if unused else without_unused(document)
    told = {"format": FORMAT, "version": VERSION, "document": given.model_dump(mode="json")}
    text = json.dumps(told, ensure_ascii=False)
    paths = [p for h in sorted(set(HASH.findall(text))) if (p := studio.files.path(h)).is_file()]
    total, done = max(1, sum(p.stat().st_size for p in paths)), 0
    with whole(out) as part, zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
        archive.writestr("piece.json", text)
        archive.writestr("schema.json", json.dumps(Document.model_json_schema(), indent=1))
        for path in paths:
            # Films and pictures are packed already.
            entry = zipfile.ZipInfo(f"files/{path.name}", (2026, 1, 1, 0, 0, 0))
            with path.open("rb") as source, archive.open(entry, "w", force_zip64=True) as target:
                while block := source.read(BLOCK):
                    target.write(block)
                    done += len(block)
                    progress(done / total)


def without_unused(document: Document) -> Document:
    """A document without takes, holds, tracks and things of the shelf that nothing in ground and sky uses."""
    slim = without_unused_holds(document)
    project = slim.project
    shots = {s for source in sources_of(slim) if (s := source.footage(slim)) is not None}
    shots |= {h.shot for h in slim.holds.values()}
    pinned = {x.pin.track for x in project.layers if x.pin} | {g.steady.track for g in project.ground if g.steady}
    shots |= {slim.tracks[t].shot for t in pinned if t in slim.tracks}
    text = project.model_dump_json() + json.dumps([h.model_dump(mode="json") for h in slim.holds.values()])
    shots |= {k for k in slim.shots if k in text}
    assets = {k: a for k, a in slim.assets.items() if k in text or a.file in text}
    return slim.model_copy(
        update={
            "shots": {k: s for k, s in slim.shots.items() if k in shots},
            "assets": assets,
            "tracks": {k: t for k, t in slim.tracks.items() if k in pinned},
        }
    )


def read_bundle(studio: Studio, path: Path, name: str, progress: Callable[[float], None] = lambda share: None) -> State:
    """Opens a bundle as a project of its own. Raises Refusal, with a sentence about the file of that name."""
    try:
        with zipfile.ZipFile(path) as archive, ExitStack() as stack:
            document = _document(archive, name)
            wanted = set(HASH.findall(document.model_dump_json()))
            entries = {
                i.filename.removeprefix("files/"): i for i in archive.infolist() if i.filename.startswith("files/")
            }
            needed = [entries[h] for h in sorted(wanted) if h in entries]
            studio.room_for(sum(i.file_size for i in needed), name)
            total, done = max(1, sum(i.file_size for i in needed)), 0
            for entry in needed:
                for size in _kept(studio, archive, entry, name, stack):
                    done += size
                    progress(min(1.0, done / total))
            for shot in document.shots.values():
                for file in (shot.file, shot.proxy_file, shot.sound_file):
                    if file is not None and not studio.files.path(file).is_file():
                        raise Refusal(f"{name} is not whole: the footage of {shot.name} is missing from it.")
            fresh = copied(document, studio.projects.named(document.project.name))

            def shots_first(connection: sqlite3.Connection) -> None:
                for shot in fresh.shots.values():
                    write_shot(connection, shot)

            return studio.projects.create(fresh, shots_first)
    except zipfile.BadZipFile as error:
        raise Refusal(f"{name} is not a bundle, or only half of one. Choose a whole one.") from error
    except OSError as error:
        raise Refusal(f"{name} cannot be read: {error.strerror or error}.") from error


def _document(archive: zipfile.ZipFile, name: str) -> Document:
    try:
        entry = archive.getinfo("piece.json")
    except KeyError as error:
        raise Refusal(f"{name} is an archive, but not a bundle of a piece.") from error
    if entry.file_size > MOST_TEXT:
        raise Refusal(f"{name} says more of its piece than can be read.")
    try:
        told = json.loads(archive.read(entry))
        if not isinstance(told, dict) or told.get("format") != FORMAT:
            raise Refusal(f"{name} is an archive, but not a bundle of a piece.")
        version, given = told.get("version"), told.get("document")
        if not isinstance(version, int) or not isinstance(given, dict):
            raise Refusal(f"{name} does not say of which version it is.")
        if version > VERSION:
            raise Refusal(f"{name} was made by a newer version. Open it with that, or bring this one up to date.")
        while version < VERSION:
            if version not in UPGRADES:
                raise Refusal(f"{name} is of version {version}, which cannot be read any more.")
            given, version = UPGRADES[version](given), version + 1
        return _renewed(Document.model_validate(given))
    except (ValueError, ValidationError) as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal(f"{name} is damaged: what it says of its piece makes no sense.") from error


def _renewed(document: Document) -> Document:
    """The document with ids of its own for its shots: the same may be here already, in another project."""
    text = document.model_dump_json()
    for shot in document.shots:
        text = text.replace(f'"{shot}"', f'"{new_id()}"')
    return Document.model_validate_json(text)


def _kept(
    studio: Studio, archive: zipfile.ZipFile, entry: zipfile.ZipInfo, name: str, stack: ExitStack
) -> Iterator[int]:
    """Keeps a file of a bundle; tells the sizes of what is done."""
    wanted = entry.filename.removeprefix("files/")
    with studio.files.incoming() as out, archive.open(entry) as source:
        while block := source.read(BLOCK):
            out.write(block)
            yield len(block)
        if studio.files.keep(out, stack) != wanted:
            raise Refusal(f"{name} is damaged: a file in it is not what it was. Copy it again.")
