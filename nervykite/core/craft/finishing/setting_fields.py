"""Settings that many finishes have, as the page shows them."""

from typing import Annotated, Any

from pydantic import Field

from ...piece.model.base import Colour


def px(
    title: str, most: float = 200, least: float = 0, step: float = 1, usual: float | None = None, **more: Any
) -> Any:
    """A length in project pixels. `needs` among the rest names the setting without which it has no meaning."""
    more = more if usual is None else {"usual": usual, **more}
    return Field(ge=least, le=most, title=title, json_schema_extra={"unit": "px", "step": step, **more})


def percent(title: str, least: float = 0, most: float = 1, **more: Any) -> Any:
    """A share, kept as 0…1 and shown in percent."""
    return Field(ge=least, le=most, title=title, json_schema_extra={"unit": "%", **more})


def degrees(title: str, least: float = -3600, most: float = 3600, step: float = 1, **more: Any) -> Any:
    """An angle in degrees, clockwise on screen; 0 points to the right."""
    return Field(ge=least, le=most, title=title, json_schema_extra={"unit": "°", "step": step, **more})


def hue(title: str = "Colour", **more: Any) -> Any:
    """A colour."""
    return Field(title=title, json_schema_extra={"format": "colour", **more})


def chance() -> Any:
    """The seed: which of all the ways that chance could have it."""
    return Field(ge=0, le=99_999, title="Chance", json_schema_extra={"format": "seed"})


def boiling() -> Any:
    """After how many frames chance has it another way; 0: never."""
    return Field(ge=0, le=240, title="Boils every", json_schema_extra={"unit": "fr"})


def shelved(title: str, sort: str) -> Any:
    """A file of the shelf, by its hash; sort: of which sort, as `Asset.kind` has it."""
    return Field(title=title, json_schema_extra={"format": "shelved", "of": sort})


Shelved = Annotated[str, Field(pattern="^[0-9a-f]{64}$")] | None
Line = Annotated[float, px("Width", 80, step=0.5, usual=30)]
Share = Annotated[float, percent("Opacity")]
Hue = Annotated[Colour, hue()]
Turn = Annotated[float, degrees("Angle")]
Seed = Annotated[int, chance()]
Boils = Annotated[int, boiling()]
