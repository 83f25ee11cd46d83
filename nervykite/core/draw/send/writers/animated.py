"""Pictures that move by themselves: animated WebP, and GIF, each frame with a palette of its own."""

from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

import av
import numpy as np
from pydantic import Field

from ..frame import Frame
from ..writer import StreamFormat, Writer, Writing

DITHERS = {
    "sierra2_4a": {"title": "Soft", "hint": "Errors are passed on"},
    "bayer": {"title": "Pattern", "hint": "A fixed pattern: calmer in motion, smaller"},
    "none": {"title": "None", "hint": "Bands"},
}


class WebP(Writer):
    """Alpha in full, colours in few bits or none lost."""

    kind: Literal["webp"] = "webp"
    title: ClassVar[str] = "Animated WebP"
    rank: ClassVar[int] = 40
    hint: ClassVar[str] = "For pages and messages, with alpha for layers"
    suffix: ClassVar[str] = ".webp"
    media_type: ClassVar[str] = "image/webp"
    clear: ClassVar[bool] = True

    quality: Annotated[float, Field(title="Quality", ge=1, le=100, json_schema_extra={"unit": "%", "step": 1})] = 80

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        straight = frame.straight()
        if not picture.clear:
            straight[..., 3] = 255
        return av.VideoFrame.from_ndarray(np.ascontiguousarray(straight[..., [2, 1, 0, 3]]), "bgra")

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        options = {"quality": str(self.quality), "loop": "0"}
        return _Moving(path, "webp", "libwebp_anim", "bgra", picture, options)


class Gif(Writer):
    """256 colours a frame at most; what is seen at less than half is not seen."""

    kind: Literal["gif"] = "gif"
    title: ClassVar[str] = "GIF"
    rank: ClassVar[int] = 30
    hint: ClassVar[str] = "Plays everywhere; few colours, hard edges"
    suffix: ClassVar[str] = ".gif"
    media_type: ClassVar[str] = "image/gif"
    clear: ClassVar[bool] = True

    colours: Annotated[int, Field(title="Colours", ge=4, le=256)] = 256
    dither: Annotated[
        Literal["sierra2_4a", "bayer", "none"], Field(title="Dither", json_schema_extra={"words": DITHERS})  # type: ignore[dict-item]
    ] = "sierra2_4a"  # fmt: skip

    def prepared(self, frame: Frame, picture: StreamFormat) -> Any:
        straight = frame.straight()
        if not picture.clear:
            straight[..., 3] = 255
        return av.VideoFrame.from_ndarray(straight, "rgba")

    def start(self, path: Path, picture: StreamFormat) -> Writing:
        return _Gif(path, picture, self.colours, self.dither)


class _Moving(Writing):
    def __init__(
        self, path: Path, container: str, codec: str, form: str, picture: StreamFormat, options: dict[str, str]
    ) -> None:
        self._file = av.open(str(path), "w", format=container, options={"loop": "0"})
        self._video = self._file.add_stream(codec, rate=picture.rate, options=options)
        self._video.width, self._video.height = picture.size
        self._video.pix_fmt = form
        self._video.codec_context.time_base = 1 / picture.rate
        self._frames = 0

    def frame(self, prepared: av.VideoFrame) -> None:
        prepared.pts = self._frames
        prepared.time_base = self._video.codec_context.time_base
        self._frames += 1
        self._file.mux(self._video.encode(prepared))

    def close(self) -> None:
        self._file.mux(self._video.encode())
        self._file.close()

    def abandon(self) -> None:
        self._file.close()


class _Gif(_Moving):
    def __init__(self, path: Path, picture: StreamFormat, colours: int, dither: str) -> None:
        super().__init__(path, "gif", "gif", "pal8", picture, {})
        self._graph = av.filter.Graph()
        source = self._graph.add_buffer(
            width=picture.size[0], height=picture.size[1], format="rgba", time_base=1 / picture.rate
        )
        split = self._graph.add("split")
        palette = self._graph.add("palettegen", f"max_colors={colours}:stats_mode=single:reserve_transparent=1")
        use = self._graph.add("paletteuse", f"dither={dither}:new=1:alpha_threshold=128")
        sink = self._graph.add("buffersink")
        source.link_to(split)
        split.link_to(use, 0, 0)
        split.link_to(palette, 1, 0)
        palette.link_to(use, 0, 1)
        use.link_to(sink)
        self._graph.configure()
        self._pushed = 0

    def frame(self, prepared: av.VideoFrame) -> None:
        prepared.pts, self._pushed = self._pushed, self._pushed + 1
        self._graph.push(prepared)
        self._pull()

    def close(self) -> None:
        self._graph.push(None)
        self._pull()
        super().close()

    def _pull(self) -> None:
        while True:
            try:
                frame = self._graph.pull()
            except (BlockingIOError, EOFError):
                return
            super().frame(frame)
