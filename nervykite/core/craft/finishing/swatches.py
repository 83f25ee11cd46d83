"""Colours that stand for a picture: of a jacket, shoes, hair."""

import cv2
import numpy as np

MOST = 20_000


def swatches(rgba: np.ndarray, count: int = 5) -> list[str]:
    """So many colours of a premultiplied picture, float32 (h, w, 4), as "#RRGGBB", those that cover most first.

    By k-means in CIE L*a*b* (Lloyd 1982), of what is covered wholly; colours that are hard to tell apart count as one,
    and vivid ones for more than grey ones.
    """
    solid = rgba[rgba[..., 3] > 0.98]
    if len(solid) < count:
        return []
    rng = np.random.default_rng(1)
    some = solid[rng.permutation(len(solid))[:MOST]]
    some = some[:, :3] / some[:, 3:]
    lab = cv2.cvtColor(np.clip(some, 0, 1)[None].astype(np.float32), cv2.COLOR_RGB2Lab)[0]
    wanted = min(len(lab), 3 * count)
    stop = cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5
    cv2.setRNGSeed(7)
    _, labels, means = cv2.kmeans(lab, wanted, np.empty((0, 1), np.int32), stop, 1, cv2.KMEANS_PP_CENTERS)
    share = np.bincount(labels.ravel(), minlength=wanted) / len(lab)
    vivid = np.hypot(means[:, 1], means[:, 2])
    found: list[np.ndarray] = []
    for n in np.argsort(-share * (1 + vivid / 25)):
        if all(np.linalg.norm(means[n] - f) > 18 for f in found):
            found.append(means[n])
        if len(found) == count:
            break
    rgb = cv2.cvtColor(np.array(found, np.float32)[None], cv2.COLOR_Lab2RGB)[0]
    return ["#" + "".join(f"{round(float(v) * 255):02X}" for v in np.clip(c, 0, 1)) for c in rgb]
