"""Any decoded frame to SDR planes in BT.709: matrices, ranges, high dynamic range."""

from functools import lru_cache

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from numba import njit

from .planes import Planes, from_rgb

PQ, HLG, BT2020 = 16, 18, 9
MATRICES = {1: Colorspace.ITU709, 5: Colorspace.ITU601, 6: Colorspace.ITU601, 7: Colorspace.SMPTE240M}
NAMES = {Colorspace.ITU709: "BT.709", Colorspace.ITU601: "BT.601", Colorspace.SMPTE240M: "SMPTE 240M"}
WHITE = 203.0
"""Candelas per square metre of HDR reference white (ITU-R BT.2408)."""
PEAK = 1000.0


def matrix_of(frame: av.VideoFrame) -> Colorspace:
    """The frame's own matrix; untagged: BT.709 from 720 lines up, BT.601 below."""
    tagged = MATRICES.get(int(frame.colorspace))
    if tagged is not None:
        return tagged
    return Colorspace.ITU709 if min(frame.height, frame.width) >= 720 else Colorspace.ITU601


def is_full_range(frame: av.VideoFrame) -> bool:
    """True if black is 0 and white 255, by the tag or by the pixel format."""
    return int(frame.color_range) == 2 or frame.format.name.startswith("yuvj")


def describe(frame: av.VideoFrame) -> str:
    """A word for the frame's colour, like "BT.709" or "BT.2020 HLG"."""
    transfer = {PQ: " PQ", HLG: " HLG"}.get(int(frame.color_trc), "")
    if int(frame.colorspace) in (9, 10):
        return "BT.2020" + transfer
    return NAMES[matrix_of(frame)] + transfer


def to_planes(frame: av.VideoFrame) -> Planes:
    """A decoded frame as SDR planes; frames that are so already are copied as they are.

    Rotation is not applied here.
    """
    hdr = int(frame.color_trc) in (PQ, HLG)
    wide = int(frame.colorspace) in (9, 10)
    limited = not is_full_range(frame)
    if frame.format.name == "yuv420p" and limited and not wide and not hdr and matrix_of(frame) == Colorspace.ITU709:
        return Planes(*(_plane(p) for p in frame.planes[:3]))
    deep = hdr or any(c.bits > 8 for c in frame.format.components)
    source = Colorspace(BT2020) if wide else matrix_of(frame)
    is_rgb = frame.format.is_rgb
    rgb = frame.reformat(
        format="rgb48le" if deep else "rgb24",
        src_colorspace=None if is_rgb else source,
        src_color_range=None if is_rgb else (ColorRange.MPEG if limited else ColorRange.JPEG),
        dst_color_range=ColorRange.JPEG,
    ).to_ndarray()
    if hdr or wide:
        return from_rgb(tone_map(rgb, int(frame.color_trc), wide))
    return from_rgb(rgb.astype(np.float32) * np.float32(1 / (65535 if deep else 255)))


def _plane(plane: av.video.plane.VideoPlane) -> np.ndarray:
    rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
    return np.ascontiguousarray(rows[: plane.height, : plane.width])


@lru_cache(maxsize=4)
def _linear(transfer: int) -> np.ndarray:
    """Code values 0…65535 to light: candelas/m² for PQ, relative scene light 0…1 for HLG, display light else."""
    x = np.arange(65536) / 65535
    if transfer == PQ:  # SMPTE ST 2084
        m1, m2, c1, c2, c3 = 0.1593017578125, 78.84375, 0.8359375, 18.8515625, 18.6875
        p = x ** (1 / m2)
        light = 10000 * (np.maximum(p - c1, 0) / (c2 - c3 * p)) ** (1 / m1)
    elif transfer == HLG:  # ITU-R BT.2100, inverse of the OETF
        a, b, c = 0.17883277, 0.28466892, 0.55991073
        light = np.where(x <= 0.5, x * x / 3, (np.exp((x - c) / a) + b) / 12)
    else:
        light = x**2.4
    return light.astype(np.float32)


