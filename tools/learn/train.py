r"""Trains the judge on lessons, or what looks from near on near lessons, and writes a TensorFlow Lite model.

Runs in an environment of its own with `tensorflow-cpu` and `numpy`, which nothing else in the project needs:

    python tools/learn/train.py lessons-1.npz lessons-2.npz --steps 6000 --weights judge.weights.h5 \
        --out nervykite/core/see/find/judge.tflite
    python tools/learn/train.py near-1.npz near-2.npz --near --start judge.weights.h5 --steps 2400 \
        --out nervykite/core/see/find/nearer.tflite

The network from near is the judge's own at twice the size, and goes on from what that has learned.
"""

import argparse
import functools
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import numpy as np
import tensorflow as tf
from teaching import block, folded, learning, packed, unfolded
from tensorflow import keras

SIDE, SEEN, UNARY = 128, 15, 3
"""The judge's rows and columns, the values at each pixel, and which of them is the unary term of the rules."""
NEAR_SIDE = 256
"""The rows and columns of who looks from near."""
SAID = slice(7, 9)
"""What a person finder says, among those values."""
LAYERS = ((75, 48), (38, 32), (19, 96))
"""Rows and values of the layers of looks that it is shown beside that, the largest first."""
FOLD = 2
"""Rows and columns of pixels that are taken as one with all their values: twice as fast to learn as each by itself."""
WIDTHS = (32, 64, 96, 128, 128)
"""Values at each size of the network, each size half of the one before."""
HEARD = (24, 24, 48)
"""How many values are made of a layer of looks where it is heard, at the first of those sizes."""


class Course(NamedTuple):
    """The course by which a network learns."""

    side: int
    """Its rows and columns when it has learned."""
    parts: tuple[float, float]
    """How much of a lesson is looked at, at least and at most, each way; always at SIDE."""
    rate: float


JUDGE, NEARER = Course(SIDE, (0.65, 1), 2e-3), Course(NEAR_SIDE, (0.4, 0.7), 1e-3)
"""What is learned on quarters of a lesson holds for the whole of it, and four times as many are learned."""
BATCH = 16


