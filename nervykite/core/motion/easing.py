"""Easing after W3C CSS Easing Functions Level 1."""

from ..model import Easing

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


def ease(easing: Easing, u: float) -> float:
    """Progress of the value, usually 0…1, at progress `u` of the time, 0…1.

    The curve's x(t) rises for control points within 0…1, so the t with x(t) = u is found by Newton's method,
    held in a bracket that halves whenever a step would leave it.
    """
    if easing.kind == "stay":
        return 0.0 if u < 1 else 1.0
    if u <= 0 or u >= 1 or (easing.x1 == easing.y1 and easing.x2 == easing.y2):
        return min(max(u, 0.0), 1.0)
    low, high, t = 0.0, 1.0, u
    for _ in range(40):
        error = _curve(easing.x1, easing.x2, t) - u
        if abs(error) < 1e-9:
            break
        low, high = (t, high) if error < 0 else (low, t)
        slope = 3 * ((1 - t) ** 2 * easing.x1 + 2 * (1 - t) * t * (easing.x2 - easing.x1) + t * t * (1 - easing.x2))
        step = t - error / slope if slope > 1e-9 else low
        t = step if low < step < high else (low + high) / 2
    return _curve(easing.y1, easing.y2, t)


def _curve(a: float, b: float, t: float) -> float:
    return 3 * (1 - t) ** 2 * t * a + 3 * (1 - t) * t * t * b + t**3
