"""Recipes as files, and on the shelf: saved from layers, read in, handed out. See FORMATS.

A recipe's file is JSON with a format and a version, what it makes, a small picture, and all files of the shelf that it
is made with.
"""

import base64
import binascii
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from pydantic import ValidationError

from ..core.change.edits import AddAsset
from ..core.change.recipes.saving import saved
from ..core.common.errors import Refusal
from ..core.common.told import Most, bounded, told
from ..core.draw.picture.canvas import Canvas
from ..core.draw.picture.evaluate import Evaluation
from ..core.piece.model import Asset, Document
from ..core.piece.model.base import new_id
from ..core.piece.model.kinds import fault
from ..core.piece.model.saved import Saved
from ..core.piece.timeline.timeline import Timeline
from ..core.see.footage.planes import to_bgr
from ..store.projects import State
from .studio import Studio

FORMAT, VERSION = "nervykite recipe", 1
MOST = Most(size=60_000_000, parts=400_000)
"""What a recipe's file may say: most of it are pictures and sounds, each of them one value."""
HIGH = 320
"""How many pixels the longer side of its picture has."""


def is_recipe(head: bytes, name: str) -> bool:
    """True if a file seems to be a recipe, by its first bytes and its name."""
    return name.lower().endswith(".json") or (head.lstrip()[:1] == b"{" and FORMAT.encode() in head)


def save(
    studio: Studio, project: str, layers: Sequence[str], name: str, asks: bool = True, clothes: bool = False
) -> tuple[Asset, State]:
    """Puts some layers of a project on its shelf, as a recipe. Raises Refusal with what cannot be kept of them."""
    document = studio.state(project).document
    made = saved(document, layers, name, asks, clothes)
    packed = _told(made, _picture(studio, document, layers), {a.file: studio.files.path(a.file) for a in made.assets})
    if len(packed) > MOST.size:
        raise Refusal("The pictures and sounds of these layers are too large for a recipe. Leave some of them out.")
    return _on_the_shelf(studio, project, packed, name)


def import_recipe(studio: Studio, project: str, source: str, name: str) -> tuple[Asset, State]:
    """Puts a kept file of a recipe on a project's shelf. Raises Refusal with a sentence about it."""
    recipe = read(studio, source, name)
    asset = Asset(kind="recipe", name=recipe.name, file=source)
    return asset, studio.edit(project, AddAsset(asset=asset), None)


def read(studio: Studio, file: str, name: str = "That recipe") -> Saved:
    """A recipe by the hash of its file. Raises Refusal if it is none, broken, or newer than this."""
    said = _loaded(studio.files.path(file), name)
    version = said.get("version")
    if not isinstance(version, int) or version < 1:
        raise Refusal(f"{name} does not say of which version it is.")
    if version > VERSION:
        raise Refusal(f"{name} was made by a newer version. Bring this one up to date to use it.")
    try:
        return Saved.model_validate(said.get("recipe"))
    except ValidationError as error:
        raise Refusal(f"{name} is damaged: what it says makes no sense ({fault(error)}).") from error


def unpack(studio: Studio, file: str, name: str = "That recipe") -> Saved:
    """The same, with the files it is made with kept in the data folder. Raises Refusal if one is missing."""
    recipe, given = read(studio, file, name), _loaded(studio.files.path(file), name).get("files", {})
    for asset in recipe.assets:
        if studio.files.path(asset.file).is_file():
            continue
        try:
            data = base64.b64decode(given[asset.file], validate=True)
        except (KeyError, TypeError, binascii.Error) as error:
            raise Refusal(f"{name} is not whole: {asset.name} is missing from it.") from error
        with studio.files.incoming() as out:
            out.write(data)
            if studio.files.keep(out) != asset.file:
                raise Refusal(f"{name} is damaged: {asset.name} is not what it was.")
    return recipe


def picture(studio: Studio, file: str) -> bytes:
    """The small picture of a recipe, a WebP; of no bytes if it has none."""
    try:
        return base64.b64decode(_loaded(studio.files.path(file), "That recipe").get("picture") or "")
    except (TypeError, ValueError):
        return b""


def handed_out(studio: Studio, asset: Asset) -> bytes:
    """A recipe's file, under the name that it has on the shelf."""
    said = _loaded(studio.files.path(asset.file), asset.name)
    said["recipe"]["name"] = asset.name
    return _packed(said)


def _loaded(path: Path, name: str) -> dict[str, Any]:
    try:
        with path.open("rb") as file:
            said = told(bounded(file.read, MOST, name), name)
    except OSError as error:
        raise Refusal(f"{name} cannot be read as a recipe: {error.strerror or error}.") from error
    if said.get("format") != FORMAT:
        raise Refusal(f"{name} is no recipe. A recipe's file says so in its first line.")
    return said


def _told(made: Saved, picture: bytes, files: dict[str, Path]) -> bytes:
    packed = {h: base64.b64encode(p.read_bytes()).decode() for h, p in files.items() if p.is_file()}
    return _packed(
        {
            "format": FORMAT, "version": VERSION, "recipe": made.model_dump(mode="json"),
            "picture": base64.b64encode(picture).decode(), "files": packed,
        }
    )  # fmt: skip


def _packed(said: dict[str, Any]) -> bytes:
    return json.dumps(said, ensure_ascii=False, indent=1).encode()


def _on_the_shelf(studio: Studio, project: str, packed: bytes, name: str) -> tuple[Asset, State]:
    with studio.files.incoming() as out:
        out.write(packed)
        kept = studio.files.keep(out)
    asset = Asset(id=new_id(), kind="recipe", name=name, file=kept)
    return asset, studio.edit(project, AddAsset(asset=asset), None)


def _picture(studio: Studio, document: Document, layers: Sequence[str]) -> bytes:
    """The piece, small, in the middle of the time for which most of the layers are there: a WebP."""
    timeline, project = Timeline(document), document.project
    spans = [s for id_ in layers if (s := timeline.spans.get(id_)) is not None]
    middles = [(s.start + s.end) // 2 for s in spans]
    at = max(middles, key=lambda m: sum(s.start <= m < s.end for s in spans), default=0)
    scale = HIGH / max(project.width, project.height)
    size = tuple(max(16, 2 * round(side * scale / 2)) for side in (project.width, project.height))
    drawn = studio.renderer.render(Canvas(document, (size[0], size[1])), Evaluation(document, timeline).at(at))
    data = cv2.imencode(".webp", to_bgr(drawn), [cv2.IMWRITE_WEBP_QUALITY, 82])[1]
    return np.asarray(data).tobytes()
