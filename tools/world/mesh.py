"""Thin things as triangles in world space, with their light worked out at the corners."""

import numpy as np

from .place import SUN
from .solids import unit

SUNLIGHT = np.array([1.0, 0.86, 0.66]) * 2.3
SKYLIGHT = np.array([0.36, 0.44, 0.58])
BOUNCE = np.array([0.40, 0.29, 0.18])


class Mesh:
    """Triangles (n, 3, 3) and their colours, collected."""

    def __init__(self) -> None:
        self._points: list[np.ndarray] = []
        self._colours: list[np.ndarray] = []

    def grid(self, points: np.ndarray, colours: np.ndarray) -> None:
        """A sheet of points (rows, columns, 3) with a colour each."""
        for into, source in ((self._points, points), (self._colours, colours)):
            a, b, c, d = source[:-1, :-1], source[:-1, 1:], source[1:, 1:], source[1:, :-1]
            into.append(np.stack([a, b, c], 2).reshape(-1, 3, 3))
            into.append(np.stack([a, c, d], 2).reshape(-1, 3, 3))

    def triangle(self, a, b, c, colour) -> None:
        """One triangle of one colour."""
        self._points.append(np.array([[a, b, c]], float))
        self._colours.append(np.broadcast_to(np.asarray(colour, float), (1, 3, 3)))

    def arrays(self) -> tuple[np.ndarray, np.ndarray]:
        """All points and all colours, (n, 3, 3) each."""
        return np.concatenate(self._points), np.concatenate(self._colours)


def lit(normal: np.ndarray, albedo: np.ndarray, through: float = 0.0) -> np.ndarray:
    """Light off a surface; `through` is the share of sun that shines through cloth from behind."""
    facing = normal @ SUN
    up = (0.5 + 0.5 * normal[..., 1])[..., None]
    sun = np.clip(facing, 0, 1) + through * np.clip(-facing, 0, 1)
    return albedo * (sun[..., None] * SUNLIGHT + SKYLIGHT * up + BOUNCE * (1 - up))


def hazed(colour: np.ndarray, far: np.ndarray, thick: float = 0.0030) -> np.ndarray:
    """Colour seen through `far` metres of sea air."""
    share = (1 - np.exp(-np.asarray(far) * thick))[..., None] * 0.85
    return colour * (1 - share) + np.array((0.86, 0.84, 0.80)) * share


def depth_of(points: np.ndarray, camera: np.ndarray) -> np.ndarray:
    """The depth of points (…, 3) in front of the camera."""
    return (points - camera[:3]) @ camera[3:6]


def post(mesh, a, b, r1, r2, albedo, camera, sides=10):
    """A round post from a to b."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    along = unit(b - a)
    across = unit(np.cross(along, [0.3, 0.1, 1]))
    turn = np.linspace(0, 2 * np.pi, sides + 1)[:, None]
    normal = np.cos(turn) * across + np.sin(turn) * np.cross(across, along)
    points = np.stack([a + normal * r1, b + normal * r2])
    colours = np.stack([lit(normal, np.array(albedo))] * 2)
    mesh.grid(points, hazed(colours, depth_of(points, camera)))


def block(mesh, a, b, albedo, camera):
    """A box between two corners."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    for axis in range(3):
        i, j = (k for k in range(3) if k != axis)
        for side in (0, 1):
            normal = np.zeros(3)
            normal[axis] = side * 2 - 1
            points = np.zeros((2, 2, 3))
            points[..., axis] = (a, b)[side][axis]
            points[0, :, i], points[1, :, i] = a[i], b[i]
            points[:, 0, j], points[:, 1, j] = a[j], b[j]
            colour = np.broadcast_to(lit(normal, np.array(albedo)), points.shape)
            mesh.grid(points, hazed(colour, depth_of(points, camera), 0.0042))


def ribbon(mesh, points, width, colours, camera):
    """A flat band along points (n, 3) that always shows its broad side; width (n,) or a number."""
    points = np.asarray(points, float)
    side = np.cross(np.gradient(points, axis=0), camera[3:6])
    side /= np.linalg.norm(side, axis=1, keepdims=True) + 1e-9
    width = np.broadcast_to(np.asarray(width, float), (len(points),))[:, None]
    mesh.grid(np.stack([points - side * width, points + side * width], 1), np.stack([np.array(colours)] * 2, 1))
