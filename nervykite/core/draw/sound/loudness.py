"""The loudness of a piece: integrated loudness as in EBU R 128 and ITU-R BS.1770, by FFmpeg's `ebur128`."""

from collections.abc import Iterable
from fractions import Fraction

import av
import numpy as np

from ...craft.synthesis.sample_rate import RATE

QUIET = -70.0
"""LUFS below which nothing counts (BS.1770's absolute gate): a piece that is nowhere louder has no loudness."""


def loudness(blocks: Iterable[np.ndarray]) -> float | None:
    """The integrated loudness, in LUFS, of blocks of float32 (2, n) at RATE in order; None if nothing is heard."""
    graph = av.filter.Graph()
    source = graph.add_abuffer(sample_rate=RATE, format="fltp", layout="stereo", time_base=Fraction(1, RATE))
    meter, sink = graph.add("ebur128", "metadata=1"), graph.add("abuffersink")
    source.link_to(meter)
    meter.link_to(sink)
    graph.configure()
    at, told = 0, None

    def drain() -> None:
        nonlocal told
        while True:
            try:
                told = graph.pull().metadata.get("lavfi.r128.I", told)
            except (av.BlockingIOError, av.EOFError):
                return

    for block in blocks:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block, np.float32), "fltp", "stereo")
        frame.rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
        graph.push(frame)
        at += block.shape[1]
        drain()
    # Less than the meter's window is repeated until it fills it.
    graph.push(None)
    drain()
    found = float(told) if told is not None else QUIET
    return found if found > QUIET else None
