"""Timelines as OpenTimelineIO has them: a piece written for other editors, and what they say of one read in.

Lengths are in frames of the piece; where a clip begins in its footage is in that footage's own frames. What OTIO has no
words for goes along as metadata under "nervykite".
"""

import shutil
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlparse

import opentimelineio as otio

from ..core.change.edits import AddMoment, Edit, LayGround, RemoveGround, Several
from ..core.common.errors import Refusal
from ..core.draw.picture.evaluate import Evaluation
from ..core.draw.send.atomic_files import whole
from ..core.kinds.sources.plain_colour import ColourSource
from ..core.kinds.sources.shot_source import ShotSource
from ..core.kinds.sources.standstill import StandstillSource
from ..core.piece.model import Document, GroundItem, Layer, Shot
from ..core.piece.model.base import new_id
from .bundle import put_piece, without_unused
from .collected import OURS, Collecting
from .importing import import_file
from .studio import Studio

VERSION = 1
MOST_CLIPS = 2000


def timeline_of(studio: Studio, document: Document) -> otio.schema.Timeline:
    """A piece as a timeline: the ground, a track for each layer, a track for each sound; footage by where it lies."""
    timeline, project = Evaluation(document).timeline, document.project
    rate = float(project.rate)
    made = otio.schema.Timeline(project.name, global_start_time=otio.opentime.RationalTime(0, rate))
    made.metadata[OURS] = {
        "version": VERSION, "width": project.width, "height": project.height, "rate": str(project.rate),
        "background": project.background,
    }  # fmt: skip
    ground = otio.schema.Track("Ground", kind=otio.schema.TrackKind.Video)
    made.tracks.append(ground)
    for item in project.ground:
        if item.fade:
            offsets = otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(item.fade, rate)
            ground.append(otio.schema.Transition("Fade", otio.schema.TransitionTypes.SMPTE_Dissolve, *offsets))
        ground.append(_of_item(studio, document, item, timeline.tables[item.id].tolist(), rate))
    for layer in project.layers:
        span = timeline.spans[layer.id]
        if span is None or layer.source.gathers:
            continue
        first, past = max(0, span.start), min(timeline.length, span.end)
        if first < past:
            clip = _of_layer(studio, document, layer, past - first, rate)
            made.tracks.append(_track(layer.name, otio.schema.TrackKind.Video, first, clip, rate))
    assets = {a.file: a for a in document.assets.values()}
    for cue in project.cues:
        at = timeline.cue(cue)
        if at is None or at < 0:
            continue
        file = getattr(cue.sound, "file", None)
        media = _file(studio, assets[file].name, file) if file in assets else otio.schema.MissingReference()
        lasts = otio.opentime.TimeRange(
            otio.opentime.RationalTime(cue.skip * rate, rate),
            otio.opentime.RationalTime(round((cue.lasts or 1) * rate), rate),
        )
        clip = otio.schema.Clip(cue.name, media, lasts, metadata={OURS: {"cue": cue.model_dump(mode="json")}})
        made.tracks.append(_track(cue.name, otio.schema.TrackKind.Audio, at, clip, rate))
    return made


def write_timeline(
    studio: Studio, document: Document, out: Path, progress: Callable[[float], None] = lambda share: None
) -> None:
    """Writes a piece as an OpenTimelineIO file; by an ending of .otioz, or of .otiod as a folder, with all that it
    refers to, see `collected`. Raises Refusal.
    """
    made, ending = timeline_of(studio, document), out.suffix.lower()
    if ending == ".otiod" and out.exists():
        raise Refusal(f"{out.name} is there already. Choose another name.")
    with studio.files.scratch() as folder:
        if ending == ".otio":
            with whole(out) as part:
                otio.adapters.write_to_file(made, str(part))
            return
        (folder / "media").mkdir()
        collecting = Collecting(studio, document, folder / "media")
        collecting.collect(made, progress)
        if ending == ".otioz":
            with whole(out) as part:
                otio.adapters.write_to_file(made, str(part))
                # The piece itself lies beside it: opened here, it is a bundle, and comes back as it is.
                with zipfile.ZipFile(part, "a", zipfile.ZIP_DEFLATED) as archive:
                    places = {hash_: f"media/{name}" for hash_, name in collecting.files.items()}
                    put_piece(studio, archive, without_unused(document), places)
            return
        try:
            otio.adapters.write_to_file(made, str(folder / out.name))
            shutil.move(folder / out.name, out)
        except OSError as error:
            raise Refusal(f"{out.name} cannot be written: {error.strerror or error}. Choose another place.") from error


def _track(name: str, kind: str, first: int, clip: otio.schema.Clip, rate: float) -> otio.schema.Track:
    track = otio.schema.Track(name, kind=kind)
    if first:
        track.append(otio.schema.Gap(duration=otio.opentime.RationalTime(first, rate)))
    track.append(clip)
    return track


