"""The beats of a loose file, for the command line."""

import json
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ..core.common.errors import Refusal
from ..core.draw.sound.beat_tracking import Beats, beats_of
from ..core.see.footage import ingest
from .importing import first_sample

LONGEST = 3600
"""How many seconds of a file are listened to."""


def beats(source: Path) -> Beats:
    """The beats of a file's sound. Raises Refusal if it has none, or none can be found."""
    if not source.is_file():
        raise Refusal(f"There is no file {source}. Check its name.")
    try:
        blocks = list(ingest.sound_of(source, first_sample(source), Fraction(LONGEST)))
    except (av.FFmpegError, OSError, ValueError) as error:
        raise Refusal(f"{source.name} cannot be read. Save it as WAV, MP3 or FLAC.") from error
    if not blocks:
        raise Refusal(f"{source.name} has no sound. Take another file.")
    found = beats_of(np.concatenate(blocks, 1))
    if not found.beats:
        raise Refusal(f"No beats can be found in {source.name}: it is too short or too quiet. Take another file.")
    return found


def written(found: Beats, out: Path | None) -> str:
    """The findings in a line; and all of them as JSON, if that is wanted."""
    if out is not None:
        times = {n: [round(t, 4) for t in getattr(found, n)] for n in ("beats", "bars", "accents")}
        out.write_text(json.dumps({"bpm": round(found.bpm, 3), **times}, indent=2) + "\n")
    counts = f"{len(found.beats)} beats, {len(found.bars)} bars, {len(found.accents)} accents"
    return f"{found.bpm:.1f} beats a minute, {counts}"
