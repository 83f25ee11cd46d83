"""The tone finishes of a chain as one table of colours, for programs that know such tables."""

import numpy as np

from ...common.errors import Refusal
from ...piece.model import GroundItem, Layer
from ...piece.model.finish import Stage, Supplies
from .evaluate import Evaluation

SIDE = 33
"""How many entries the table has along each side."""


def tone_table(evaluation: Evaluation, owner: Layer | GroundItem, time: float, supplies: Supplies) -> np.ndarray:
    """The table of what becomes of each R'G'B' by the tone finishes of an owner at a time, one after the other: float32
    (SIDE, SIDE, SIDE, 3) by blue, green, red. What it wears besides is left out.

    Raises Refusal if it wears nothing of tone.
    """
    chain = [worn.look for worn in evaluation.worn(owner, time) if worn.look.looks == "tone"]
    if not chain:
        raise Refusal("There is no finish of tone to write as a table. Put one on, such as Tone or Duotone.")
    steps = np.linspace(0, 1, SIDE, dtype=np.float32)
    blue, green, red = np.meshgrid(steps, steps, steps, indexing="ij")
    rgba = np.stack([red, green, blue, np.ones_like(red)], -1).reshape(SIDE, SIDE * SIDE, 4)
    for look in chain:
        rgba = look.dress(rgba, Stage(1, canvas=(SIDE * SIDE, SIDE), opaque=True, supplies=supplies))
    return np.clip(rgba[..., :3], 0, 1).reshape(SIDE, SIDE, SIDE, 3)
