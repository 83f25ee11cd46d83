"""Pick mover: what moves against the scene in the frames around a held one."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..aside import crew
from ..errors import Refusal
from ..plate.behind import Behind
from ..plate.difference import apart, beyond, textures_apart
from ..plate.own_way import own_way
from ..plate.passers import found_roughly
from ..plate.scene import Person, Scene, scene_of
from ..plate.stack import Ways, evened
from ..track.align import between, contrast, features
from .colours import SPACES, Mixture, lab, placed
from .cut import minimal_cut, recut
from .edge import with_edge
from .evidence import Later, edges_of, known_to_each, leaning_of, tie_of
from .opinion import MARGIN, Answer, Second, from_near, reconsidered
from .refine import refined
from .shade import shaded
from .solve import around

TEXTURE, SAME_TEXTURE = 0.4, 0.2
"""The say of textures that differ, and of textures that do not."""
OTHER_TEXTURE = 0.5
"""How much of what is around a pixel may have another texture than the plate's, if that is in shade."""
BORNE_OUT = 0.3
"""What is left of the doubt about a place that a frame shows in shade."""
UNREST, GREAT_UNREST, LINGERS = (1.5, 3.0), (3.5, 5.0), 0.6
"""The unrest, in levels, from which on and by which a place is in doubt, and from which on and by which somebody is
taken to linger there if nothing else moves; and the say of that."""
LEAST, ALL = 0.0004, 0.85
"""The share of a frame below which nothing was found, and above which everything was."""
ALIKE, UNSURE, ROUNDS, SETTLED = 0.3, 1.0, 3, 0.97
"""The say of what looks alike, and of that where hardly any frame has seen what is behind; how often it is learned at
most, and how much of two answers has to be the same to be the last."""
OWN, OWN_UNSURE = 0.5, 1.0
"""The say of what goes with the subject or with the scene; and how much more where that is in doubt."""
JUDGED = 0.8
"""How much of the wish is the judge's, the rest being that of the rules."""
LITTLE = 0.5
"""From which doubt on a place teaches nothing: who lingers there may not have been found yet."""
BESIDE = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (41, 41))
"""How far beside what is found, in pixels, it may go on."""
PLACE = 40.0
"""The difference of colours that the place counts as, see `colours.placed`."""
SAYS = 0.6
"""How much movement counts when the outline is laid onto edges."""
NEARER = 0.04
"""How much larger or smaller a frame may show the scene than the one for which its plate was built."""
LINK = 0.01
"""Half of how far apart, in the root of the frame's area, parts may lie that belong together."""
RIM = 0.002
"""The part of a subject that may lie where its frame begins to show more than the scene does."""
STRIP = 0.016
"""How wide a strip that the scene does not show may be, in the frame's longer side, to be guessed from beside it."""


@dataclass(frozen=True)
class Proposal:
    """A subject found, before its edge is solved.

    found: float32 (h, w), 0…1, almost everywhere 0 or 1; warnings: sentences for the person; says: float32 (h, w),
    about -1…1, what else than colours speaks for each pixel, if anything does.
    """

    found: np.ndarray
    warnings: tuple[str, ...] = ()
    says: np.ndarray | None = None

    def outline(self, picture: np.ndarray) -> np.ndarray:
        """The subject in a picture uint8 RGB (h, w, 3) of full size: float32 (h, w), 0…1.

        If more than colours speaks for it, it is laid onto edges by that as well.
        """
        fine = self.found if self.says is None else refined(picture, self.found, SAYS * self.says)
        return cv2.resize(fine, picture.shape[1::-1], interpolation=cv2.INTER_LINEAR)

    def matte(self, picture: np.ndarray, reach: float) -> np.ndarray:
        """The subject with its edge, see `outline` and `with_edge`. Raises Refusal if nothing is left of it."""
        alpha = with_edge(picture, self.outline(picture), reach)
        if alpha.max() <= 0.5:
            raise Refusal("What stands out in this frame is too small to be cut out. Use marks, or pick another frame.")
        return alpha


