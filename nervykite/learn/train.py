"""Trains the judge on lessons and writes it as a TensorFlow Lite model.

Runs in an environment of its own with `tensorflow-cpu` and `numpy`, which nothing else in the project needs:

    python nervykite/learn/train.py lessons-1.npz lessons-2.npz --steps 6000 --out nervykite/core/matte/judge.tflite
"""

import argparse
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import tensorflow as tf
from teaching import block, folded, learning, packed, unfolded
from tensorflow import keras

SIDE, SEEN, WISH = 128, 15, 3
"""The lessons' rows and columns, the values at each pixel, and which of them is the wish of the rules."""
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
BATCH, RATE = 16, 2e-3


def network() -> keras.Model:
    """The judge: a U-Net that corrects the rules' wish: (n, SIDE, SIDE, SEEN) and LAYERS to (n, SIDE, SIDE, 1)."""
    layers = keras.layers

    def of_looks(layer, side, width):
        x = layers.BatchNormalization(momentum=0.95)(layer)
        x = layers.SpatialDropout2D(0.15)(x)
        x = layers.ReLU()(layers.Conv2D(width, 1)(x))
        return layers.Resizing(side, side)(x)

    seen = layers.Input((SIDE, SIDE, SEEN))
    looked = [layers.Input((side, side, count)) for side, count in LAYERS]
    x, across = folded(seen, FOLD), []
    for depth, width in enumerate(WIDTHS):
        x = layers.MaxPool2D()(x) if depth else x
        if depth < len(LAYERS):
            x = layers.Concatenate()([x, of_looks(looked[depth], SIDE // FOLD >> depth, HEARD[depth])])
        x = block(x, width)
        across.append(x)
    x = layers.SpatialDropout2D(0.1)(across.pop())
    for width in WIDTHS[-2::-1]:
        x = layers.UpSampling2D(interpolation="bilinear")(x)
        x = block(layers.Concatenate()([x, across.pop()]), width)
    correction = unfolded(layers.Conv2D(FOLD**2, 1)(x), FOLD)
    wish = layers.Lambda(lambda v: 2 * v[..., WISH : WISH + 1])(seen)
    return keras.Model([seen, *looked], layers.Add()([correction, wish]))


def varied(seen: tf.Tensor, looked: tuple[tf.Tensor, ...], truth: tf.Tensor) -> tuple[list[tf.Tensor], tf.Tensor]:
    """Lessons cut closer, mirrored, in other colours, and some with a person finder that says nothing."""
    count = tf.shape(seen)[0]

    def chance(share: float) -> tf.Tensor:
        return tf.random.uniform((count, 1, 1, 1)) < share

    size = tf.random.uniform((count, 2), 0.65, 1)
    first = tf.random.uniform((count, 2)) * (1 - size)
    turned = tf.random.uniform((count, 2)) < (0.15, 0.5)  # upside down, sideways
    parts = tf.concat([tf.where(turned, first + size, first), tf.where(turned, first, first + size)], 1)

    def moved(values: tf.Tensor) -> tf.Tensor:
        return tf.image.crop_and_resize(values, parts, tf.range(count), values.shape[1:3])

    seen = moved(seen)
    gain = tf.random.uniform((count, 1, 1, 3), 0.7, 1.4) * tf.where(chance(0.15), -1.0, 1.0)
    colours = seen[..., :3] * gain + 0.2 * tf.random.normal((count, 1, 1, 3))
    said = seen[..., SAID] * tf.cast(chance(0.85), tf.float32)
    seen = tf.concat([colours, seen[..., 3 : SAID.start], said, seen[..., SAID.stop :]], -1)
    return [seen, *(moved(layer) for layer in looked)], moved(truth)


def loss_of(answer: tf.Tensor, truth: tf.Tensor) -> tf.Tensor:
    """Cross entropy, and what is missing to a full overlap."""
    wrong = tf.reduce_mean(tf.nn.sigmoid_cross_entropy_with_logits(truth, answer))
    likely = tf.sigmoid(answer)
    shared = tf.reduce_sum(likely * truth, [1, 2, 3])
    either = tf.reduce_sum(likely + truth - likely * truth, [1, 2, 3])
    return 2 * wrong + tf.reduce_mean(1 - (shared + 1) / (either + 1))


def train(seen: np.ndarray, looked: list[np.ndarray], truth: np.ndarray, steps: int) -> Iterator[keras.Model]:
    """A judge as it learns from lessons (n, SIDE, SIDE, SEEN) and LAYERS and their truth, uint8 (n, SIDE, SIDE).

    It is handed out now and then, and at the end.
    """
    model = network()

    def loss(seen: tf.Tensor, truth: tf.Tensor, *looked: tf.Tensor) -> tf.Tensor:
        shown, truth = varied(seen, looked, truth)
        return loss_of(model(shown, training=True), truth)

    def draw(rng: np.random.Generator) -> tuple[np.ndarray, ...]:
        chosen = rng.integers(0, len(seen), BATCH)
        answer = truth[chosen][..., None].astype(np.float32) / 255
        return seen[chosen], answer, *(layer[chosen] for layer in looked)

    for _ in learning(model, steps, RATE, loss, draw):
        yield model


def main() -> None:
    """Reads lessons, trains, and writes the model."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("lessons", type=Path, nargs="+")
    parser.add_argument("--steps", type=int, default=10000)
    parser.add_argument("--out", type=Path, required=True)
    given = parser.parse_args()
    names = "seen", "truth", *(f"layer{k}" for k in range(len(LAYERS)))
    files = [np.load(file) for file in given.lessons]
    seen, truth, *looked = (np.concatenate([file[name] for file in files]) for name in names)
    for model in train(seen, looked, truth, given.steps):
        given.out.write_bytes(packed(model, (SIDE, SEEN), *LAYERS))


if __name__ == "__main__":
    main()
