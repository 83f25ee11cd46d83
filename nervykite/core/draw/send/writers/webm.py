"""WebM: VP9, with alpha for what flies over nothing, and Opus sound."""

from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

import av
from pydantic import Field

from ..film import FilmWriting, as_yuv, to_frame
from ..frame import Frame
from ..writer import StreamFormat, Writer, Writing
from .mp4 import WORDS, Quality

CRF = {"fine": 16, "good": 28, "small": 38}


class Webm(Writer):
    """A constant quality; alpha is a picture of its own beside the colours."""

    kind: Literal["webm"] = "webm"
    title: ClassVar[str] = "WebM"
    rank: ClassVar[int] = 20
    hint: ClassVar[str] = "VP9 for the web, with alpha for layers"
    suffix: ClassVar[str] = ".webm"
    media_type: ClassVar[str] = "video/webm"
    clear: ClassVar[bool] = True
    sound_bits: ClassVar[int] = 160_000

    quality: Annotated[Quality, Field(title="Quality", json_schema_extra={"words": WORDS})] = "good"  # type: ignore[dict-item]

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        return as_yuv(frame.straight(), "yuva420p") if picture.clear else to_frame(frame.planes)

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        def video(out: av.container.OutputContainer) -> av.VideoStream:
            given = {"crf": str(CRF[self.quality]), "b": "0", "deadline": "good", "cpu-used": "5", "row-mt": "1"}
            if picture.clear:
                given["auto-alt-ref"] = "0"
            stream = out.add_stream("libvpx-vp9", rate=picture.rate, options=given)
            stream.pix_fmt = "yuva420p" if picture.clear else "yuv420p"
            if picture.clear:
                stream.metadata["alpha_mode"] = "1"
            return stream

        return FilmWriting(path, "webm", picture, video, ("libopus", self.sound_bits))
