"""The contents of a bundle's file: looked at from end to end before anything of it is taken over.

A zip archive is small where it says that it is large: how much it says, of how many files, and how tightly packed, is
known before any of it is unpacked. To be called apart, see `core/common/apart`.
"""

import re
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..change.edits.copying import copied
from ..common.errors import Refusal
from ..common.told import Most, bounded, told
from ..piece.model import Document
from ..piece.model.base import new_id
from ..piece.model.kinds import fault
from .shown import laid_out

FORMAT, VERSION = "nervykite bundle", 1
PIECE = "piece.json"
"""What the document is called in a bundle."""
PLACES = TypeAdapter(dict[str, str])
HASH = re.compile(r"\b[0-9a-f]{64}\b")
TEXT = Most(size=64 << 20, parts=5_000_000)
"""What a document may say: an hour of strokes, tracks and travelled mattes is some megabytes."""
MOST_FILES = 20_000
"""How many files a bundle has at most."""
TIGHTEST = 200
"""How many times as large a file may be as it is packed; its first megabyte is free."""
PACKED = {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED}
Upgrade = Callable[[dict[str, Any]], dict[str, Any]]
UPGRADES: dict[int, Upgrade] = {}
"""What makes a document of a version one of the next."""
BROKEN = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, UnicodeDecodeError)
"""How reading a damaged archive fails."""


@dataclass(frozen=True)
class Contents:
    """The document of a bundle, and its files, by their hashes: those that the document names.

    sizes: in bytes; places: their names in the archive
    """

    document: Document
    sizes: dict[str, int]
    places: dict[str, str]


def contents(path: Path, name: str) -> Contents:
    """The contents of a bundle's file. Raises Refusal, with a sentence about the file of that name, if it is none or
    broken.

    How files are packed is known afterwards, and not yet whether they are what they are said to be.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            entries = archive.infolist()
            if len(entries) > MOST_FILES:
                raise Refusal(f"{name} holds more than {MOST_FILES} files. A bundle has some of each take.")
            for entry in entries:
                check_packed(entry, name)
            document, elsewhere = _piece(archive, name)
            sizes = {e.filename: e.file_size for e in entries}
            places = {h: elsewhere.get(h, f"files/{h}") for h in set(HASH.findall(document.model_dump_json()))}
            there = {h: places[h] for h in sorted(places) if places[h] in sizes}
            return Contents(document, {h: sizes[place] for h, place in there.items()}, there)
    except BROKEN as error:
        raise Refusal(f"{name} is not a bundle, or only half of one. Choose a whole one.") from error
    except OSError as error:
        raise Refusal(f"{name} cannot be read: {error.strerror or error}.") from error


def check_packed(entry: zipfile.ZipInfo, name: str) -> None:
    """Raises Refusal if a file is packed in a way that is not unpacked here."""
    if entry.flag_bits & 1:
        raise Refusal(f"{name} is locked with a password. Pack it again without one.")
    if entry.compress_type not in PACKED:
        raise Refusal(f"{name} is packed in a way that is not read here. Pack it again as a plain zip archive.")
    if entry.file_size > (1 << 20) + TIGHTEST * entry.compress_size:
        raise Refusal(f"{name} says more than it can mean: it is damaged, or was made to do harm. Get it anew.")


def _piece(archive: zipfile.ZipFile, name: str) -> tuple[Document, dict[str, str]]:
    """The document of an archive, and the names of those files in it that are not called by their hashes."""
    try:
        entry = archive.open(PIECE)
    except KeyError as error:
        raise Refusal(f"{name} is an archive, but not a bundle of a piece.") from error
    with entry:
        said = told(bounded(entry.read, TEXT, name), name)
    if said.get("format") != FORMAT:
        raise Refusal(f"{name} is an archive, but not a bundle of a piece.")
    version, given = said.get("version"), said.get("document")
    if not isinstance(version, int) or not isinstance(given, dict):
        raise Refusal(f"{name} does not say of which version it is.")
    if version > VERSION:
        raise Refusal(f"{name} was made by a newer version. Open it with that, or bring this one up to date.")
    while version < VERSION:
        if version not in UPGRADES:
            raise Refusal(f"{name} is of version {version}, which cannot be read any more.")
        given, version = UPGRADES[version](given), version + 1
    try:
        document = _renewed(Document.model_validate(given))
        laid_out(copied(document, document.project.name))
        return document, PLACES.validate_python(said.get("places", {}))
    except ValidationError as error:
        sentence = f"{name} is damaged: what it says of its piece makes no sense ({fault(error)})."
        raise Refusal(sentence) from error
    except (Refusal, MemoryError):
        raise
    except Exception as error:  # what refers to nothing fails wherever it is looked for
        raise Refusal(f"{name} is damaged: what it says of its piece does not hang together.") from error


def _renewed(document: Document) -> Document:
    """The document with ids of its own for its shots: the same may be here already, in another project."""
    text = document.model_dump_json()
    for shot in document.shots:
        text = text.replace(f'"{shot}"', f'"{new_id()}"')
    return Document.model_validate_json(text)
