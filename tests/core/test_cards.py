"""Cards: they fit their words and their room, look for it beside the head, in colours that can be told apart."""

import numpy as np
import pytest

from nervykite.core.change.edits import AddCard, ChangeLayer, SetPalette
from nervykite.core.common.colour import lab_of, rgb_of
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.cards.card import Card, CardPart, Inks, Said, around
from nervykite.core.kinds.cards.room import RoomSettings, figure, room_for
from nervykite.core.kinds.sources.lettering import LetteringSource
from nervykite.core.piece.model import Document, Project
from nervykite.core.see.footage.planes import to_bgr

from ..conftest import held
from .test_flying import MATTE

KINDS = sorted(Card.family.all().values(), key=lambda k: k.rank)
NAMES = ("Mara Quill", "Io", "Bartholomew Featherstonehaugh", "Ada de la Cruz y Monteverde")


def words_of(parts: list[CardPart]) -> str:
    return " ".join(p.source.words for p in parts if isinstance(p.source, LetteringSource)).replace("\n", " ")


def test_projects_that_are_kept_find_their_cards():
    assert set(Card.family.all()) >= {
        "arch", "brush-card", "burst", "crate", "poster", "ring-card", "rule", "said", "signature", "slanted", "strips",
        "tag", "ticket-card", "typed",
    }  # fmt: skip
    assert all(k.title and k.hint for k in KINDS)


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.title)
class TestAll:
    @pytest.mark.parametrize("name", NAMES)
    def test_it_fits_its_room_whatever_the_name(self, kind, name):
        parts = kind().laid(Said(name, "Harbour Hares, leg two", 500), Inks())
        left, top, right, bottom = around(parts)
        assert right - left <= 510
        assert (left + right) / 2 == pytest.approx(0, abs=1)
        assert (top + bottom) / 2 == pytest.approx(0, abs=1)
        assert bottom - top < 620
        assert all(w in words_of(parts) for w in name.split()[:4])

    def test_it_does_without_a_line(self, kind):
        parts = kind().laid(Said("Mara", "", 500), Inks())
        left, _, right, _ = around(parts)
        assert 100 < right - left <= 510

    def test_its_words_can_be_read_on_what_lies_below_them(self, kind):
        for inks in (Inks(), Inks.of(["#F0E040", "#F8F0D0"]), Inks.of(["#102040", "#204060", "#306090"])):
            for part in kind().laid(Said("Mara Quill", "Harbour Hares", 500), inks):
                source = part.source
                if not isinstance(source, LetteringSource) or source.line:
                    continue
                below = [p.source for p in kind().laid(Said("Mara Quill", "Harbour Hares", 500), inks)]
                boxes = [b.colour for b in below if b.kind in ("box", "ticket", "bubble") and b.filled == "colour"]
                if boxes:
                    far = max(abs(float(lab_of(rgb_of(source.colour))[0] - lab_of(rgb_of(b))[0])) for b in boxes)
                    assert far > 0.12

    def test_it_comes_in_and_leaves_the_way_it_came(self, kind, reel):
        made = reel(size=(360, 640), frames=60)
        add = AddCard(card=kind(), name="Mara", line="Hares", at=5, frames=50, x=180, y=320, wide=260)
        document = add.apply(made.document())
        renderer, evaluation = Renderer(made.library()), Evaluation(document)
        bare = Evaluation(made.document())

        def seen(frame: int) -> float:
            one, other = (
                to_bgr(renderer.render(Canvas.of(document), e.at(frame))).astype(int) for e in (evaluation, bare)
            )
            return float((np.abs(one - other).max(-1) > 24).mean())

        rest = seen(30)
        assert rest > 0.005
        assert seen(5) < 0.75 * rest
        assert seen(54) < 0.75 * rest
        assert seen(4) == seen(55) == 0
        # At rest it is all within the room that it was given.
        one, other = (to_bgr(renderer.render(Canvas.of(document), e.at(30))).astype(int) for e in (evaluation, bare))
        columns = np.flatnonzero((np.abs(one - other).max(-1) > 24).any(0))
        assert columns[0] >= 180 - 142
        assert columns[-1] <= 180 + 142


class TestInks:
    def test_ours_where_there_is_no_palette(self):
        assert Inks.of([]) == Inks()

    def test_a_palettes_own_where_they_can_be_told_apart(self):
        inks = Inks.of(["#2E6F6A", "#F0C14B", "#12343B", "#FFF9E8"])
        assert inks == Inks("#F0C14B", "#2E6F6A", "#FFF9E8", "#12343B")
        red = Inks.of(["#D63F22", "#D84024"])
        assert red.second == Inks().second

    def test_what_is_read_better(self):
        assert Inks().on("#101010") == Inks().paper
        assert Inks().on("#F4E9A0") == Inks().ink


