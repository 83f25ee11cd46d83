"""Small networks that npm packages ship, loaded from where those are installed and never fetched.

`@mediapipe/selfie_segmentation` says where people are; `@mediapipe/pose` finds figures and their silhouettes. Both are
TensorFlow Lite models under the Apache licence 2.0.
"""

import functools
import json
import os
import re
import threading
import warnings
from pathlib import Path

import numpy as np

from ..errors import Refusal

PEOPLE = "selfie_segmentation/selfie_segmentation.tflite"
SILHOUETTE = "pose/pose_landmark_full.tflite"
CAREFUL = "pose/pose_landmark_heavy.tflite"
DETECTOR = "pose/pose_solution_packed_assets.data"
INDEX = "pose/pose_solution_packed_assets_loader.js"

# It warns of the memory that asking for layers takes, which is little here.
warnings.filterwarnings("ignore", message=".*experimental_preserve_all_tensors", category=UserWarning)


def home() -> Path:
    """Where the packages are looked for: NERVYKITE_NETWORKS, or beside the page's packages."""
    given = os.environ.get("NERVYKITE_NETWORKS")
    return Path(given) if given else Path(__file__).parents[3] / "web/node_modules/@mediapipe"


class Network:
    """A network that can be asked from several threads, one after the other.

    layers: what it is asked for, by the numbers of its tensors, if that is not its answer.
    """

    def __init__(self, model: bytes, layers: tuple[int, ...] = ()) -> None:
        from ai_edge_litert.interpreter import Interpreter

        self._interpreter = Interpreter(
            model_content=model, num_threads=2, experimental_preserve_all_tensors=bool(layers)
        )
        self._interpreter.allocate_tensors()
        self._input = self._interpreter.get_input_details()[0]["index"]
        self._outputs = list(layers) or [d["index"] for d in self._interpreter.get_output_details()]
        self._lock = threading.Lock()

    def __call__(self, values: np.ndarray) -> list[np.ndarray]:
        """The outputs for one input (h, w, 3), each without its batch axis."""
        with self._lock:
            self._interpreter.set_tensor(self._input, np.ascontiguousarray(values, np.float32)[None])
            self._interpreter.invoke()
            return [self._interpreter.get_tensor(k)[0] for k in self._outputs]


def network(name: str, layers: tuple[int, ...] = ()) -> Network:
    """PEOPLE, SILHOUETTE, CAREFUL or DETECTOR, or some layers of it. Raises Refusal with the reason if it is absent."""
    return _loaded(home(), name, layers)


@functools.cache
def _loaded(folder: Path, name: str, layers: tuple[int, ...]) -> Network:
    path = folder / name
    if not path.is_file():
        raise Refusal("Pick person is off: the person network is not installed (run “make setup”). Use marks instead.")
    model = path.read_bytes()
    if name == DETECTOR:  # one of the files that the package packs into one
        listed = re.search(r'"files":\s*(\[.*?\])', (folder / INDEX).read_text())
        entry = next(e for e in json.loads(listed[1]) if e["filename"].endswith("pose_detection.tflite"))  # type: ignore[index]
        model = model[entry["start"] : entry["end"]]
    try:
        return Network(model, layers)
    except ImportError as error:
        raise Refusal("Pick person is off: the package ai-edge-litert is not installed. Use marks instead.") from error


def load() -> None:
    """Loads all of them and asks each once, as the first answer takes longest. Raises Refusal if they are not there."""
    for name, side in ((PEOPLE, 256), (DETECTOR, 224), (SILHOUETTE, 256), (CAREFUL, 256)):
        network(name)(np.zeros((side, side, 3), np.float32))


def likely(logits: np.ndarray) -> np.ndarray:
    """Logits as likelihoods, 0…1."""
    return 1 / (1 + np.exp(-np.clip(logits, -60, 60)))
