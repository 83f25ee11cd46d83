"""Trains the tracer on traces and writes it as a TensorFlow Lite model; in the same environment as `train.py`.

python tools/learn/train_tracer.py traces-1.npz traces-2.npz --steps 2500 --out nervykite/core/see/matte/tracer.tflite
"""

import argparse
from pathlib import Path

import numpy as np
import tensorflow as tf
from teaching import block, folded, learning, packed, unfolded
from tensorflow import keras

SIDE, UNIT, BEYOND = 64, 7, 16.0
"""A square's rows and columns; what a pixel of distance is stored as; and the farthest that is told, px."""
FOLD = 2
"""Rows and columns of pixels that are taken as one with all their values."""
WIDTHS = (48, 64, 96, 96)
"""Values at each size of the network, each size half of the one before."""
SURE = 8.0
"""How sure it is of the outline it was shown, before it has learned anything, as far from that as is told."""
NEAR, FARTHER = 12.0, 0.05
"""How far from the outline it has to be right, px; and how much what is farther away counts."""
OFF = 0.7
"""How much the mean error counts beside the cross entropy."""
BATCH, RATE = 64, 2e-3


def network() -> keras.Model:
    """The tracer: a U-Net that corrects an outline: (n, SIDE, SIDE, 4) to logits (n, SIDE, SIDE, 1)."""
    layers = keras.layers
    seen = layers.Input((SIDE, SIDE, 4))
    x, across = folded(seen, FOLD), []
    for depth, width in enumerate(WIDTHS):
        x = block(layers.MaxPool2D()(x) if depth else x, width)
        across.append(x)
    x = across.pop()
    for width in WIDTHS[-2::-1]:
        x = layers.UpSampling2D(interpolation="bilinear")(x)
        x = block(layers.Concatenate()([x, across.pop()]), width)
    correction = unfolded(layers.Conv2D(FOLD**2, 1)(x), FOLD)
    outline = layers.Lambda(lambda v: SURE * v[..., 3:])(seen)
    return keras.Model(seen, layers.Add()([correction, outline]))


def varied(picture: tf.Tensor, away: tf.Tensor, truth: tf.Tensor) -> tuple[tf.Tensor, tf.Tensor]:
    """Squares, as the tracer is shown them, and their truth: mirrored, turned, in other colours."""
    colours, count = tf.cast(picture, tf.float32), tf.shape(picture)[0]
    mean = tf.reduce_mean(colours, [1, 2], keepdims=True)
    colours = (colours - mean) / (tf.math.reduce_std(colours, [1, 2, 3], keepdims=True) + 8)
    gain = tf.random.uniform((count, 1, 1, 3), 0.75, 1.33)
    gain *= tf.where(tf.random.uniform((count, 1, 1, 1)) < 0.15, -1.0, 1.0)
    colours = colours * gain + 0.15 * tf.random.normal((count, 1, 1, 3))
    all_of_it = tf.concat(
        [colours, *(tf.cast(v, tf.float32)[..., None] / by for v, by in ((away, UNIT * BEYOND), (truth, 255)))], -1
    )
    all_of_it = tf.image.random_flip_left_right(tf.image.random_flip_up_down(all_of_it))
    turned = tf.transpose(all_of_it, [0, 2, 1, 3])
    all_of_it = tf.where(tf.random.uniform((count, 1, 1, 1)) < 0.5, turned, all_of_it)
    return all_of_it[..., :4], all_of_it[..., 4:]


def loss_of(answer: tf.Tensor, truth: tf.Tensor, away: tf.Tensor) -> tf.Tensor:
    """Cross entropy and mean error near the outline; `away` in parts of BEYOND."""
    counts = tf.where(tf.abs(away) < NEAR / BEYOND, 1.0, FARTHER)
    wrong = tf.nn.sigmoid_cross_entropy_with_logits(truth, answer) + OFF * tf.abs(tf.sigmoid(answer) - truth)
    return tf.reduce_sum(counts * wrong) / tf.reduce_sum(counts)


def main() -> None:
    """Reads traces, trains, and writes the model as it learns."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("traces", type=Path, nargs="+")
    parser.add_argument("--steps", type=int, default=2500)
    parser.add_argument("--out", type=Path, required=True)
    given = parser.parse_args()
    files = [np.load(file) for file in given.traces]
    picture, away, truth = (np.concatenate([file[name] for file in files]) for name in ("picture", "away", "truth"))
    model = network()

    def loss(*traces: tf.Tensor) -> tf.Tensor:
        shown, wanted = varied(*traces)
        return loss_of(model(shown, training=True), wanted, shown[..., 3:4])

    def draw(rng: np.random.Generator) -> tuple[np.ndarray, ...]:
        chosen = rng.integers(0, len(picture), BATCH)
        return picture[chosen], away[chosen], truth[chosen]

    likely = keras.Model(model.input, keras.layers.Activation("sigmoid")(model.output))
    for _ in learning(model, given.steps, RATE, loss, draw):
        given.out.write_bytes(packed(likely, (SIDE, 4)))


if __name__ == "__main__":
    main()
