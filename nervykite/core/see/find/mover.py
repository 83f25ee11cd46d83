"""Pick mover: what moves against the scene in the frames around a held one."""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ...common.aside import crew
from ...common.errors import Refusal
from ..scene.align import between, contrast, features
from ..scene.behind import Behind
from ..scene.difference import apart, beyond
from ..scene.own_way import own_way
from ..scene.passers import found_roughly
from ..scene.scene import Person, Scene, scene_of
from ..scene.stack import Ways, evened
from .evidence import Later
from .proposal import Proposal
from .search import Evidence
from .standing_out import MOVES, STANDING_OUT, Saliency, standing_out

MOVER: tuple[Evidence, ...] = (*MOVES, *STANDING_OUT)
"""What is heard, in this order."""


@dataclass(frozen=True)
class MoverSettings:
    """When something was found that moves, and when a scene serves another frame."""

    least: float = 0.0004
    """The share of a frame, 0…1, below which nothing was found."""
    all: float = 0.85
    """The share of a frame, 0…1, above which everything was found."""
    nearer: float = 0.04
    """How much larger or smaller a frame may show the scene than the one for which its plate was built."""
    rim: float = 0.002
    """The part of a subject that may lie where its frame begins to show more than the scene does."""
    strip: float = 0.016
    """How wide a strip that the scene does not show may be, in the frame's longer side, to be guessed from beside
    it."""


def pick_mover(
    frames: Sequence[np.ndarray], at: int, person: Person | None = None, scene: Scene | None = None,
    evidence: Sequence[Evidence] = MOVER, settings: MoverSettings = MoverSettings(),
) -> tuple[Proposal, Scene]:  # fmt: skip
    """Finds what moves in frame `at` of a shot; and the scene behind it.

    frames: uint8 RGB (h, w, 3) at the working size, in order. The frames are laid onto each other, the scene
    without its movers is built from them, and what differs from it beyond the scene's own noise, flicker and
    swaying is cut out along edges. With a `scene` that was built for another frame of the same shot only the frame
    itself is laid onto that, which is quick. If nothing crosses the scene, what never comes to rest in it is proposed.
    Raises Refusal if nothing moves at all, or if the whole picture does.
    """
    proposal = None if scene is None else _by_scene(frames, at, person, scene, evidence, settings)
    if scene is None or proposal is None or _share(proposal) < settings.least:
        scene = scene_of(frames, at, person, None if scene is None else _ways_onto(frames[at], at, scene))
        known = scene.held if scene.people is None else scene.people[0]
        proposal = _found(frames[at], at, scene, lambda: known, evidence, or_lingers=True, settings=settings)
    share = _share(proposal)
    if share < settings.least:
        raise Refusal("Nothing moves in this frame that stands out from the scene. Use marks, or pick another frame.")
    if share > settings.all:
        raise Refusal("Almost the whole picture moves against itself, so no subject stands out. Use marks instead.")
    return proposal, scene


def _share(proposal: Proposal) -> float:
    """The share of its frame that a proposal has found."""
    return float((proposal.found > 0.5).mean())


def _by_scene(
    frames: Sequence[np.ndarray], at: int, person: Person | None, scene: Scene, evidence: Sequence[Evidence],
    settings: MoverSettings,
) -> Proposal | None:  # fmt: skip
    """The movers in frame `at`, by a scene built for another frame; None if that does not show enough of it."""
    laid = _onto_scene(frames, at, scene, settings)
    if laid is None:
        return None
    frame, back, seen = laid
    unknown = _unknown(back, seen.shape, settings)

    def goes_on_there(found: np.ndarray) -> bool:
        return bool((found > 0.5)[unknown].sum() > settings.rim * (found > 0.5).sum())

    if unknown.any() and goes_on_there(_back_on(found_roughly(frame, scene.behind.plate, scene.behind.noise), back)):
        return None
    with crew(1) as aside:
        asked = None if person is None else aside.submit(person, frame, True)

        def likely() -> np.ndarray | None:
            found = None if asked is None else asked.result()
            return None if found is None else found * seen

        proposal = _found(frame, at, scene, likely, evidence, settings=settings)
    if np.array_equal(back, np.eye(3)):
        return proposal
    assert proposal.says is not None
    found, says = (_back_on(values, back) for values in (proposal.found, proposal.says))
    return None if goes_on_there(found) else Proposal(found, proposal.warnings, says)


def _unknown(back: np.ndarray, size: tuple[int, int], settings: MoverSettings) -> np.ndarray:
    """Where a frame (h, w), on which a scene lies as `back` (3, 3) says, shows more than the scene, or almost.

    bool (h, w). A narrow strip at the frame's edge does not count: there the subject goes on as it does.
    """
    h, w = size
    outside = cv2.warpPerspective(np.zeros(size, np.uint8), back, (w, h), borderValue=1)
    strip = round(settings.strip * max(h, w))
    wide = (cv2.distanceTransform(outside, cv2.DIST_L2, 5) > strip).astype(np.uint8)
    return cv2.dilate(wide, np.ones((2 * strip + 9, 2 * strip + 9), np.uint8)) > 0


