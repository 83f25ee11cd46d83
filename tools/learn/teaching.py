"""The stuff of both networks: how they learn and are written; for `train.py` and `train_tracer.py` beside it."""

from collections.abc import Callable, Iterator

import numpy as np
import tensorflow as tf
from tensorflow import keras


def block(x, width: int):
    """Two convolutions, each with what evens its values out: (n, h, w, …) to (n, h, w, width)."""
    for _ in range(2):
        x = keras.layers.Conv2D(width, 3, padding="same", use_bias=False)(x)
        x = keras.layers.ReLU()(keras.layers.BatchNormalization(momentum=0.95)(x))
    return x


def folded(x, by: int):
    """Squares of `by` × `by` pixels as one pixel with all their values."""
    return keras.layers.Lambda(lambda v: tf.nn.space_to_depth(v, by))(x)


def unfolded(x, by: int):
    """The array that `folded` was given."""
    return keras.layers.Lambda(lambda v: tf.nn.depth_to_space(v, by))(x)


OFTEN = 500
"""Steps after which a network is handed out as it learns."""


def learning(
    model: keras.Model, steps: int, rate: float, loss_of, draw: Callable[[np.random.Generator], tuple[np.ndarray, ...]]
) -> Iterator[None]:
    """Takes so many steps towards a smaller loss of what is drawn for each; stops every OFTEN steps and at the end."""
    step = _step_of(model, steps, rate, loss_of)
    rng, losses = np.random.default_rng(0), []
    for number in range(1, steps + 1):
        losses.append(float(step(*draw(rng))))
        if number % 100 == 0:
            print(f"step {number}: loss {np.mean(losses[-100:]):.4f}", flush=True)
        if number % OFTEN == 0 or number == steps:
            yield


def _step_of(model: keras.Model, steps: int, rate: float, loss_of):
    """The function that takes one step towards a smaller `loss_of(*given)`, of so many in all, and returns the loss."""
    optimizer = keras.optimizers.AdamW(keras.optimizers.schedules.CosineDecay(rate, steps), weight_decay=1e-4)

    @tf.function
    def step(*given: tf.Tensor) -> tf.Tensor:
        with tf.GradientTape() as tape:
            loss = loss_of(*given)
        gradients, _ = tf.clip_by_global_norm(tape.gradient(loss, model.trainable_variables), 2.0)
        optimizer.apply_gradients(zip(gradients, model.trainable_variables, strict=True))
        return loss

    return step


def packed(model: keras.Model, *shapes: tuple[int, int]) -> bytes:
    """A network as a TensorFlow Lite model for one input at a time, its weights in eight bits.

    What it is shown stays as fine as it is, and is put into eight bits as it runs: that is as good and takes a quarter.
    shapes: the rows, which are as many as the columns, and the values of each input.
    """
    one = [keras.Input(batch_shape=(1, side, side, count)) for side, count in shapes]
    converter = tf.lite.TFLiteConverter.from_keras_model(keras.Model(one, model(one, training=False)))
    converter.optimizations = [tf.lite.Optimize.DEFAULT]
    return converter.convert()
