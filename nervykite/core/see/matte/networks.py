"""Small networks that npm packages ship, loaded from where those are installed and never fetched.

`@mediapipe/selfie_segmentation` says where people are; `@mediapipe/pose` finds figures and their silhouettes;
`@mediapipe/objectron` finds things, of which only the layers before its answer are listened to (`looks.py`). All are
TensorFlow Lite models under the Apache licence 2.0.
"""

import functools
import json
import os
import re
import threading
from contextlib import suppress
from pathlib import Path

import numpy as np

from ...common.aside import cores
from ...common.errors import Refusal
from ...common.kept import Kept
from .trimmed import trimmed

PEOPLE = "selfie_segmentation/selfie_segmentation.tflite"
SILHOUETTE = "pose/pose_landmark_full.tflite"
CAREFUL = "pose/pose_landmark_heavy.tflite"
DETECTOR = "pose/pose_solution_packed_assets.data"
THINGS = "objectron/objectron_solution_packed_assets.data"
PACKED = {DETECTOR: "pose_detection.tflite", THINGS: "object_detection_ssd_mobilenetv2_oidv4_fp16.tflite"}
"""What is one of the files that a package packs into one, and how that file's name ends."""

ANSWERS, LISTENED_TO = 48, 3
"""How many answers about people are remembered, of each network; and how many of its outputs, the first ones, count."""


def home() -> Path:
    """Where the packages are looked for: NERVYKITE_NETWORKS, or beside the page's packages."""
    given = os.environ.get("NERVYKITE_NETWORKS")
    return Path(given) if given else Path(__file__).parents[4] / "web/node_modules/@mediapipe"


class Network:
    """A network that can be asked from several threads, one after the other.

    It remembers so many of its answers: where people are is asked again with each stroke, mostly in the same places.
    """

    def __init__(self, model: bytes, remembers: int = 0, outputs: int | None = None) -> None:
        from ai_edge_litert.interpreter import Interpreter

        self._interpreter = Interpreter(model_content=model, num_threads=cores())
        self._interpreter.allocate_tensors()
        inputs = sorted(self._interpreter.get_input_details(), key=lambda one: -one["shape"][1])
        self._inputs = [one["index"] for one in inputs]
        self.shapes = [one["shape"][1:] for one in inputs]
        self._outputs = [d["index"] for d in self._interpreter.get_output_details()][:outputs]
        self._remembers = remembers
        self._known: Kept[list[np.ndarray]] | None = Kept(remembers) if remembers else None
        self._lock = threading.Lock()

    def __call__(self, *values: np.ndarray) -> list[np.ndarray]:
        """The outputs for its inputs (h, w, n), the one with the most rows first; each without its batch axis.

        They are not to be written to.
        """
        given = [np.ascontiguousarray(value, np.float32) for value in values]
        if self._known is None:
            return self._asked(given)
        question = tuple(hash(value.tobytes()) for value in given)
        answer = self._known.peek(question)
        if answer is None:
            self._known[question] = answer = self._asked(given)
        return answer

    def _asked(self, given: list[np.ndarray]) -> list[np.ndarray]:
        with self._lock:
            for value, at in zip(given, self._inputs, strict=True):
                self._interpreter.set_tensor(at, value[None])
            self._interpreter.invoke()
            return [self._interpreter.get_tensor(k)[0] for k in self._outputs]

    def forget(self) -> None:
        """Forgets its answers."""
        if self._known is not None:
            self._known = Kept(self._remembers)

    def warm_up(self) -> None:
        """Asks it about nothing, once, as the first answer takes longest."""
        self(*(np.zeros(shape, np.float32) for shape in self.shapes))


def network(name: str, layers: tuple[int, ...] = ()) -> Network:
    """One of the networks above, or some layers of it, by the numbers of their tensors.

    Raises Refusal with the reason if it is absent.
    """
    return _loaded(home(), name, layers)


@functools.cache
def _loaded(folder: Path, name: str, layers: tuple[int, ...]) -> Network:
    path = folder / name
    if not path.is_file():
        raise Refusal("Pick person is off: the person network is not installed (run “make setup”). Use marks instead.")
    model = path.read_bytes()
    if name in PACKED:
        index = path.with_name(f"{path.stem}_loader.js").read_text()
        listed = re.search(r'"files":\s*(\[.*?\])', index)
        entry = next(e for e in json.loads(listed[1]) if e["filename"].endswith(PACKED[name]))  # type: ignore[index]
        model = model[entry["start"] : entry["end"]]
    try:
        return Network(trimmed(model, layers)) if layers else Network(model, ANSWERS, LISTENED_TO)
    except ImportError as error:
        raise Refusal("Pick person is off: the package ai-edge-litert is not installed. Use marks instead.") from error


@functools.cache
def shipped(file: Path) -> Network | None:
    """A network that is part of the program, by its file; None if no network can be run here."""
    try:
        return Network(file.read_bytes())
    except ImportError:
        return None


def warm_up(file: Path) -> None:
    """Loads one of those and asks it once, as the first answer takes longest."""
    network = shipped(file)
    if network is not None:
        network.warm_up()


FINDERS = PEOPLE, DETECTOR, SILHOUETTE, CAREFUL
"""Those that find people, and remember where."""


def load() -> None:
    """Loads all finders and asks each once, as the first answer takes longest. Raises Refusal if they are absent."""
    for name in FINDERS:
        network(name).warm_up()


def forget() -> None:
    """Has all finders forget their answers, so that a clock shows the time of a first one."""
    with suppress(Refusal):
        for name in FINDERS:
            network(name).forget()


def likely(logits: np.ndarray) -> np.ndarray:
    """Logits as likelihoods, 0…1."""
    return 1 / (1 + np.exp(-np.clip(logits, -60, 60)))