def _back_on(values: np.ndarray, back: np.ndarray) -> np.ndarray:
    """Values (h, w) of a scene as the frame sees them on which it lies as `back` (3, 3) says."""
    size = values.shape[1], values.shape[0]
    return cv2.warpPerspective(values, back, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _ways_onto(frame: np.ndarray, at: int, scene: Scene) -> Ways | None:
    """Maps of the frames of a scene onto another frame of its shot, by its number, if that can be told from there."""
    known = scene.stack.ways
    if not known:
        return None
    back = _scene_on(frame, at, scene)
    onto = known.get(at) if back is None else np.linalg.inv(back)
    if onto is None:
        return None
    return {n: np.linalg.inv(onto) @ way for n, way in known.items()} | {at: np.eye(3)}


def _found(
    frame: np.ndarray, number: int, scene: Scene, person: Later, evidence: Sequence[Evidence],
    or_lingers: bool = False, settings: MoverSettings = MoverSettings(),
) -> Proposal:  # fmt: skip
    """The movers in a frame as the scene sees it; or, if there are none and it is wanted, what never comes to rest."""

    def believed() -> np.ndarray | None:
        likely = person()
        if likely is not None and scene.people is None:
            # What only one frame says counts if that is where something differs.
            sure = likely > 0.6
            if sure.sum() < 50 or (apart(frame, scene.behind.plate) > 12)[sure].mean() < 0.5:
                return None
        return likely

    behind = scene.behind
    with crew(1) as aside:
        part = found_roughly(frame, behind.plate, behind.noise)
        own = aside.submit(own_way, frame, number, scene.stack, part)
        proposal = proposed(standing_out(frame, behind, believed, own.result, evidence=evidence))
        if or_lingers and _share(proposal) < settings.least:
            return proposed(standing_out(frame, behind, believed, own.result, True, evidence), lingers=True)
    return proposal


def _onto_scene(frames: Sequence[np.ndarray], at: int, scene: Scene, settings: MoverSettings):
    """Frame `at` as the scene's frame sees it, the way back (3, 3), and where it shows anything; None if too little."""
    frame = frames[at]
    plate, (h, w) = scene.behind.plate, frame.shape[:2]
    if scene.stack.still:
        return evened(frame, plate, np.ones((h, w), bool)), np.eye(3), np.ones((h, w), np.float32)
    back = _scene_on(frame, at, scene)
    if back is None or np.abs(np.linalg.svd(back[:2, :2] / back[2, 2], compute_uv=False) - 1).max() > settings.nearer:
        return None
    onto = np.linalg.inv(back)
    seen = cv2.warpPerspective(np.ones((h, w), np.float32), onto, (w, h))
    if seen.mean() < 0.8:
        return None
    whole = seen > 0.99
    laid = evened(cv2.warpPerspective(frame, onto, (w, h), flags=cv2.INTER_LINEAR), plate, whole)
    return np.where(whole[..., None], laid, plate), back / back[2, 2], whole.astype(np.float32)


def _scene_on(frame: np.ndarray, at: int, scene: Scene) -> np.ndarray | None:
    """The map of a scene onto another frame of its shot, by its number: (3, 3), or None if the camera got lost.

    Followed from the plate, which has no subject to be led astray by, beginning where a frame near by was found.
    """
    near = min(scene.stack.ways, key=lambda n: abs(n - at))
    base, other = contrast(scene.behind.plate), contrast(frame)
    return between(base, other, features(base), np.linalg.inv(scene.stack.ways[near]))


def pick_difference(
    frame: np.ndarray, plate: np.ndarray, evidence: Sequence[Evidence] = MOVER,
    settings: MoverSettings = MoverSettings(),
) -> Proposal:  # fmt: skip
    """Finds what a frame shows that its clean plate does not, both uint8 RGB (h, w, 3) at the working size.

    Raises Refusal if they do not differ, or differ everywhere.
    """
    gain = (np.median(frame.reshape(-1, 3), 0) + 1) / (np.median(plate.reshape(-1, 3), 0) + 1)
    if np.abs(gain - 1).max() < 0.3:
        plate = np.clip(plate * gain, 0, 255).astype(np.uint8)
    size = frame.shape[:2]
    usual = min(float(np.median(beyond(frame, plate, plate))), 5.0)
    noise, support = (np.full(size, value, np.float32) for value in (usual + 1.5, 9))
    proposal = proposed(standing_out(frame, Behind(plate, noise, support), evidence=evidence))
    share = _share(proposal)
    if share < settings.least:
        raise Refusal("The frame and the plate show the same. Choose a plate of the scene without the subject.")
    if share > settings.all:
        raise Refusal("The frame and the plate differ nearly everywhere. Choose a plate from the same camera.")
    return proposal


def proposed(answer: Saliency, lingers: bool = False) -> Proposal:
    """The proposal of what stands out, and its warnings; lingers: whether what never comes to rest was taken for it."""
    found, unknown = answer.found, answer.unknown
    warnings = []
    if lingers:
        warnings.append("Nothing crosses the scene here. This is what never comes to rest in it.")
    elif (unknown * (found > 0.5)).sum() > 0.2 * max(1, (found > 0.5).sum()):
        warnings.append("For most of the shot the subject covers what is behind it, which is partly a guess.")
    return Proposal(found, tuple(warnings), answer.moves)
