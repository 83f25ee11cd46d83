"""Easing: Bézier curves and steps after W3C CSS Easing Functions Level 1, and springs."""

import math

from ..model import Bezier, Easing, Spring, Stay, Steps

PRESETS: dict[str, tuple[float, float, float, float]] = {
    "linear": (0.0, 0.0, 1.0, 1.0),
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
    "soft landing": (0.16, 0.84, 0.30, 1.0),
    "late rush": (0.70, 0.0, 0.84, 0.16),
    "past and back": (0.30, 1.45, 0.55, 1.0),
}
"""Ready curves; the first five are the CSS keywords."""


def ease(easing: Easing, u: float, seconds: float = 1.0) -> float:
    """Progress of the value, usually 0…1, at progress `u` of the time, 0…1, from one key to the next.

    seconds: how long it is from one to the other, which only a spring asks for. At 0 and 1 it is 0 and 1 exactly, but
    for steps that jump at once.
    """
    if isinstance(easing, Bezier):
        return _bezier(easing, u)
    if isinstance(easing, Steps):
        return _stepped(easing, u)
    if isinstance(easing, Stay):
        return 0.0 if u < 1 else 1.0
    return _sprung(easing, u, seconds)


def _bezier(curve: Bezier, u: float) -> float:
    """The curve's x(t) rises for control points within 0…1, so the t with x(t) = u is found by Newton's method,
    held in a bracket that halves whenever a step would leave it.
    """
    if u <= 0 or u >= 1 or (curve.x1 == curve.y1 and curve.x2 == curve.y2):
        return min(max(u, 0.0), 1.0)
    low, high, t = 0.0, 1.0, u
    for _ in range(40):
        error = _cubic(curve.x1, curve.x2, t) - u
        if abs(error) < 1e-9:
            break
        low, high = (t, high) if error < 0 else (low, t)
        slope = 3 * ((1 - t) ** 2 * curve.x1 + 2 * (1 - t) * t * (curve.x2 - curve.x1) + t * t * (1 - curve.x2))
        step = t - error / slope if slope > 1e-9 else low
        t = step if low < step < high else (low + high) / 2
    return _cubic(curve.y1, curve.y2, t)


def _cubic(a: float, b: float, t: float) -> float:
    return 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t * t * b + t**3


def _stepped(steps: Steps, u: float) -> float:
    """CSS Easing Functions Level 1, 2.3: how many steps are taken by then, over how many jumps there are."""
    if u >= 1:
        return 1.0
    taken = math.floor(max(u, 0.0) * steps.count + 1e-9) + (steps.jump in ("start", "both"))
    jumps = steps.count + {"none": -1, "both": 1}.get(steps.jump, 0)
    return min(1.0, taken / jumps)


STRETCH = 0.75
"""From this share of the time on a spring that still swings is brought to rest."""


def _sprung(spring: Spring, u: float, seconds: float) -> float:
    """The closed form of m·x″ = −k·(x − 1) − c·x′ from rest at 0; within the last quarter what still swings dies out.

    So a spring that has come to rest by then is exactly what the equation says, and any other ends at rest as well.
    """
    if u <= 0 or u >= 1:
        return min(max(u, 0.0), 1.0)
    away = _displacement(spring, u * seconds)
    if u > STRETCH:
        late = (u - STRETCH) / (1 - STRETCH)
        away *= 1 - late * late * (3 - 2 * late)
    return 1 - away


def _displacement(spring: Spring, t: float) -> float:
    """The displacement of a spring's weight, 1 at t = 0 s, from where it is drawn to: under-, critically or
    over-damped.
    """
    natural = math.sqrt(spring.stiffness / spring.mass)
    decay = spring.damping / (2 * spring.mass)
    if abs(decay - natural) < 1e-6 * natural:
        return math.exp(-natural * t) * (1 + natural * t)
    if decay < natural:
        swing = math.sqrt(natural**2 - decay**2)
        return math.exp(-decay * t) * (math.cos(swing * t) + decay / swing * math.sin(swing * t))
    spread = math.sqrt(decay**2 - natural**2)
    fast, slow = -decay - spread, -decay + spread
    return (slow * math.exp(fast * t) - fast * math.exp(slow * t)) / (slow - fast)
