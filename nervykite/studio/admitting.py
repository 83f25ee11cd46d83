"""The way in for documents from outside: what their files are is looked at before a project is made of them."""

from pathlib import Path

from ..core.common.apart import Report
from ..core.common.errors import Refusal
from ..core.craft.lettering.own_fonts import read_font
from ..core.piece.model import Asset, Document, Shot
from ..core.see.footage.cube_lut import read_table
from ..core.see.footage.glimpse import glimpse
from ..core.see.footage.proxy import pictures_in
from . import recipe_files, stored
from .studio import Studio


def admit(studio: Studio, document: Document, name: str, report: Report) -> None:
    """Looks at all files that a document refers to. Raises Refusal, with a sentence, if one is missing or another sort.

    name: of the file that the document came in; report: is told that it goes on, and may raise
    """
    for shot in document.shots.values():
        _admit_shot(studio, shot, name, report)
    for asset in document.assets.values():
        path = _there(studio, asset.file, asset.name, name)
        if not _fits(studio, asset, path, report):
            raise Refusal(f"{name} is damaged: {asset.name} is no {asset.kind}. Copy it again.")
    for picture in stored.wanted(None, document):
        stored.check(studio.files.path(picture.file), picture)


def _there(studio: Studio, file: str, called: str, name: str) -> Path:
    try:
        path = studio.files.path(file)
    except ValueError as error:
        raise Refusal(f"{name} is damaged: it does not say which file is that of {called}.") from error
    if not path.is_file():
        raise Refusal(f"{name} is not whole: {called} is missing from it.")
    return path


def _admit_shot(studio: Studio, shot: Shot, name: str, report: Report) -> None:
    footage = f"the footage of {shot.name}"
    path, proxy = (_there(studio, file, footage, name) for file in (shot.file, shot.proxy_file))
    if not studio.apart.call(glimpse, path, name=name, report=report).pictures:
        raise Refusal(f"{name} is damaged: the footage of {shot.name} holds no pictures. Copy it again.")
    if studio.apart.call(pictures_in, proxy, name=name, report=report) != shot.frames:
        raise Refusal(f"{name} is damaged: {shot.name} is said to have other frames than it has. Copy it again.")
    if shot.sound_file is not None and not stored.is_sound(_there(studio, shot.sound_file, footage, name)):
        raise Refusal(f"{name} is damaged: the sound of {shot.name} is none. Copy it again.")


def _fits(studio: Studio, asset: Asset, path: Path, report: Report) -> bool:
    """Checks that a file is what it is taken for. Raises Refusal if it is broken."""
    match asset.kind:
        case "picture":
            return stored.is_picture(path)
        case "sound":
            return stored.is_sound(path)
        case "table":
            studio.apart.call(read_table, path, asset.name, name=asset.name, report=report)
        case "font":
            studio.apart.call(read_font, path, asset.name, name=asset.name, report=report)
        case "recipe":
            recipe_files.read(studio, asset.file, asset.name)
    return True
