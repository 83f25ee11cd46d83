"""A track as it is used: what was found, and what was put right by hand on top of it."""

import numpy as np

from ...piece.model.track import DOUBTFUL, Track


def maps_of(track: Track) -> np.ndarray:
    """The maps of each frame of a track to the one that it is seen from: float64 (n, 3, 3).

    A fix is gone through. From there it fades out to the nearest frames that are sure, if its own was doubtful;
    otherwise to the frame that is seen from, or to the next fix. Beyond the last one it stays.
    """
    maps = np.asarray(track.matrices, float).reshape(-1, 3, 3)
    if not track.fixes:
        return maps
    nodes = {track.ref: (0.0, 0.0)}
    sure = np.flatnonzero(np.asarray(track.confidence) >= DOUBTFUL) + track.first
    fixes = {f.frame: f.by for f in track.fixes}
    for frame in fixes:
        if frame in sure:
            continue
        before, after = sure[sure < frame], sure[sure > frame]
        for edge in (int(before.max()) if len(before) else None, int(after.min()) if len(after) else None):
            if edge is not None:
                nodes[edge] = (0.0, 0.0)
    nodes |= fixes
    frames = np.array(sorted(nodes))
    by = np.array([nodes[int(f)] for f in frames])
    shift = np.broadcast_to(np.eye(3), maps.shape).copy()
    all_frames = np.arange(track.first, track.past)
    for axis in (0, 1):
        shift[:, axis, 2] = -np.interp(all_frames, frames, by[:, axis])
    return maps @ shift