@lru_cache(maxsize=1)
def _shoulder() -> np.ndarray:
    """Light, in 4096 steps of reference white up to PEAK, to R'G'B' for a BT.1886 screen.

    Straight up to 0.6 of white, then a hyperbola that meets it smoothly and reaches 1 at PEAK.
    """
    top = PEAK / WHITE
    x = np.linspace(0, top, 4096)
    knee, slope = 0.6, 0.92
    over = np.maximum(x - knee, 0)
    room, span = 1 - slope * knee, top - knee
    bend = (slope * span / room - 1) / span
    mapped = np.where(x <= knee, slope * x, slope * knee + slope * over / (1 + bend * over))
    return (np.clip(mapped, 0, 1) ** (1 / 2.4)).astype(np.float32)


@lru_cache(maxsize=2)
def _power(exponent: float) -> np.ndarray:
    """X to an exponent, x in 16384 steps from 0 to 1: looked up between steps, far cheaper than worked out."""
    return (np.linspace(0, 1, 16385) ** exponent).astype(np.float32)


@njit(cache=True, nogil=True, inline="always")
def _read(table, x):
    steps = np.int32(table.shape[0] - 1)
    at = min(max(x, np.float32(0)), np.float32(1)) * np.float32(steps)
    i = min(np.int32(at), steps - np.int32(1))
    return table[i] + (table[i + 1] - table[i]) * (at - np.float32(i))


@njit(cache=True, nogil=True)
def _map(rgb, linear, curve, encode, system, hlg, hdr, wide, out):
    # BT.2020 to BT.709 primaries (ITU-R BT.2087)
    for r in range(rgb.shape[0]):
        for c in range(rgb.shape[1]):
            red = linear[rgb[r, c, 0]]
            green = linear[rgb[r, c, 1]]
            blue = linear[rgb[r, c, 2]]
            if hlg:  # the system gamma of a 1000 cd/m² screen
                luma = 0.2627 * red + 0.6780 * green + 0.0593 * blue
                gain = np.float32(1000) * _read(system, np.float32(luma))
                red *= gain
                green *= gain
                blue *= gain
            if wide:
                x = 1.6605 * red - 0.5876 * green - 0.0728 * blue
                y = -0.1246 * red + 1.1329 * green - 0.0083 * blue
                blue = -0.0182 * red - 0.1006 * green + 1.1187 * blue
                red = x
                green = y
            if hdr:
                # The curve is read at the brightest channel and scales all three, which keeps hues.
                peak = max(max(red, green), max(blue, 1e-6))
                value = _read(curve, np.float32(peak / 1000.0))
                share = np.float32(1 / peak)
                out[r, c, 0] = value * _read(encode, np.float32(red * share))
                out[r, c, 1] = value * _read(encode, np.float32(green * share))
                out[r, c, 2] = value * _read(encode, np.float32(blue * share))
            else:
                out[r, c, 0] = _read(encode, np.float32(red))
                out[r, c, 1] = _read(encode, np.float32(green))
                out[r, c, 2] = _read(encode, np.float32(blue))


def tone_map(rgb: np.ndarray, transfer: int, wide: bool) -> np.ndarray:
    """HLG, PQ or wide-gamut R'G'B' to SDR BT.709: uint8 or uint16 (H, W, 3) to float32 (H, W, 3), 0…1.

    HDR reference white lands a little below SDR white, and what is brighter rolls off towards it.
    """
    if rgb.dtype == np.uint8:
        rgb = rgb.astype(np.uint16) * 257
    out = np.empty(rgb.shape, np.float32)
    hdr = transfer in (PQ, HLG)
    tables = _linear(transfer), _shoulder(), _power(1 / 2.4), _power(0.2)
    _map(np.ascontiguousarray(rgb), *tables, transfer == HLG, hdr, wide, out)
    return out
