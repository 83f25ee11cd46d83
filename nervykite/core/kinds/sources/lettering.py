"""Lettering: words in a face, on a line, an arc, a wave, a path."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...common.errors import Refusal
from ...craft.finishing.setting_fields import degrees, percent, px
from ...craft.lettering.coming import Coming, come
from ...craft.lettering.curve import Points
from ...craft.lettering.faces import OWN, face_files
from ...craft.lettering.layout import Laid, Override, Typesetting, laid
from ...piece.model import Document
from ...piece.model.base import Colour, Model
from ...piece.model.source import Source
from .inked import Inked

COMING = {"way": ["rise", "drop", "from left", "from right", "pop", "spin", "unfold", "typed", "scrambled", "drawn"]}
ARC, WAVE, ALONG = {"shape": ["arc"]}, {"shape": ["wave"]}, {"shape": ["along"]}


class WordApart(Model):
    """The difference of one word or one letter from the rest, counted from 0 on: see `Override`."""

    number: Annotated[int, Field(ge=0, le=600)]
    letter: bool = False
    size: Annotated[float, Field(ge=0.1, le=8)] = 1.0
    up: Annotated[float, Field(ge=-4, le=4)] = 0.0
    turn: Annotated[float, Field(ge=-360, le=360)] = 0.0
    colour: Colour | None = None


class LetteringSource(Inked):
    """Words about the middle of the canvas. Lengths are project pixels."""

    kind: Literal["lettering"] = "lettering"
    title: ClassVar[str] = "Lettering"
    worded: ClassVar[bool] = True
    hint: ClassVar[str] = "Words, in a face, on an arc"
    groups: ClassVar[dict[str, tuple[str, ...]]] = {
        "Size and spacing": ("axes", "high", "wide", "tracking", "leading", "align", "case"),
        "Words by themselves": ("aparts",),
        **Inked.groups,
        "Letters come and go": ("way", "entered", "gone", "by", "order", "stagger", "ease", "seed"),
    }  # fmt: skip

    words: Annotated[str, Field(max_length=600, title="Words", json_schema_extra={"format": "text"})] = "Name"
    face: Annotated[str, Field(pattern="^[a-z0-9-]{2,64}$", title="Face", json_schema_extra={"format": "face"})] = (
        "anton"
    )
    axes: Annotated[
        dict[Annotated[str, Field(pattern="^[A-Za-z0-9]{4}$")], Annotated[float, Field(ge=-10_000, le=10_000)]],
        Field(max_length=16, title="Axes", json_schema_extra={"format": "axes"}),
    ] = {}
    shape: Annotated[
        Literal["straight", "arc", "wave", "along"],
        Field(title="Runs", json_schema_extra={"words": {"along": {"title": "Along", "hint": "Along a pen path"}}}),
    ] = "straight"
    points: Annotated[Points, Field(json_schema_extra={"when": ALONG})] = [(-260.0, 60.0), (0.0, -70.0), (260.0, 60.0)]
    smooth: Annotated[bool, Field(title="Smooth", json_schema_extra={"keyable": False, "when": ALONG})] = True
    closed: Annotated[bool, Field(title="Closed", json_schema_extra={"keyable": False, "when": ALONG})] = False
    shift: Annotated[float, percent("Shifted along", -2, 2, when=ALONG)] = 0.0
    off: Annotated[float, px("Off the path", 600, -600, usual=120, when=ALONG)] = 0.0
    bend: Annotated[float, degrees("Bend", -350, 350, when=ARC)] = 60.0
    swing: Annotated[float, percent("Swing", -2, 2, when=WAVE)] = 0.2
    waves: Annotated[
        float, Field(ge=0.1, le=20, title="Waves", json_schema_extra={"step": 0.1, "usual": 4, "when": WAVE})
    ] = 1.0
    high: Annotated[float, px("Size", 4000, 4, usual=400)] = 150.0
    wide: Annotated[float, percent("Width", 0.2, 4)] = 1.0
    tracking: Annotated[float, percent("Tracking", -0.2, 2)] = 0.0
    leading: Annotated[float, percent("Line height", 0.4, 4)] = 1.05
    align: Annotated[Literal["left", "middle", "right", "even"], Field(title="Lines")] = "middle"
    aparts: Annotated[
        list[WordApart],
        Field(max_length=80, title="Words by themselves", json_schema_extra={"format": "aparts", "keyable": False}),
    ] = []
    case: Annotated[Literal["as typed", "capitals", "small"], Field(title="Case")] = "as typed"
    way: Annotated[
        Literal[
            "all there", "rise", "drop", "from left", "from right", "pop", "spin", "unfold", "typed", "scrambled",
            "drawn",
        ],
        Field(title="They"),
    ] = "all there"  # fmt: skip
    entered: Annotated[float, percent("Have come", when=COMING)] = 1.0
    gone: Annotated[float, percent("Have gone", when=COMING)] = 0.0
    by: Annotated[Literal["letter", "word", "line"], Field(title="By", json_schema_extra={"when": COMING})] = "letter"
    order: Annotated[
        Literal["forwards", "backwards", "from the middle", "by chance"],
        Field(title="Order", json_schema_extra={"when": COMING}),
    ] = "forwards"
    stagger: Annotated[float, percent("One after another", when=COMING)] = 0.6
    ease: Annotated[
        Literal["even", "soft", "springy"], Field(title="Come to rest", json_schema_extra={"when": COMING})
    ] = "soft"
    seed: Annotated[
        int, Field(ge=0, le=99_999, title="Chance", json_schema_extra={"format": "seed", "when": COMING})
    ] = 1

    @property
    def penned(self) -> bool:
        return self.shape == "along"

    def checked(self, document: Document) -> Source:
        face_files(self.face)
        own = self.face if OWN.fullmatch(self.face) else None
        if own is not None and not any(a.kind == "font" and a.file == own for a in document.assets.values()):
            raise Refusal("That font is not on this project's shelf. Import it first.")
        return super().checked(document)

    @property
    def files(self) -> tuple[str, ...]:
        return (*super().files, self.face) if OWN.fullmatch(self.face) else super().files

    @property
    def setting(self) -> Typesetting:
        """The typesetting of its words."""
        return Typesetting(
            words=self.words, face=self.face, axes=tuple(sorted(self.axes.items())), size=self.high, width=self.wide,
            tracking=self.tracking, leading=self.leading, align=self.align, case=self.case, shape=self.shape,
            bend=self.bend, swing=self.swing, waves=self.waves, points=tuple(self.points), smooth=self.smooth,
            closed=self.closed, shift=self.shift, off=self.off,
            aparts=tuple(Override(**a.model_dump()) for a in self.aparts),
        )  # fmt: skip

    @property
    def coming(self) -> Coming:
        """The progress of its letters."""
        if self.way == "all there":
            return Coming()
        return Coming(self.way, self.entered, self.gone, self.by, self.order, self.stagger, self.ease, self.seed)

    def outlines(self) -> Laid:
        return laid(self.setting)

    def now(self) -> Laid:
        return come(laid(self.setting), self.coming, self.high)

    def settled(self) -> Inked:
        if not self.coming.at_rest:
            return self
        fields = type(self).model_fields
        return self.model_copy(update={name: fields[name].default for name in self.groups["Letters come and go"]})

    def missing(self, document: Document) -> tuple[str, ...]:
        return laid(self.setting).missing

    def called(self, document: Document) -> str:
        rows = ("".join(c for c in row if c.isprintable()).strip() for row in self.words.split("\n"))
        return next((row for row in rows if row), "")[:40].strip() or self.title

    def changed(self, before: Source, name: str) -> str:
        if isinstance(before, LetteringSource) and before.words != self.words:
            return f"type {name}"
        return super().changed(before, name)
