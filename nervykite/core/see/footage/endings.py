"""The name that a file's content would have it called by."""

from pathlib import Path

import av

from .opening import open_media

ENDINGS = {
    "matroska": ".mkv", "avi": ".avi", "mpegts": ".ts", "gif": ".gif", "png_pipe": ".png", "jpeg_pipe": ".jpg",
    "webp_pipe": ".webp", "tiff_pipe": ".tiff", "bmp_pipe": ".bmp", "wav": ".wav", "mp3": ".mp3", "flac": ".flac",
    "ogg": ".ogg", "aac": ".aac", "mxf": ".mxf",
}  # fmt: skip


def ending_of(path: Path) -> str:
    """The ending that a media file of that content has, with its dot; none if that is not known."""
    try:
        with open_media(path) as file:
            form = file.format.name.split(",")[0]
            if form == "mov":
                return ".mov" if file.metadata.get("major_brand", "").startswith("qt") else ".mp4"
            return ENDINGS.get(form, "")
    except (av.FFmpegError, OSError):
        return ""