class TestRoom:
    def cover(self) -> np.ndarray:
        """Somebody at the right: a head, a body, an arm to the left below it."""
        cover = np.zeros((160, 90), np.float32)
        cover[40:60, 58:72] = 1
        cover[60:150, 50:82] = 1
        cover[80:90, 25:50] = 1
        return cover

    def test_it_lies_beside_the_head(self):
        room = room_for(self.cover(), 0.4, wide=0.5)
        assert abs(room.x - 65 / 90) < 0.4
        assert abs(room.y - 50 / 160) < 0.25
        assert room.shared < 0.02
        # With the sky above taken it lies to the left of it, and the head is seen at its right.
        sky = np.zeros((160, 90), np.float32)
        sky[:38] = 1
        room = room_for(self.cover(), 0.4, wide=0.5, taken=sky)
        assert room.x < 0.45
        assert abs(room.tail) < 60

    def test_it_shrinks_before_it_covers_the_head(self):
        room = room_for(self.cover(), 0.5, wide=0.9)
        left, right = room.x - room.wide / 2, room.x + room.wide / 2
        high = room.wide * 90 * 0.5
        rows = slice(max(0, round(room.y * 160 - high / 2)), round(room.y * 160 + high / 2))
        head = self.cover()[rows, round(left * 90) : round(right * 90)][: max(0, 60 - rows.start)]
        assert head.sum() < 20

    def test_behind_it_shows(self):
        cover = self.cover()
        cover[30:150, 20:82] = 1
        behind, front = room_for(cover, 0.4, 0.8, behind=True), room_for(cover, 0.4, 0.8)
        assert behind.shared <= front.shared
        assert behind.shared < 0.1

    def test_it_keeps_to_the_safe_part_and_off_what_else_is_there(self):
        empty = np.zeros((160, 90), np.float32)
        room = room_for(empty, 0.4)
        left, top, right, bottom = RoomSettings().tall
        high = 0.4 * room.wide * 90 / 160
        assert room.x - room.wide / 2 >= left - 0.02
        assert room.x + room.wide / 2 <= 1 - right + 0.02
        assert top - 0.02 <= room.y - high / 2
        assert room.y + high / 2 <= 1 - bottom + 0.02
        taken = empty.copy()
        taken[100:130] = 1
        aside = room_for(empty, 0.4, taken=taken)
        assert aside.y * 160 + 0.4 * aside.wide * 45 <= 101 or aside.y * 160 - 0.4 * aside.wide * 45 >= 129

    def test_a_speck_is_nobody(self):
        speck = np.zeros((160, 90), np.float32)
        speck[10:12, 10:12] = 1
        assert figure(speck) is None
        assert figure(self.cover()) == (25, 40, 82, 150)


class TestTheEdit:
    def put(self, document: Document, **more) -> tuple[Document, AddCard]:
        given = {"card": "strips", "name": "Mara", "at": 0, "frames": 30, "x": 160, "y": 120, "wide": 200, **more}
        edit = AddCard(**given)
        return edit.apply(document), edit

    def test_it_is_a_group_of_ordinary_layers_in_the_palettes_colours(self, reel):
        document = SetPalette(colours=["#2255CC", "#FFE080"]).apply(reel(frames=40).document())
        document, edit = self.put(document, line="Hares")
        group = document.layer(edit.group)
        assert group.name == "Card Mara"
        members = [x for x in document.project.layers if x.group == group.id]
        assert [x.source.kind for x in members] == ["box", "lettering", "box", "lettering"]
        assert members[0].source.colour in ("#2255CC", "#FFE080")
        changed = ChangeLayer(layer=members[1].id, source=members[1].source.model_copy(update={"words": "Io"}))
        assert changed.apply(document).layer(members[1].id).source.words == "Io"

    def test_leaning_letters_lean_as_their_bar_does(self, reel):
        document, edit = self.put(reel(frames=40).document(), card="slanted", line="Hares")
        evaluation = Evaluation(document)
        for layer in document.project.layers:
            if layer.source.kind == "box":
                assert layer.source.slant > 0  # its upper edge lies farther to the right
            if layer.source.kind == "lettering":
                up = evaluation.matrix(layer, 15)[:2, :2] @ [0, -1]
                assert up[0] > 0.2

    def test_the_same_edit_makes_the_same_layers(self, reel):
        document = reel(frames=40).document()
        edit = AddCard(card="arch", name="Mara", at=3, frames=30, x=160, y=120, wide=200)
        ids = [[x.id for x in edit.apply(document).project.layers] for _ in range(2)]
        assert ids[0] == ids[1]

    def test_it_lies_right_below_or_above_what_it_is_put_beside(self, reel):
        document, layer = held(reel(frames=40).document(), 10, MATTE)
        below, edit = self.put(document, below=layer)
        outer = [x.id for x in below.project.layers if x.group is None]
        assert outer == [edit.group, layer]
        above, edit = self.put(document, above=layer)
        assert [x.id for x in above.project.layers if x.group is None] == [layer, edit.group]

    def test_it_needs_a_name_and_ground(self, reel):
        with pytest.raises(Refusal, match="needs a name"):
            self.put(reel(frames=40).document(), name="   ")
        with pytest.raises(Refusal, match="no ground yet"):
            self.put(Document(project=Project(name="Empty")))

    @pytest.mark.parametrize("card", sorted(Card.family.all()))
    def test_a_large_one_is_put_down_and_one_too_large_says_so(self, reel, card):
        document = reel(frames=40).document()
        for wide in (120, 900):
            self.put(document, card=card, wide=wide, name="X", line="ß")
        with pytest.raises(Refusal, match=r"20000 pixels wide is too large\. Make it narrower"):
            self.put(document, card=card, wide=20_000, name="X", line="ß")
        if card == "typed":  # whose letters are all as wide, and would be lower than any may be
            with pytest.raises(Refusal, match=r"40 pixels wide is too small\. Make it wider"):
                self.put(document, card=card, wide=40, name="X", line="ß")
            return
        small, edit = self.put(document, card=card, wide=40, name="X", line="ß")
        assert small.layer(edit.group) is not None

    def test_in_a_very_short_time_it_still_comes_and_goes(self, reel):
        document, edit = self.put(reel(frames=40).document(), at=36, frames=2)
        evaluation = Evaluation(document)
        for frame in (36, 37):
            evaluation.at(frame)
        assert document.layer(edit.group) is not None
