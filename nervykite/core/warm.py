"""Compiles the kernels once, so that nobody waits for them later: `python -m nervykite.core.warm`."""

import functools
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress
from multiprocessing import get_context

import numpy as np

from .common.errors import Refusal
from .craft.finishing.compositing import lay_on
from .craft.finishing.likeness import with_tones
from .craft.finishing.tables import through_table
from .craft.synthesis.synth import moving_band
from .draw.picture.blending import blend
from .draw.picture.draw import PlacedSprite, draw
from .draw.picture.glass import On, lay, put_together
from .draw.picture.opened import closed, opened
from .draw.picture.sprite import pack_rgba
from .draw.picture.washing import wash_planes
from .draw.send.straight import straight
from .kinds.sources.worked import Worked, plane_of
from .piece.model import FinishKind, Source
from .piece.model.finish import Stage
from .see.carry.carry import carry
from .see.find import judge, looks, nearer
from .see.find.cut import minimal_cut
from .see.find.geodesic import geodesic_distance
from .see.footage.conversion import HLG, tone_map
from .see.footage.cube_lut import CubeLut
from .see.footage.planes import from_rgb, to_bgr
from .see.matte import networks, tracer
from .see.matte.colours import Mixture, lab, placed
from .see.matte.coverage import coverage
from .see.matte.fine import fine_edge
from .see.matte.fringe import own_colours
from .see.matte.tracer import traced
from .see.scene.behind import Behind
from .see.scene.difference import apart
from .see.scene.direct_alignment import by_edges
from .see.scene.own_way import medians
from .see.scene.plate import noise_of, plate_of
from .see.scene.resynth import resynthesised
from .see.scene.shade import shaded
from .see.scene.stack import Stack


def main() -> None:
    """Calls every kernel with a small picture, in two processes; numba keeps what it compiled on disk."""
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        for part in [pool.submit(part) for part in (dressing, carving, lettering, drawing)]:
            part.result()


def drawing() -> None:
    """The kernels that put pictures together, and those of sound."""
    planes = from_rgb(np.zeros((16, 16, 3), np.float32))
    to_bgr(planes)
    tone_map(np.zeros((4, 4, 3), np.uint16), HLG, True)
    coverage(np.array([[1.0, 1], [9, 2], [4, 9]]), 16, 16)
    sprite, tilted = pack_rgba(2, 2, np.ones((8, 8, 4), np.float32)), np.array([[1.1, 0, 0], [0, 1.1, 0], [0, 1e-3, 1]])
    draw(planes, [PlacedSprite(sprite, np.diag([1.1, 1.1, 1.0])), PlacedSprite(sprite, tilted)])
    blend(planes, PlacedSprite(sprite, np.diag([1.1, 1.1, 1.0])), "multiply")
    blend(planes, PlacedSprite(sprite, np.eye(3)), "multiply")
    inner = put_together([On(PlacedSprite(sprite, np.eye(3)))], (16, 16))
    assert inner is not None
    glass = put_together([On(inner)], (16, 16))
    assert glass is not None
    lay(planes, glass, 0.5, "normal")
    moving_band(np.zeros(8), np.full(8, 400.0), 1.0)


def dressing() -> None:
    """The kernels of finishes and washes."""
    planes = from_rgb(np.zeros((16, 16, 3), np.float32))
    picture = opened(planes)
    closed(picture)
    for depth in (np.uint8, np.uint16):
        straight(picture, depth)
    small = np.full((24, 24, 4), 0.5, np.float32)
    for look in FinishKind.family.all().values():
        done = look().dress(small, Stage(1.0, canvas=(24, 24), opaque=True, moment=0))
        pack_rgba(0, 0, done)
    pack_rgba(0, 0, small * np.array([1, 1, 1, 0], np.float32))  # light alone
    with_tones(small, [0.2, 0.3, 0.4, 0.5, 0.6, 0, 0, 0.1, 0.1], 1, 1)
    zero, one = np.zeros(3, np.float32), np.ones(3, np.float32)
    for sides in (1, 3):
        through_table(small, CubeLut(np.zeros((*[2] * sides, 3), np.float32), zero, one))
    wash_planes(planes, (), np.zeros((16, 16), np.float32), "normal", Stage(1.0, canvas=(16, 16), opaque=True))


def lettering() -> None:
    """The kernels of backdrops and of things in the air, and with them those that letters are painted with."""
    for kind in Source.family.all().values():
        if issubclass(kind, Worked):
            backdrop = kind()
            backdrop.painted(plane_of(backdrop, np.eye(3), (0, 0, 16, 16), (16, 16)), 0.0, (16, 16))
    lay_on(np.zeros((4, 4, 4), np.float32), np.ones((4, 4), np.float32), "#FFFFFF")


def carving() -> None:
    """The kernels that cut subjects out and build plates."""
    rng = np.random.default_rng(0)
    picture = rng.integers(0, 255, (40, 40, 3)).astype(np.uint8)
    outline = np.zeros((40, 40), np.float32)
    outline[10:30, 10:30] = 1
    own_colours(picture, fine_edge(picture, outline))
    traced(np.tile(picture, (3, 3, 1)), np.tile(outline, (3, 3)))
    colours = lab(picture)
    for samples in (colours, placed(colours, 10, 10)):
        Mixture.of(samples.reshape(-1, samples.shape[-1])).log_likelihood(samples)
    flat = np.ones((40, 40), np.float32)
    minimal_cut(outline - 0.5, flat, steps=20)
    geodesic_distance(outline > 0, flat)
    frames = np.stack([picture] * 4)
    stack = Stack(frames, np.ones(frames.shape[:3], bool), np.zeros(frames.shape[:3], bool), True)
    plate, support = plate_of(stack, np.zeros(frames.shape[:3], np.float32), np.zeros(frames.shape[:3], bool))
    Behind(255 - plate, noise_of(stack, plate), support, stack).apart(picture)  # all of which sways
    medians(np.zeros((2, 8, 8), np.float32))
    apart(picture, plate)
    resynthesised(np.tile(picture, (2, 2, 1)), np.pad(outline, (0, 40)) > 0)
    by_edges(picture[..., 0], picture[..., 0], np.eye(3))
    shaded((0.7 * picture).astype(np.uint8), picture)
    list(carry([picture] * 3, {0: outline}, [2]))


@functools.cache
def ready() -> None:
    """Loads what cuts subjects out, compiled kernels and networks, once, so that no first answer has to wait for it."""
    carving()
    judge.load()
    looks.load()
    nearer.load()
    tracer.load()
    with suppress(Refusal):
        networks.load()


if __name__ == "__main__":
    main()
