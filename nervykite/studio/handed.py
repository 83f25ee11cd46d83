"""Opening what was handed on: a bundle, or a timeline with the files that it names."""

import zipfile
from pathlib import Path

from ..core.common.errors import Refusal
from ..core.common.told import bounded
from ..core.tell.bundled import BROKEN, MOST_FILES, PIECE, TEXT, check_packed
from .bundle import read_bundle
from .studio import Studio
from .timelines import import_timeline

CONTENT, MEDIA = "content.otio", "media"
"""What a packed timeline calls itself and the folder of its files, after OpenTimelineIO's .otioz."""


def open_handed(studio: Studio, path: Path, name: str, only: Path | None = None) -> tuple[str, list[str]]:
    """Opens a file as a project of its own. Raises Refusal, with a sentence about the file of that name.

    only: the folder in which files may lie that a timeline names, anywhere if that is None
    Returns the project's id, and sentences about what was not taken over: none of a bundle, nor of a timeline that was
    collected here, as the piece itself is in both.
    """
    try:
        if not zipfile.is_zipfile(path) and Path(name).suffix.lower() == ".otio":
            return import_timeline(studio, path, name, only)
        if zipfile.is_zipfile(path):
            with zipfile.ZipFile(path) as archive:
                there = set(archive.namelist())
                if CONTENT in there and PIECE not in there:
                    return _packed(studio, archive, name)
    except BROKEN as error:
        raise Refusal(f"{name} is damaged: a file in it cannot be unpacked. Copy it again.") from error
    except OSError as error:
        raise Refusal(f"{name} cannot be read: {error.strerror or error}.") from error
    return read_bundle(studio, path, name).document.project.id, []


def _packed(studio: Studio, archive: zipfile.ZipFile, name: str) -> tuple[str, list[str]]:
    """A timeline of another program, with the files that lie in it."""
    media = [e for e in archive.infolist() if Path(e.filename).parent == Path(MEDIA) and not e.is_dir()]
    if len(media) > MOST_FILES:
        raise Refusal(f"{name} holds more than {MOST_FILES} files. Collect it in parts.")
    for entry in (archive.getinfo(CONTENT), *media):
        check_packed(entry, name)
    studio.room_for(2 * sum(e.file_size for e in media), name)
    with studio.files.scratch() as folder:
        timeline = folder / CONTENT
        with archive.open(CONTENT) as source:
            timeline.write_bytes(bounded(source.read, TEXT, name))
        for entry in media:
            archive.extract(entry, folder)
        return import_timeline(studio, timeline, name, folder)