def _range(first: float, own: float, lasts: int, rate: float) -> otio.opentime.TimeRange:
    return otio.opentime.TimeRange(otio.opentime.RationalTime(first, own), otio.opentime.RationalTime(lasts, rate))


def _file(studio: Studio, name: str, hash_: str, available: otio.opentime.TimeRange | None = None):
    media = otio.schema.ExternalReference(studio.files.path(hash_).absolute().as_uri(), available)
    media.name = name
    media.metadata[OURS] = {"sha256": hash_}
    return media


def _footage(studio: Studio, shot: Shot):
    own = float(shot.rate)
    return _file(studio, shot.name, shot.file, _range(0, own, shot.frames, own))


def _of_item(studio: Studio, document: Document, item: GroundItem, table: list[int], rate: float) -> otio.schema.Clip:
    source = item.source
    told: dict[str, Any] = {OURS: {"item": item.model_dump(mode="json", exclude={"keys"})}}
    footage = source.footage(document)
    known = document.shots.get(str(footage or getattr(source, "shot", "")))
    if known is not None:
        own = float(known.rate)
        shown = _range(table[0], own, len(table), rate)
        clip = otio.schema.Clip(source.called(document), _footage(studio, known), shown, metadata=told)
        for moment in known.moments if footage else []:
            if moment.frame in table:
                at = _range(moment.frame, own, 0, own)
                clip.markers.append(otio.schema.Marker(moment.name or "Moment", at, otio.schema.MarkerColor.RED))
        if source.stands or footage is None:
            clip.effects.append(otio.schema.FreezeFrame("Standstill"))
        return clip
    colour = getattr(source, "colour", document.project.background)
    media = otio.schema.GeneratorReference("Colour", "SolidColor", parameters={"colour": colour})
    return otio.schema.Clip(source.called(document), media, _range(0, rate, len(table), rate), metadata=told)


def _of_layer(studio: Studio, document: Document, layer: Layer, lasts: int, rate: float) -> otio.schema.Clip:
    told = {OURS: {"layer": layer.model_dump(mode="json")}}
    moment = layer.source.moment(document)
    if moment is not None and moment[0] in document.shots:
        shot = document.shots[moment[0]]
        shown = _range(moment[1], float(shot.rate), lasts, rate)
        clip = otio.schema.Clip(layer.name, _footage(studio, shot), shown, metadata=told)
        if layer.source.still:
            clip.effects.append(otio.schema.FreezeFrame("Held"))
    else:
        clip = otio.schema.Clip(layer.name, otio.schema.MissingReference(), _range(0, rate, lasts, rate), metadata=told)
    for finish in layer.finishes:
        clip.effects.append(otio.schema.Effect(finish.kind, finish.kind, {OURS: finish.settings}))
    return clip


@dataclass
class Read:
    """The outcome of reading a timeline: edits, and sentences about what is not taken over."""

    edits: list[Edit]
    left: list[str] = field(default_factory=list)


def read_timeline(document: Document, text: str, name: str) -> Read:
    """A timeline's ground, cuts, markers and stills, for the end of a piece's ground. Raises Refusal.

    Footage is that of the project, by what is in it or by its name.
    """
    found = _parsed(text, name)
    tracks = found.video_tracks()
    if not tracks:
        raise Refusal(f"{name} has no picture.")
    read = Read([])
    items: list[GroundItem] = []
    fade = 0
    for child in list(tracks[0])[:MOST_CLIPS]:
        if isinstance(child, otio.schema.Transition):
            fade = round(child.out_offset.rescaled_to(float(document.project.rate)).value)
            if child.transition_type != otio.schema.TransitionTypes.SMPTE_Dissolve:
                read.left.append(f"The transition {child.name or child.transition_type} is taken over as a fade.")
            continue
        item = _taken(document, child, read)
        if item is not None:
            items.append(item.model_copy(update={"fade": fade if items or document.project.ground else 0}))
        fade = 0
    if not items:
        raise Refusal(f"Nothing of {name} can be taken over. {' '.join(read.left[:3])}".strip())
    for track in [*tracks[1:], *found.audio_tracks()]:
        clips = sum(isinstance(c, otio.schema.Clip) for c in track)
        if clips:
            many = f"{clips} clips" if clips > 1 else "its clip"
            read.left.append(f"The track {track.name or 'without a name'} is left out, with {many}.")
    read.edits.insert(0, LayGround(items=items))
    return read


def _parsed(text: str, name: str) -> otio.schema.Timeline:
    try:
        found = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:  # the library raises what it likes
        raise Refusal(f"{name} is not an OpenTimelineIO file.") from error
    if not isinstance(found, otio.core.SerializableObject):
        raise Refusal(f"{name} is not an OpenTimelineIO file.")
    if not isinstance(found, otio.schema.Timeline):
        raise Refusal(f"{name} holds no timeline, but a {type(found).__name__}.")
    return found


