"""ProRes in a QuickTime film: 422 for what is opaque, 4444 with alpha for what flies over nothing."""

from pathlib import Path
from typing import Any, ClassVar, Literal

import av
import numpy as np

from ..film import FilmWriting, as_yuv, to_frame
from ..frame import Frame
from ..writer import StreamFormat, Writer, Writing


class ProRes(Writer):
    """10 bits a colour; alpha, straight, in 16."""

    kind: Literal["prores"] = "prores"
    title: ClassVar[str] = "ProRes"
    rank: ClassVar[int] = 10
    hint: ClassVar[str] = "For editors: 422, or 4444 with alpha for layers"
    suffix: ClassVar[str] = ".mov"
    media_type: ClassVar[str] = "video/quicktime"
    clear: ClassVar[bool] = True
    sound_bits: ClassVar[int] = 2 * 24 * 48_000

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        if picture.clear:
            return as_yuv(frame.straight(np.uint16), "yuva444p10le")
        return to_frame(frame.planes).reformat(format="yuv422p10le")

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        def video(out: av.container.OutputContainer) -> av.VideoStream:
            profile = {"profile": "4444", "alpha_bits": "16"} if picture.clear else {"profile": "standard"}
            stream = out.add_stream("prores_ks", rate=picture.rate, options={**profile, "vendor": "apl0"})
            stream.pix_fmt = "yuva444p10le" if picture.clear else "yuv422p10le"
            stream.codec_context.thread_type = "AUTO"
            return stream

        return FilmWriting(path, "mov", picture, video, ("pcm_s24le", 0))
