"""The badges of the two clubs, drawn as SVG; their PNG with alpha is made from the same shapes."""

import math
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

SIZE = 512


@dataclass(frozen=True)
class Shape:
    """A filled polygon (points in 512ths of the badge) of one colour."""

    points: tuple[tuple[float, float], ...]
    colour: str


def circle(x: float, y: float, r: float, colour: str, squeeze: float = 1.0) -> Shape:
    """A disc, as a polygon of 96 corners."""
    turn = np.linspace(0, 2 * np.pi, 97)[:-1]
    return Shape(tuple((x + r * math.cos(a), y + r * squeeze * math.sin(a)) for a in turn), colour)


def curve(colour: str, *points: tuple[float, float]) -> Shape:
    """A closed soft outline through points (a centripetal-free Catmull-Rom spline)."""
    p = np.array(points)
    drawn = []
    for i in range(len(p)):
        a, b, c, d = (p[(i + k) % len(p)] for k in (-1, 0, 1, 2))
        for u in np.linspace(0, 1, 13)[:-1]:
            drawn.append(
                tuple(0.5 * (2 * b + (c - a) * u + (2 * a - 5 * b + 4 * c - d) * u**2 + (3 * b - a - 3 * c + d) * u**3))
            )
    return Shape(tuple((float(x), float(y)) for x, y in drawn), colour)


def hares() -> list[Shape]:
    """Harbour Hares: a hare's head over two waves."""
    coral, cream, teal, mustard, navy = "#EE5B42", "#F7EBD4", "#1A8593", "#FDC438", "#223259"
    shapes = [circle(256, 256, 250, navy), circle(256, 256, 232, mustard), circle(256, 256, 206, teal)]
    for left in (1, -1):
        ear = [(232, 250), (196, 150), (178, 66), (206, 58), (240, 132), (256, 236)]
        inner = [(232, 226), (208, 150), (197, 92), (206, 88), (230, 142), (246, 222)]
        for outline, colour in ((ear, cream), (inner, coral)):
            shapes.append(curve(colour, *[(x if left > 0 else 512 - x, y) for x, y in outline]))
    shapes.append(
        curve(cream, (256, 206), (318, 236), (330, 296), (292, 350), (256, 366), (220, 350), (182, 296), (194, 236))
    )
    for x in (222, 290):
        shapes += [circle(x, 274, 15, navy, 1.25), circle(x + 4, 267, 5, cream)]
    shapes.append(curve(coral, (256, 330), (240, 314), (256, 308), (272, 314)))
    for k, (y, colour) in enumerate(((372, cream), (408, mustard))):
        top = [(96 + 20 * k + i * (320 - 40 * k) / 16, y + 11 * math.sin(i * math.pi / 2 + k)) for i in range(17)]
        low = [(x, y2 + 17) for x, y2 in reversed(top)]
        shapes.append(Shape(tuple(top + low), colour))
    return shapes


def swifts() -> list[Shape]:
    """Salt Lane Swifts: a swift across a low sun."""
    deep, cream, ochre, orange = "#3D6FA0", "#F3EBDD", "#E0A33A", "#E8702A"
    night = "#16283E"
    shield = [(256, 10), (376, 38), (486, 52), (480, 230), (430, 366), (340, 456), (256, 504), (172, 456), (82, 366),
              (32, 230), (26, 52), (136, 38)]  # fmt: skip
    middle = np.array((256.0, 250.0))
    shapes = [
        curve(colour, *[tuple(middle + (np.array(p) - middle) * scale) for p in shield])
        for colour, scale in ((night, 1.0), (cream, 0.93), (deep, 0.86))
    ]
    shapes.append(circle(256, 300, 104, orange))
    for k in range(4):
        y = 312 + 24 * k
        shapes.append(Shape(((130, y), (382, y), (382, y + 7 + 2 * k), (130, y + 7 + 2 * k)), deep))
    shapes.append(
        curve(night, (60, 118), (150, 176), (214, 190), (252, 166), (288, 158), (318, 172), (306, 190), (330, 224),
              (402, 262), (444, 330), (372, 296), (292, 262), (262, 250), (220, 282), (150, 316), (176, 272),
              (128, 276), (206, 232), (150, 204))
    )  # fmt: skip
    shapes.append(curve(cream, (284, 168), (304, 170), (300, 180), (282, 182)))
    shapes += [circle(256, 96, 15, ochre), circle(212, 106, 9, ochre), circle(300, 106, 9, ochre)]
    return shapes


BADGES = {"harbour-hares": hares, "salt-lane-swifts": swifts}


def as_svg(shapes: list[Shape]) -> str:
    """The badge as an SVG document."""
    paths = []
    for shape in shapes:
        corners = " L".join(f"{x:.1f} {y:.1f}" for x, y in shape.points)
        paths.append(f'  <path fill="{shape.colour}" d="M{corners} Z"/>')
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {SIZE} {SIZE}" width="{SIZE}" height="{SIZE}">'
    return "\n".join([head, *paths, "</svg>", ""])


def as_picture(shapes: list[Shape], size: int = SIZE) -> np.ndarray:
    """The badge as uint8 RGBA (size, size, 4), straight alpha, 4 × 4 samples a pixel."""
    many = size * 4
    canvas = np.zeros((many, many, 4), np.uint8)
    for shape in shapes:
        colour = tuple(int(shape.colour[i : i + 2], 16) for i in (1, 3, 5))
        points = np.round(np.array(shape.points) * many / SIZE * 16).astype(np.int32)
        cv2.fillPoly(canvas, [points], (*colour, 255), cv2.LINE_8, 4)
    premultiplied = canvas.astype(np.float32)
    premultiplied[..., :3] *= premultiplied[..., 3:] / 255
    small = cv2.resize(premultiplied, (size, size), interpolation=cv2.INTER_AREA)
    small[..., :3] /= np.maximum(small[..., 3:], 1e-3) / 255
    return np.clip(np.round(small), 0, 255).astype(np.uint8)


def write_badges(folder: Path) -> None:
    """Writes both badges as SVG and PNG."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, draw in BADGES.items():
        (folder / f"{name}.svg").write_text(as_svg(draw()))
        cv2.imwrite(str(folder / f"{name}.png"), cv2.cvtColor(as_picture(draw()), cv2.COLOR_RGBA2BGRA))
