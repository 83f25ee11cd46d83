"""Opening files from outside: as media only, never as a list that leads to other files, and within bounds."""

from pathlib import Path

import av

from ...common.errors import Refusal

MAX_SIDE = 8192
"""The longest side, in pixels, of a picture that is read."""
MAX_PIXELS = 8192 * 4608
"""The most pixels of a frame: every decoder keeps several."""
MAX_STILL = 8192 * 8192
"""The most pixels of a still picture, of which one is read at a time."""
MIN_SIDE = 16
"""The shortest side of a shot: less shows nobody, and would be stretched into nothing."""

FORMATS = (
    "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,asf,flv,gif,apng,ivf,mpeg,mpegts,mpegvideo,mxf,nut,obu,ogg,av1,dv,"
    "h264,hevc,m4v,yuv4mpegpipe,png_pipe,jpeg_pipe,webp_pipe,bmp_pipe,tiff_pipe,webp,wav,mp3,aac,flac"
)
"""What a file may be. Playlists and lists of parts are not among them: they lead to other files."""


def open_media(path: Path | str) -> av.container.InputContainer:
    """A file, open to be decoded. Raises av.FFmpegError, OSError."""
    bounds = {"format_whitelist": FORMATS, "protocol_whitelist": "file"}
    return av.open(str(path), options=bounds, metadata_errors="replace")


def video_stream(file: av.container.InputContainer) -> av.video.stream.VideoStream | None:
    """The file's first moving picture, to be decoded within bounds; a cover picture is none."""
    cover = av.stream.Disposition.attached_pic
    stream = next((s for s in file.streams.video if not s.disposition & cover), None)
    if stream is not None and stream.codec_context is not None:
        stream.codec_context.options = {"max_pixels": str(MAX_PIXELS)}
        stream.thread_type = "AUTO"
    return stream


def pictures_of(file: av.container.InputContainer, name: str) -> av.video.stream.VideoStream:
    """The same stream. Raises Refusal, with a sentence, if the file holds no pictures that can be decoded."""
    stream = video_stream(file)
    if stream is None:
        kind = "only sound" if file.streams.audio else "no pictures"
        raise Refusal(f"{name} holds {kind}. Choose a video.")
    if stream.codec_context is None:
        raise Refusal(f"The pictures of {name} are coded in a way that is not known. Save it again as MP4.")
    return stream
