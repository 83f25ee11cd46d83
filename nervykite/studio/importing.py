"""Files from outside into a project: videos become shots; all else comes to lie on the shelf."""

from codecs import BOM_UTF16_BE, BOM_UTF16_LE
from collections.abc import Callable
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ..core.change.edits import AddAsset, AddShot
from ..core.common.errors import Refusal
from ..core.craft.lettering.own_fonts import is_font, read_font
from ..core.draw.sound.wav import WavWriter
from ..core.piece.model import Asset, Shot
from ..core.piece.timeline.limits import MOST_HOURS
from ..core.see.footage import ingest
from ..core.see.footage.cube_lut import is_table, read_table
from ..core.see.footage.glimpse import glimpse
from ..core.see.footage.loose import PICTURES
from ..core.see.footage.opening import open_media
from ..core.see.footage.still import is_picture, read_still
from ..store.projects import State
from ..store.rows import write_shot
from .recipe_files import import_recipe, is_recipe
from .studio import Studio

Progress = Callable[[float], None]


def import_file(
    studio: Studio, project: str, source: str, name: str, progress: Progress = lambda share: None
) -> tuple[Shot | Asset, State]:
    """Takes a kept file into a project, whatever it is. Raises Refusal with a sentence if it cannot be read."""
    path = studio.files.path(source)
    with path.open("rb") as file:
        head = file.read(4096)
    if is_picture(head):
        return import_picture(studio, project, source, name, progress)
    if is_table(head, name):
        return import_table(studio, project, source, name, progress)
    if is_font(head):
        return import_font(studio, project, source, name, progress)
    if is_recipe(head, name):
        return import_recipe(studio, project, source, name)
    if head.startswith((BOM_UTF16_LE, BOM_UTF16_BE)) and "<svg" in head.decode("utf-16", "ignore"):
        raise Refusal(f"{name} is written in UTF-16. Save the SVG in UTF-8, as other programs read it.")
    if Path(name).suffix.lower() in PICTURES:
        raise Refusal(f"{name} cannot be read as a picture: it is damaged, or something else. Get it again.")
    seen = studio.apart.call(glimpse, path, name=name, report=progress)
    return (import_sound if seen.only_sound else import_shot)(studio, project, source, name, progress)


def _called(name: str, otherwise: str) -> str:
    return Path(name).stem[:120].strip() or otherwise


def import_picture(
    studio: Studio, project: str, source: str, name: str, progress: Progress = lambda share: None
) -> tuple[Asset, State]:
    """Puts a kept picture file on a project's shelf. Raises Refusal."""
    picture = studio.apart.call(read_still, studio.files.path(source), name, name=name, report=progress)
    height, width = picture.shape[:2]
    kept = studio.keep_picture(picture)
    asset = Asset(kind="picture", name=_called(name, "Picture"), file=kept, width=width, height=height)
    return asset, studio.edit(project, AddAsset(asset=asset), None)


def import_table(
    studio: Studio, project: str, source: str, name: str, progress: Progress = lambda share: None
) -> tuple[Asset, State]:
    """Puts a kept table of colours on a project's shelf. Raises Refusal."""
    table = studio.apart.call(read_table, studio.files.path(source), name, name=name, report=progress)
    high = table.size if table.sides == 3 else 1
    asset = Asset(kind="table", name=_called(name, "Table"), file=source, width=min(table.size, 32768), height=high)
    return asset, studio.edit(project, AddAsset(asset=asset), None)


def import_font(
    studio: Studio, project: str, source: str, name: str, progress: Progress = lambda share: None
) -> tuple[Asset, State]:
    """Puts a kept file of glyphs on a project's shelf, under the font's own name. Raises Refusal."""
    title = studio.apart.call(read_font, studio.files.path(source), name, name=name, report=progress)
    asset = Asset(kind="font", name=title or _called(name, "Font"), file=source)
    return asset, studio.edit(project, AddAsset(asset=asset), None)