def _taken(document: Document, child: Any, read: Read) -> GroundItem | None:
    rate = float(document.project.rate)
    lasts = max(1, round(child.duration().rescaled_to(rate).value))
    if isinstance(child, otio.schema.Gap):
        colour = document.project.background
        return GroundItem(id=new_id(), source=ColourSource(lasting=lasts, colour=colour))
    if not isinstance(child, otio.schema.Clip):
        read.left.append(f"{child.name or 'A nested part'} is a {type(child).__name__} and is left out.")
        return None
    media = child.media_reference
    if isinstance(media, otio.schema.GeneratorReference):
        colour = str(media.parameters.get("colour", document.project.background))
        try:
            return GroundItem(id=new_id(), source=ColourSource(lasting=lasts, colour=colour))
        except ValueError:
            read.left.append(f"{child.name} is made by {media.generator_kind}, which is left out.")
            return None
    shot = _known(document, media)
    if shot is None:
        target = Path(unquote(urlparse(getattr(media, "target_url", "") or "").path)).name
        read.left.append(f"{child.name or 'A clip'} needs {media.name or target or 'footage'}: import that first.")
        return None
    begins = child.source_range or child.available_range()
    first = min(max(0, round(begins.start_time.rescaled_to(float(shot.rate)).value)), shot.frames - 1)
    frozen = [e for e in child.effects if isinstance(e, otio.schema.FreezeFrame)]
    for effect in child.effects:
        if isinstance(effect, otio.schema.LinearTimeWarp) and effect not in frozen and effect.time_scalar != 1:
            read.left.append(f"{child.name} goes at {effect.time_scalar:g} times its speed, which is left out.")
        elif not isinstance(effect, otio.schema.TimeEffect):
            read.left.append(f"The effect {effect.effect_name or effect.name} of {child.name} is left out.")
    if frozen:
        return GroundItem(id=new_id(), source=StandstillSource(lasting=lasts, shot=shot.id, frame=first))
    past = min(shot.frames, first + max(1, round(child.duration().rescaled_to(float(shot.rate)).value)))
    for marker in child.markers:
        frame = round(marker.marked_range.start_time.rescaled_to(float(shot.rate)).value)
        known = {m.frame for m in shot.moments}
        if 0 <= frame < shot.frames and frame not in known:
            read.edits.append(AddMoment(shot=shot.id, frame=frame, name=marker.name[:120] or None))
    return GroundItem(id=new_id(), source=ShotSource(shot=shot.id, first=first, past=past))


def _known(document: Document, media: Any) -> Shot | None:
    """The project's footage that a reference means: by what is in it, else by its name."""
    told = media.metadata.get(OURS, {}) if media is not None else {}
    by_hash = {s.file: s for s in document.shots.values()}
    if told.get("sha256") in by_hash:
        return by_hash[told["sha256"]]
    target = Path(unquote(urlparse(getattr(media, "target_url", "") or "").path))
    if target.name in by_hash:
        return by_hash[target.name]
    names = {target.stem.casefold(), str(getattr(media, "name", "") or "").casefold()} - {""}
    return next((s for s in document.shots.values() if s.name.casefold() in names), None)


def import_timeline(studio: Studio, path: Path, name: str, only: Path | None = None) -> tuple[str, list[str]]:
    """Makes a project of a timeline and the files that it names, as far as they are here.

    name: of the timeline's file, as it is shown; only: a folder, files elsewhere are not looked at
    Returns the project's id, and what was not taken over. Raises Refusal.
    """
    try:
        text = path.read_text()
    except (OSError, UnicodeDecodeError) as error:
        raise Refusal(f"{name} cannot be read as a timeline.") from error
    found, left = _parsed(text, name), list[str]()
    project = studio.projects.new(found.name or Path(name).stem).document.project.id
    try:
        for place, called in _files_of(found, path.parent, only).items():
            try:
                import_file(studio, project, studio.keep_file(place), called)
            except Refusal as refused:
                left.append(str(refused))
        document = studio.state(project).document
        # What an import lays into the ground by itself makes room for what the timeline says.
        if document.project.ground:
            remove = RemoveGround(items=[g.id for g in document.project.ground])
            document = studio.edit(project, remove, None).document
        read = read_timeline(document, text, name)
        studio.edit(project, Several(edits=read.edits), None)
    except Refusal:
        studio.projects.delete(project)
        raise
    return project, left + read.left


def _files_of(timeline: otio.schema.Timeline, folder: Path, only: Path | None) -> dict[Path, str]:
    """The files of a timeline that are there, with the names of what is in them."""
    found: dict[Path, str] = {}
    for clip in timeline.find_clips():
        media = clip.media_reference
        target = getattr(media, "target_url", None)
        if target:
            place = (folder / unquote(urlparse(target).path)).resolve()
            if (only is None or place.is_relative_to(only.resolve())) and place.is_file():
                found.setdefault(place, media.name or place.name)
    return found
