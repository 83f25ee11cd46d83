"""The large controls of recipes."""

from typing import Annotated, Any, Literal

from pydantic import Field

from ...piece.model import Recipe

Strength = Annotated[float, Field(ge=0, le=1, title="Strength", json_schema_extra={"unit": "%"})]
"""How much of it: 0.5 is as it is meant."""
Share = Annotated[int, Field(ge=25, le=400, json_schema_extra={"unit": "%", "step": 5})]
"""How much longer, or farther apart, than it was: 100 is as it was."""
Lines = Annotated[str, Field(max_length=80, json_schema_extra={"format": "text"})]


def seconds(title: str, most: float) -> Any:
    """A control of how long something is there."""
    return Field(ge=0.1, le=most, title=title, json_schema_extra={"unit": "s", "step": 0.1})


def spacing(most: int = 60) -> Any:
    """A control of how many frames lie between what is caught."""
    return Field(ge=1, le=most, title="Spacing", json_schema_extra={"unit": "fr", "step": 1})


def count(most: int) -> Any:
    """A control of how many are caught."""
    return Field(ge=1, le=most, title="How many")


def between(low: float, high: float, strength: float) -> float:
    """The value that a strength of 0…1 makes of a setting."""
    return round(low + (high - low) * strength, 3)


class Coloured(Recipe):
    """A recipe that shows colours of its own."""

    colours: Annotated[
        Literal["project", "clothes"],
        Field(
            title="Palette",
            json_schema_extra={
                "words": {
                    "project": {"title": "Project", "hint": "The palette of the project, at Dress"},
                    "clothes": {"title": "Clothes", "hint": "What the subject wears"},
                }
            },
        ),
    ] = "project"

    @property
    def dressed_in_clothes(self) -> bool:
        return self.colours == "clothes"