def pick_mover(
    frames: Sequence[np.ndarray], at: int, person: Person | None = None, scene: Scene | None = None
) -> tuple[Proposal, Scene]:
    """Finds what moves in frame `at` of a shot; and the scene behind it.

    frames: uint8 RGB (h, w, 3) at the working size, in order. The frames are laid onto each other, the scene
    without its movers is built from them, and what differs from it beyond the scene's own noise, flicker and
    swaying is cut out along edges. With a `scene` that was built for another frame of the same shot only the frame
    itself is laid onto that, which is quick. If nothing crosses the scene, what never comes to rest in it is proposed.
    Raises Refusal if nothing moves at all, or if the whole picture does.
    """
    proposal = None if scene is None else _by_scene(frames, at, person, scene)
    if scene is None or proposal is None or _share(proposal) < LEAST:
        scene = scene_of(frames, at, person, None if scene is None else _ways_onto(frames[at], at, scene))
        known = scene.held if scene.people is None else scene.people[0]
        proposal = _found(frames[at], at, scene, lambda: known, or_lingers=True)
    share = _share(proposal)
    if share < LEAST:
        raise Refusal("Nothing moves in this frame that stands out from the scene. Use marks, or pick another frame.")
    if share > ALL:
        raise Refusal("Almost the whole picture moves against itself, so no subject stands out. Use marks instead.")
    return proposal, scene


def _share(proposal: Proposal) -> float:
    """The share of its frame that a proposal has found."""
    return float((proposal.found > 0.5).mean())


def _by_scene(frames: Sequence[np.ndarray], at: int, person: Person | None, scene: Scene) -> Proposal | None:
    """What moves in frame `at`, by a scene built for another frame; None if that does not show enough of it."""
    laid = _onto_scene(frames, at, scene)
    if laid is None:
        return None
    frame, back, seen = laid
    unknown = _unknown(back, seen.shape)

    def goes_on_there(found: np.ndarray) -> bool:
        return bool((found > 0.5)[unknown].sum() > RIM * (found > 0.5).sum())

    if unknown.any() and goes_on_there(_back_on(found_roughly(frame, scene.behind.plate, scene.behind.noise), back)):
        return None
    with crew(1) as aside:
        asked = None if person is None else aside.submit(person, frame, True)

        def likely() -> np.ndarray | None:
            found = None if asked is None else asked.result()
            return None if found is None else found * seen

        proposal = _found(frame, at, scene, likely)
    if np.array_equal(back, np.eye(3)):
        return proposal
    assert proposal.says is not None
    found, says = (_back_on(values, back) for values in (proposal.found, proposal.says))
    return None if goes_on_there(found) else Proposal(found, proposal.warnings, says)


