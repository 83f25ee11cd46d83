"""MP4: picture by H.264, H.265 or AV1 (BT.709, limited range) and AAC sound."""

import os
from fractions import Fraction
from pathlib import Path
from typing import Annotated, ClassVar, Literal

import av
from pydantic import Field

from ..film import BT709, LIMITED, FilmWriting
from ..limited import Limited
from ..writer import StreamFormat, Writer, Writing

CRF = {
    "h264": {"fine": 16, "good": 19, "small": 25},
    "h265": {"fine": 18, "good": 22, "small": 28},
    "av1": {"fine": 20, "good": 28, "small": 38},
}
"""The constant rate factor of each encoder for each quality."""
Quality = Literal["fine", "good", "small"]
Codec = Literal["h264", "h265", "av1"]
WORDS = {
    "fine": {"title": "Fine", "hint": "For handing on to an editor: larger file"},
    "good": {"title": "Good", "hint": "For posting"},
    "small": {"title": "Small", "hint": "For sending by message: smaller file"},
}
CODECS = {
    "h264": {"title": "H.264", "hint": "Plays everywhere"},
    "h265": {"title": "H.265", "hint": "Smaller, slower to write"},
    "av1": {"title": "AV1", "hint": "Smallest; plays on newer devices"},
}


class Mp4(Writer):
    """A constant quality, or as good as a size allows, in two passes."""

    kind: Literal["mp4"] = "mp4"
    title: ClassVar[str] = "MP4"
    rank: ClassVar[int] = 0
    hint: ClassVar[str] = "For posting, with AAC sound"
    suffix: ClassVar[str] = ".mp4"
    media_type: ClassVar[str] = "video/mp4"
    sound_bits: ClassVar[int] = 192_000

    codec: Annotated[Codec, Field(title="Codec", json_schema_extra={"words": CODECS})] = "h264"  # type: ignore[dict-item]
    quality: Annotated[Quality, Field(title="Quality", json_schema_extra={"words": WORDS})] = "good"  # type: ignore[dict-item]
    under: Annotated[
        float,
        Field(title="Under", description="Megabytes that it may have; 0 is as many as it needs", ge=0, le=100_000,
              json_schema_extra={"unit": "MB", "step": 1}),
    ] = 0  # fmt: skip

    @property
    def most(self) -> int | None:
        return round(self.under * 1e6) or None

    @property
    def freely(self) -> Writer:
        return self.model_copy(update={"under": 0})

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        if self.most is not None:
            return Limited(path, picture, self.most, self.sound_bits)

        def video(out: av.container.OutputContainer) -> av.VideoStream:
            if self.codec == "h264":
                return add_video(out, picture.size, picture.rate, self.quality)
            crf = str(CRF[self.codec][self.quality])
            if self.codec == "h265":
                stream = out.add_stream("libx265", rate=picture.rate, options={"crf": crf, "preset": "fast",
                                        "x265-params": "log-level=error"})  # fmt: skip
                stream.codec_context.codec_tag = "hvc1"
            else:
                os.environ.setdefault("SVT_LOG", "1")  # it would tell what it does on the terminal
                stream = out.add_stream("libsvtav1", rate=picture.rate, options={"crf": crf, "preset": "9"})
            stream.pix_fmt = "yuv420p"
            return stream

        return FilmWriting(path, "mp4", picture, video, ("aac", self.sound_bits), {"movflags": "faststart"})


def add_video(
    out: av.container.OutputContainer, size: tuple[int, int], rate: Fraction, quality: str, preset: str = "veryfast"
):
    """Adds an H.264 stream to a container, tagged with what the planes are; `preset` is x264's."""
    video = out.add_stream("libx264", rate=rate, options={"crf": str(CRF["h264"][quality]), "preset": preset})
    video.width, video.height = size
    video.pix_fmt = "yuv420p"
    context = video.codec_context
    context.time_base = 1 / rate
    context.color_range, context.colorspace, context.color_primaries, context.color_trc = LIMITED, BT709, BT709, BT709
    return video