def picture_as_shot(studio: Studio, project: str, asset: Asset) -> tuple[Shot, State]:
    """Makes a shot of one frame of a picture that is on the shelf, so that somebody can be cut out of it.

    What is see-through in it is black. Raises Refusal.
    """
    picture = studio.library.drawing(asset.file)
    flat = picture[..., :3] * (picture[..., 3:].astype(np.float32) / 255) if picture.shape[2] == 4 else picture
    even = np.round(flat[: flat.shape[0] // 2 * 2, : flat.shape[1] // 2 * 2]).astype(np.uint8)
    if min(even.shape[:2]) < ingest.MIN_SIDE:
        raise Refusal(f"{asset.name} is too small to carve: the least is {ingest.MIN_SIDE} pixels a side.")
    rate = studio.state(project).document.project.rate
    with studio.files.scratch() as folder:
        path = folder / "picture.mkv"
        with av.open(str(path), "w") as out:
            stream = out.add_stream("ffv1", rate=rate)
            stream.height, stream.width = even.shape[:2]
            stream.pix_fmt = "yuv444p"
            context = stream.codec_context  # BT.709, limited range: small pictures would be taken for BT.601
            context.colorspace = context.color_range = context.color_trc = context.color_primaries = 1
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(even), format="rgb24")
            frame = frame.reformat(format="yuv444p", dst_colorspace="ITU709", dst_color_range="MPEG")
            frame.pts, frame.time_base = 0, 1 / rate
            out.mux([*stream.encode(frame), *stream.encode()])
        return import_shot(studio, project, studio.keep_file(path), asset.name)


def import_sound(
    studio: Studio, project: str, source: str, name: str, progress: Progress = lambda share: None
) -> tuple[Asset, State]:
    """Puts a kept sound file on a project's shelf. Raises Refusal."""
    path = studio.files.path(source)
    with ExitStack() as stack, studio.files.incoming() as wav:
        sound, seconds = WavWriter(wav), Fraction(MOST_HOURS * 3600)
        for block in ingest.sound_of(path, first_sample(path), seconds):
            sound.write(block)
            progress(0.5)
        samples = sound.close()
        if not samples:
            raise Refusal(f"The sound of {name} cannot be read. Save it as WAV, MP3 or FLAC.")
        kept = studio.files.keep(wav, stack)
        progress(0.8)
        long = samples / ingest.SOUND_RATE
        asset = Asset(kind="sound", name=_called(name, "Sound"), file=kept, seconds=long, beats=studio.beats_in(kept))
        return asset, studio.edit(project, AddAsset(asset=asset), None)


def first_sample(path: Path) -> Fraction:
    """When the first sound is heard, in the file's own seconds."""
    try:
        with open_media(path) as file:
            frame = next(file.decode(file.streams.audio[0]))
            return Fraction(frame.pts or 0) * (frame.time_base or 0)
    except (av.FFmpegError, StopIteration):
        return Fraction(0)


def import_shot(
    studio: Studio, project: str, source: str, name: str, progress: Progress = lambda share: None
) -> tuple[Shot, State]:
    """Makes a shot of a kept video and adds it to a project. Raises Refusal with a sentence if it cannot be read."""
    path = studio.files.path(source)
    with ExitStack() as stack, studio.files.incoming() as proxy, studio.files.incoming() as wav:
        probe = ingest.ingest(path, name, proxy, progress)
        seconds = Fraction(probe.ticks[-1] * probe.tick)
        sound = WavWriter(wav)
        for block in ingest.sound_of(path, ingest.first_time(path), seconds):
            sound.write(block)
            progress(0.99)
        heard = sound.close() > 0
        proxy_file = studio.files.keep(proxy, stack)
        sound_file = studio.files.keep(wav, stack) if heard else None
        shot = Shot(
            name=Path(name).stem[:120].strip() or "Shot",
            file=source,
            width=probe.width,
            height=probe.height,
            rate=probe.rate,
            variable=probe.variable,
            tick=str(probe.tick),
            ticks=probe.ticks,
            colour=probe.colour,
            depth=probe.depth,
            rotation=probe.rotation,
            has_sound=heard,
            sound_file=sound_file,
            proxy_file=proxy_file,
            cuts=probe.cuts,
            note=probe.note,
        )
        state = studio.projects.edit(project, AddShot(shot=shot), None, lambda c: write_shot(c, shot))
    studio.watched.take_over(shot.id)  # what was seen of the same file elsewhere need not be looked at again
    return shot, state