def _unknown(back: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """Where a frame (h, w), on which a scene lies as `back` (3, 3) says, shows more than the scene, or almost.

    bool (h, w). A narrow strip at the frame's edge does not count: there the subject goes on as it does.
    """
    h, w = size
    outside = cv2.warpPerspective(np.zeros(size, np.uint8), back, (w, h), borderValue=1)
    strip = round(STRIP * max(h, w))
    wide = (cv2.distanceTransform(outside, cv2.DIST_L2, 5) > strip).astype(np.uint8)
    return cv2.dilate(wide, np.ones((2 * strip + 9, 2 * strip + 9), np.uint8)) > 0


def _back_on(values: np.ndarray, back: np.ndarray) -> np.ndarray:
    """Values (h, w) of a scene as the frame sees them on which it lies as `back` (3, 3) says."""
    size = values.shape[1], values.shape[0]
    return cv2.warpPerspective(values, back, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _ways_onto(frame: np.ndarray, at: int, scene: Scene) -> Ways | None:
    """How the frames of a scene lie on another frame of its shot, by its number, if that can be told from there."""
    known = scene.stack.ways
    if not known:
        return None
    back = _scene_on(frame, at, scene)
    onto = known.get(at) if back is None else np.linalg.inv(back)
    if onto is None:
        return None
    return {n: np.linalg.inv(onto) @ way for n, way in known.items()} | {at: np.eye(3)}


def _found(frame: np.ndarray, number: int, scene: Scene, person: Later, or_lingers: bool = False) -> Proposal:
    """What moves in a frame as the scene sees it; or, if that is nothing and is wanted, what never comes to rest."""

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
        proposal = differing(frame, behind, believed, whose=own.result)
        if or_lingers and _share(proposal) < LEAST:
            return differing(frame, behind, believed, whose=own.result, lingers=True)
    return proposal


def _onto_scene(frames: Sequence[np.ndarray], at: int, scene: Scene):
    """Frame `at` as the scene's frame sees it, the way back (3, 3), and where it shows anything; None if too little."""
    frame = frames[at]
    plate, (h, w) = scene.behind.plate, frame.shape[:2]
    if scene.stack.still:
        return evened(frame, plate, np.ones((h, w), bool)), np.eye(3), np.ones((h, w), np.float32)
    back = _scene_on(frame, at, scene)
    if back is None or np.abs(np.linalg.svd(back[:2, :2] / back[2, 2], compute_uv=False) - 1).max() > NEARER:
        return None
    onto = np.linalg.inv(back)
    seen = cv2.warpPerspective(np.ones((h, w), np.float32), onto, (w, h))
    if seen.mean() < 0.8:
        return None
    whole = seen > 0.99
    laid = evened(cv2.warpPerspective(frame, onto, (w, h), flags=cv2.INTER_LINEAR), plate, whole)
    return np.where(whole[..., None], laid, plate), back / back[2, 2], whole.astype(np.float32)


def _scene_on(frame: np.ndarray, at: int, scene: Scene) -> np.ndarray | None:
    """How a scene lies on another frame of its shot, by its number: (3, 3), or None if the camera got lost.

    Followed from the plate, which has no subject to be led astray by, beginning where a frame near by was found.
    """
    near = min(scene.stack.ways, key=lambda n: abs(n - at))
    base, other = contrast(scene.behind.plate), contrast(frame)
    return between(base, other, features(base), np.linalg.inv(scene.stack.ways[near]))


def pick_difference(frame: np.ndarray, plate: np.ndarray) -> Proposal:
    """What a frame shows that its clean plate does not, both uint8 RGB (h, w, 3) at the working size.

    Raises Refusal if they do not differ, or differ everywhere.
    """
    gain = (np.median(frame.reshape(-1, 3), 0) + 1) / (np.median(plate.reshape(-1, 3), 0) + 1)
    if np.abs(gain - 1).max() < 0.3:
        plate = np.clip(plate * gain, 0, 255).astype(np.uint8)
    size = frame.shape[:2]
    usual = min(float(np.median(beyond(frame, plate, plate))), 5.0)
    noise, support = (np.full(size, value, np.float32) for value in (usual + 1.5, 9))
    proposal = differing(frame, Behind(plate, noise, support))
    share = _share(proposal)
    if share < LEAST:
        raise Refusal("The frame and the plate show the same. Choose a plate of the scene without the subject.")
    if share > ALL:
        raise Refusal("The frame and the plate differ nearly everywhere. Choose a plate from the same camera.")
    return proposal


def differing(
    frame: np.ndarray, behind: Behind, finder: Later = lambda: None, second: Second = reconsidered,
    lingers: bool = False, whose: Later = lambda: None,
) -> Proposal:  # fmt: skip
    """What stands out from what is known to lie behind it.

    A person `finder` speaks where hardly any frame has seen what is behind; somebody has a `second` opinion. If
    somebody `lingers`, what never comes to rest stands out as well: waves and leaves do, too. whose: asked when it is
    needed, says whether a pixel goes with the subject or with the scene, float32 (h, w), -1…1, see `own_way`.
    """
    plate, noise, sways = behind.plate, behind.noise, behind.sways
    differs = behind.apart(frame)
    # A blurred edge differs long before it is half subject: the level is a third of what its surroundings reach.
    reached = cv2.dilate(cv2.medianBlur(np.clip(differs, 0, 255).astype(np.uint8), 3), np.ones((7, 7), np.uint8))
    level = np.maximum(np.maximum(2.6 * noise, 7.0), 0.33 * np.minimum(reached, 80))
    strong = differs / level
    shade = shaded(frame, plate, noise)
    unsure = np.clip(1.6 - behind.support / 2.5, 0, 1)  # hardly any frame knows what is behind
    unsure = np.maximum(unsure, _ramp(behind.unrest, UNREST) * (1 - sways))  # the plate may show somebody who lingers
    textures = textures_apart(frame, plate, noise)
    # What lies in shade keeps its texture, and something plain gets none from it.
    shade &= cv2.blur(np.maximum(textures, 0), (9, 9)) < OTHER_TEXTURE
    textures *= (1 - unsure) * (1 - sways)
    tie = tie_of(edges_of(lab(frame)), 0.8)
    person = finder()
    if person is not None:
        shade &= person < 0.4
    unsure[shade] *= BORNE_OUT  # a shadow shows its place
    strong = np.where(shade, np.minimum(0.12 * strong, 0.2), strong)
    moves = np.tanh((cv2.GaussianBlur(strong.astype(np.float32), (0, 0), 0.6) - 1.0) * 0.9) * (1 - 0.7 * unsure)
    moves = np.clip(moves + np.where(textures > 0, TEXTURE, SAME_TEXTURE) * textures, -1, 1)
    if lingers:
        moves = np.clip(moves + LINGERS * _ramp(behind.unrest, GREAT_UNREST) * (1 - sways), -1, 1)
    scenes = np.zeros_like(moves)
    own = whose()
    if own is not None:
        own = np.where(shade, np.minimum(own, 0), own)  # a shadow goes with whoever casts it
        # A foot that is put down stays where the scene does, but is known not to be the scene.
        scenes = np.minimum(own, 0) * (1 - np.maximum(moves, 0) * (1 - unsure))
        moves = np.clip(moves + (OWN + OWN_UNSURE * unsure) * (np.maximum(own, 0) + scenes), -1, 1)
    if person is not None:
        sure = 2 * person - 1
        says = np.where(sure > 0, 1 + scenes, 0.3) * sure * np.abs(sure)  # who goes with the scene is a part of it
        moves = np.clip(moves + (0.25 + 0.75 * unsure) * says, -1, 1)
    colours, behind_it = lab(frame, SPACES[1]), lab(plate, SPACES[1])
    u = minimal_cut(1.1 * moves, tie, None, 200)
    answer = None
    for _ in range(ROUNDS):
        u = _worthy(u, strong, sways)
        hard, core, rest = _sides(u)
        if core.sum() < 60 or rest.sum() < 60:
            break
        near = _beside(hard)
        others = rest & (unsure < LITTLE)
        box = around(near, MARGIN)
        known = near & (unsure < 0.5)
        long = 0.25 * math.hypot(*(side.stop - side.start + 3 for side in around(hard > 0, 0)))
        with crew(1) as aside:
            each = aside.submit(known_to_each, colours, core, others, box)
            here = _leaning_here(colours, behind_it, core, known if known.sum() > 60 else near, near, long)
            kept, dropped = each.result()
        wish = 0.95 * moves + 0.35 * here - 0.15 * ~near
        answer = Answer(frame, wish, here, kept, dropped, u, core, others, person, unsure)
        wish = second(answer, near, ALIKE + (UNSURE - ALIKE) * unsure, JUDGED)
        before, u = u, recut(u, wish, tie, box, 160)
        if overlap(before > 0.5, u > 0.5) > SETTLED:
            break
    u = _worthy(u, strong, sways)
    if answer is not None:
        _, core, rest = _sides(u)
        others = rest & (unsure < LITTLE)
        u = _worthy(from_near(replace(answer, wish=wish, found=u, ours=core, others=others)), strong, sways)
    warnings = []
    if lingers:
        warnings.append("Nothing crosses the scene here. This is what never comes to rest in it.")
    elif (unsure * (u > 0.5)).sum() > 0.2 * max(1, (u > 0.5).sum()):
        warnings.append("For most of the shot the subject covers what is behind it, which is partly a guess.")
    return Proposal(u, tuple(warnings), moves)


def _beside(hard: np.ndarray) -> np.ndarray:
    """What is found, uint8 (h, w), 0 or 1, and what is near to it: bool (h, w)."""
    box = around(hard > 0, max(BESIDE.shape))
    near = np.zeros(hard.shape, bool)
    near[box] = cv2.dilate(np.ascontiguousarray(hard[box]), BESIDE) > 0
    return near


def _leaning_here(
    colours: np.ndarray, behind: np.ndarray, ours: np.ndarray, others: np.ndarray, where: np.ndarray, long: float
) -> np.ndarray:
    """Whose colours those around each pixel are, of the subject or of what is behind it: see `leaning_of`.

    colours, behind: those of the frame and the plate, float32 (h, w, 3); ours, others: bool (h, w), what of the one
    and of the other is known; long: the pixels that count as much as a difference that is easily seen.
    """
    box = around(where, 0)
    spots, spots_behind = (placed(np.ascontiguousarray(v[box]), long, PLACE) for v in (colours, behind))
    keep, drop = (Mixture.of(s[known[box]], 24, 4.0) for s, known in ((spots, ours), (spots_behind, others)))
    result = np.zeros(where.shape, np.float32)
    result[box] = leaning_of(spots, keep, drop, where[box])
    return result


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """What two areas, bool (h, w), have in common, of all that either covers."""
    return float((one & other).sum() / max(1, (one | other).sum()))


def _ramp(values: np.ndarray, ends: tuple[float, float]) -> np.ndarray:
    """From 0 at the one end to 1 at the other: float32."""
    return np.clip((values - ends[0]) / (ends[1] - ends[0]), 0, 1).astype(np.float32)


def _sides(u: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What is found, uint8 (h, w), 0 or 1; what of that surely is, and what surely is not, bool (h, w)."""
    hard = (u > 0.5).astype(np.uint8)
    return hard, cv2.erode(hard, np.ones((3, 3))) > 0, cv2.dilate(hard, np.ones((9, 9))) == 0


def _worthy(u: np.ndarray, strong: np.ndarray, sways: np.ndarray) -> np.ndarray:
    """The parts of an answer that are large and strong enough: beside the largest part, or in a chain with it, less is.

    What only sways, float32 (h, w), 0…1, has to be large to count.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats((u > 0.5).astype(np.uint8), connectivity=8)
    if count < 2:
        return u
    areas = stats[:, cv2.CC_STAT_AREA]
    weight = np.bincount(labels.ravel(), np.minimum(strong, 6).ravel(), minlength=count)
    weight[0] = 0
    largest = labels == int(np.argmax(weight))
    reach = 2 * round(0.06 * math.sqrt(largest.size)) + 1
    beside = np.zeros(count, bool)
    beside[labels[cv2.dilate(largest.astype(np.uint8), np.ones((reach, reach), np.uint8)) > 0]] = True
    link = 2 * round(LINK * math.sqrt(largest.size)) + 1
    chains = cv2.connectedComponents(cv2.dilate((labels > 0).astype(np.uint8), np.ones((link, link), np.uint8)))[1]
    beside[labels[chains == chains[largest][0]]] = True  # a leg that is found in pieces
    often = np.bincount(labels.ravel(), sways.ravel(), minlength=count) / np.maximum(1, areas)
    enough = np.where(often > 0.5, 0.3, np.where(beside, 0.0015, 0.06))
    kept = (weight > enough * weight.max()) & (areas > 12)
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)