def network(side: int) -> keras.Model:
    """A U-Net that corrects the rules' unary term: (n, side, side, SEEN) and LAYERS to (n, side, side, 1)."""
    layers = keras.layers

    def of_looks(layer, size, width):
        x = layers.BatchNormalization(momentum=0.95)(layer)
        x = layers.SpatialDropout2D(0.15)(x)
        x = layers.ReLU()(layers.Conv2D(width, 1)(x))
        return layers.Resizing(size, size)(x)

    seen = layers.Input((side, side, SEEN))
    looked = [layers.Input((rows, rows, count)) for rows, count in LAYERS]
    x, across = folded(seen, FOLD), []
    for depth, width in enumerate(WIDTHS):
        x = layers.MaxPool2D()(x) if depth else x
        if depth < len(LAYERS):
            x = layers.Concatenate()([x, of_looks(looked[depth], side // FOLD >> depth, HEARD[depth])])
        x = block(x, width)
        across.append(x)
    x = layers.SpatialDropout2D(0.1)(across.pop())
    for width in WIDTHS[-2::-1]:
        x = layers.UpSampling2D(interpolation="bilinear")(x)
        x = block(layers.Concatenate()([x, across.pop()]), width)
    correction = unfolded(layers.Conv2D(FOLD**2, 1)(x), FOLD)
    unary = layers.Lambda(lambda v: 2 * v[..., UNARY : UNARY + 1])(seen)
    return keras.Model([seen, *looked], layers.Add()([correction, unary]))


def varied(
    course: Course, seen: tf.Tensor, looked: tuple[tf.Tensor, ...], truth: tf.Tensor
) -> tuple[list[tf.Tensor], tf.Tensor]:
    """Lessons cut closer, mirrored, in other colours, and some with a person finder that says nothing."""
    count = tf.shape(seen)[0]

    def chance(share: float) -> tf.Tensor:
        return tf.random.uniform((count, 1, 1, 1)) < share

    size = tf.random.uniform((count, 2), *course.parts)
    first = tf.random.uniform((count, 2)) * (1 - size)
    turned = tf.random.uniform((count, 2)) < (0.15, 0.5)  # upside down, sideways
    parts = tf.concat([tf.where(turned, first + size, first), tf.where(turned, first, first + size)], 1)

    def moved(values: tf.Tensor, side: int) -> tf.Tensor:
        return tf.image.crop_and_resize(values, parts, tf.range(count), (side, side))

    seen = moved(seen, SIDE)
    gain = tf.random.uniform((count, 1, 1, 3), 0.7, 1.4) * tf.where(chance(0.15), -1.0, 1.0)
    colours = seen[..., :3] * gain + 0.2 * tf.random.normal((count, 1, 1, 3))
    said = seen[..., SAID] * tf.cast(chance(0.85), tf.float32)
    seen = tf.concat([colours, seen[..., 3 : SAID.start], said, seen[..., SAID.stop :]], -1)
    return [seen, *(moved(layer, layer.shape[1]) for layer in looked)], moved(truth, SIDE)


def loss_of(answer: tf.Tensor, truth: tf.Tensor) -> tf.Tensor:
    """Cross entropy, and what is missing to a full overlap."""
    wrong = tf.reduce_mean(tf.nn.sigmoid_cross_entropy_with_logits(truth, answer))
    likely = tf.sigmoid(answer)
    shared = tf.reduce_sum(likely * truth, [1, 2, 3])
    either = tf.reduce_sum(likely + truth - likely * truth, [1, 2, 3])
    return 2 * wrong + tf.reduce_mean(1 - (shared + 1) / (either + 1))


def train(lessons: "Lessons", steps: int, course: Course, start: Path | None = None) -> Iterator[keras.Model]:
    """A network as it learns from lessons, from weights if there are any; handed out now and then, and at the end."""
    model = network(SIDE)
    if start is not None:
        model.load_weights(start)

    def loss(seen: tf.Tensor, truth: tf.Tensor, *looked: tf.Tensor) -> tf.Tensor:
        shown, truth = varied(course, seen, looked, truth)
        return loss_of(model(shown, training=True), truth)

    for _ in learning(model, steps, course.rate, loss, functools.partial(lessons.drawn, BATCH)):
        yield model


def averaged(model: keras.Model, learned: list[np.ndarray], files: list[Path]) -> list[np.ndarray]:
    """The mean of a model's weights as learned and as kept in files at other times, which errs less than any of them.

    Izmailov and others, "Averaging weights leads to wider optima and better generalization", 2018.
    """
    of_each = [learned]
    for file in files:
        model.load_weights(file)
        of_each.append(model.get_weights())
    return [np.mean(weights, 0) for weights in zip(*of_each, strict=True)]


class Lessons:
    """Lessons of some files: (n, side, side, SEEN) and LAYERS, and their truth, uint8 (n, side, side)."""

    def __init__(self, files: list[Path]) -> None:
        names = "seen", "truth", *(f"layer{k}" for k in range(len(LAYERS)))
        read = [np.load(file) for file in files]
        self._seen, self._truth, *self._looked = (np.concatenate([file[name] for file in read]) for name in names)

    def drawn(self, count: int, rng: np.random.Generator) -> tuple[np.ndarray, ...]:
        """So many of them: what is seen, the truth, 0…1, and each layer."""
        chosen = rng.integers(0, len(self._seen), count)
        answer = self._truth[chosen][..., None].astype(np.float32) / 255
        return self._seen[chosen], answer, *(layer[chosen] for layer in self._looked)


def main() -> None:
    """Reads lessons, trains, and writes the model."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("lessons", type=Path, nargs="+")
    parser.add_argument("--steps", type=int, default=10000)
    parser.add_argument("--near", action="store_true", help="they are near lessons")
    parser.add_argument("--start", type=Path, help="the weights to go on from")
    parser.add_argument("--weights", type=Path, help="where to write the weights, to go on from another time")
    parser.add_argument("--mean", type=Path, nargs="*", default=[], help="weights that those learned are averaged with")
    parser.add_argument("--out", type=Path, required=True)
    given = parser.parse_args()
    course = NEARER if given.near else JUDGE
    for model in train(Lessons(given.lessons), given.steps, course, given.start):
        if given.weights is not None:
            model.save_weights(given.weights)
        whole = network(course.side)
        whole.set_weights(averaged(whole, model.get_weights(), given.mean))
        given.out.write_bytes(packed(whole, (course.side, SEEN), *LAYERS))


if __name__ == "__main__":
    main()
