"""A bundle: a project and all files that it needs in one, to be opened elsewhere to the same pixels. See FORMATS.

It is a zip archive: `piece.json` has the document with a format and a version, `schema.json` says what that may hold
(JSON Schema), `files/HASH` are the files by the SHA-256 of what is in them.
"""

import json
import sqlite3
import zipfile
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path

from ..core.change.edits.base import sources_of, without_unused_holds
from ..core.change.edits.copying import copied
from ..core.common.errors import Refusal
from ..core.draw.send.atomic_files import whole
from ..core.piece.model import Document
from ..core.tell.bundled import BROKEN, FORMAT, HASH, PIECE, VERSION, contents
from ..store.projects import State
from ..store.rows import write_shot
from .admitting import admit
from .studio import Studio

BUNDLE = ".kite.zip"
"""How the name of a bundle ends."""
BLOCK = 1 << 20


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
    with whole(out) as part, zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:
        put_piece(studio, archive, document if unused else without_unused(document), {}, progress)


def put_piece(
    studio: Studio,
    archive: zipfile.ZipFile,
    document: Document,
    places: dict[str, str],
    progress: Callable[[float], None] = lambda share: None,
) -> None:
    """Puts a document and the files that it names into an archive, so that this can be opened as a bundle.

    places: the names of files that are in the archive already, by their hashes
    """
    told = {"format": FORMAT, "version": VERSION, "document": document.model_dump(mode="json"), "places": places}
    text = json.dumps(told, ensure_ascii=False)
    named = sorted(set(HASH.findall(text)) - places.keys())
    paths = [p for h in named if (p := studio.files.path(h)).is_file()]
    total, done = max(1, sum(p.stat().st_size for p in paths)), 0
    archive.writestr(PIECE, text)
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
    if not zipfile.is_zipfile(path):  # no process is begun for what is plainly none
        raise Refusal(f"{name} is not a bundle, or only half of one. Choose a whole one.")
    found = studio.apart.call(contents, path, name, name=name, report=lambda share: progress(0.0))
    studio.room_for(sum(found.sizes.values()), name)
    try:
        with zipfile.ZipFile(path) as archive, ExitStack() as stack:
            total, done = max(1, sum(found.sizes.values())), 0
            for hash_, place in found.places.items():
                for size in _kept(studio, archive, place, hash_, name, stack):
                    done += size
                    progress(min(1.0, done / total))
            admit(studio, found.document, name, progress)
            fresh = copied(found.document, studio.projects.named(found.document.project.name))

            def shots_first(connection: sqlite3.Connection) -> None:
                for shot in fresh.shots.values():
                    write_shot(connection, shot)

            return studio.projects.create(fresh, shots_first)
    except BROKEN as error:
        raise Refusal(f"{name} is damaged: a file in it cannot be unpacked. Copy it again.") from error
    except OSError as error:
        raise Refusal(f"{name} cannot be read: {error.strerror or error}.") from error


def _kept(
    studio: Studio, archive: zipfile.ZipFile, place: str, hash_: str, name: str, stack: ExitStack
) -> Iterator[int]:
    """Keeps a file of a bundle; tells the sizes of what is done."""
    with studio.files.incoming() as out, archive.open(place) as source:
        while block := source.read(BLOCK):
            out.write(block)
            yield len(block)
        if studio.files.keep(out, stack) != hash_:
            raise Refusal(f"{name} is damaged: a file in it is not what it was. Copy it again.")
