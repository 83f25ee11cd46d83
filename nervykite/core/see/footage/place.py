"""One plane of a picture, laid onto a canvas."""

import cv2
import numpy as np

from .framing_matrix import scale_of


def place(plane: np.ndarray, matrix: np.ndarray, box: tuple[int, int, int, int], empty: int | None) -> np.ndarray:
    """One plane under a matrix that scales, turns and mirrors, in a box (left, top, right, bottom) of where that leads.

    `empty` fills what the plane leaves free; None says that it covers all, and its edge is carried on.

    Shrinking takes the mean over the covered area, so that nothing flickers; enlarging is bilinear.
    """
    size = box[2] - box[0], box[3] - box[1]
    rest = matrix[:2] - [[0, 0, box[0]], [0, 0, box[1]]]
    scale = scale_of(matrix)
    h, w = plane.shape[:2]
    if np.array_equal(rest, np.eye(3)[:2]) and (w, h) == size:
        return plane
    if scale < 1:
        # First to the nearest whole size by area, then the small rest bilinearly.
        smaller = max(1, round(w * scale)), max(1, round(h * scale))
        plane = cv2.resize(plane, smaller, interpolation=cv2.INTER_AREA)
        rest[:, 0] *= w / smaller[0]
        rest[:, 1] *= h / smaller[1]
    whole = np.allclose(rest[:, :2], np.eye(2)) and np.allclose(rest[:, 2], np.round(rest[:, 2]), atol=1e-6)
    if whole and (plane.shape[1], plane.shape[0]) == size and not rest[:, 2].any():
        return plane
    # OpenCV counts from pixel centres, this program from corners.
    rest[:, 2] += 0.5 * (rest[:, :2].sum(1) - 1)
    way = cv2.INTER_NEAREST if whole else cv2.INTER_LINEAR
    if empty is None:
        return cv2.warpAffine(plane, rest, size, flags=way, borderMode=cv2.BORDER_REPLICATE)
    return cv2.warpAffine(plane, rest, size, flags=way, borderMode=cv2.BORDER_CONSTANT, borderValue=empty)
