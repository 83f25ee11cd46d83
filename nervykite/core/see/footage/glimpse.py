"""A first look at a film or a sound: what is in the file, and whether the beginning of it can be read at all."""

from dataclasses import dataclass
from itertools import islice
from pathlib import Path

import av

from .opening import open_media, video_stream

FRAMES = 4
"""How many frames of each stream are decoded: decoders work on several at once."""


@dataclass(frozen=True)
class Glimpse:
    """The content of a file, as far as could be seen; of one that cannot be opened nothing."""

    pictures: bool = False
    sound: bool = False

    @property
    def only_sound(self) -> bool:
        """True if it is a sound."""
        return self.sound and not self.pictures


def glimpse(path: Path) -> Glimpse:
    """Looks at a file. What is wrong with it is said where all of it is read: this never raises for what it holds."""
    try:
        with open_media(path) as file:
            pictures, sounds = video_stream(file), file.streams.audio
            seen = Glimpse(pictures is not None, bool(sounds))
            for stream in (pictures, *sounds[:1]):
                if stream is not None and stream.codec_context is not None:
                    _decode(file, stream)
            return seen
    except (av.FFmpegError, OSError, ValueError):
        return Glimpse()


def _decode(file: av.container.InputContainer, stream: av.stream.Stream) -> None:
    try:
        for _ in islice(file.decode(stream), FRAMES):
            pass
    except (av.FFmpegError, ValueError, RuntimeError):
        return
