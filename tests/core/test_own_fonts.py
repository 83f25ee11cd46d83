"""A person's own fonts: read in four formats, refused with a sentence where they cannot be, kept with the project."""

import io
import struct

import pytest
from fontTools.ttLib import TTFont

from nervykite.core.change.edits import AddAsset, AddLayer, ChangeLayer, PasteLayers, RemoveAsset, clip_of
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.lettering import own_fonts
from nervykite.core.craft.lettering.faces import SHIPPED, add_place, face_files, home, remove_place
from nervykite.core.craft.lettering.layout import Typesetting, laid
from nervykite.core.craft.lettering.own_fonts import is_font, read_font
from nervykite.core.kinds.sources.lettering import LetteringSource
from nervykite.core.piece.model import Asset

SHIPPED_FILE = home() / SHIPPED["bangers"].files[0]


def altered(flavor: str | None = None, **tables) -> bytes:
    """A shipped font packed otherwise, with some of its OS/2 table changed."""
    font = TTFont(SHIPPED_FILE)
    for name, value in tables.items():
        setattr(font["OS/2"], name, value)
    font.flavor = flavor
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()


@pytest.fixture
def kept(tmp_path):
    """Keeps bytes under a name; what keeps them is a place to look for fonts."""

    def keep(data: bytes, name: str = "own"):
        path = tmp_path / name
        path.write_bytes(data)
        return path

    return keep


class TestReading:
    @pytest.mark.parametrize("flavor", [None, "woff", "woff2"])
    def test_each_format_has_its_own_name(self, kept, flavor):
        data = altered(flavor)
        assert is_font(data[:100])
        assert read_font(kept(data), "mine.ttf").startswith("Bangers")

    def test_what_is_none_is_not_taken_for_one(self):
        for head in (b"", b"\0\0\0\x20ftypisom", b"\x89PNG\r\n\x1a\n", b"LUT_3D_SIZE 2"):
            assert not is_font(head)

    @pytest.mark.parametrize(
        ("data", "words"),
        [
            (altered(fsType=0x0002), "forbid embedding"),
            (altered(fsType=0x0200), "forbid embedding"),
            (altered()[:3000], "is broken"),
            (b"\0\1\0\0" + b"\xff" * 500, "is broken"),
            (b"OTTO", "is broken"),
            (altered("woff2")[:400], "cannot be read as a font"),
            (b"ttcf" + b"\0" * 100, "a collection"),
            (b"wOF2" + b"\0" * 12 + struct.pack(">I", 2**31) + b"\0" * 40, "too large"),
        ],
        ids=["restricted", "bitmaps", "half", "nonsense", "start", "half woff2", "collection", "bomb"],
    )
    def test_what_cannot_be_used_gets_a_sentence(self, kept, data, words):
        with pytest.raises(Refusal, match=words):
            read_font(kept(data), "mine.ttf")

    def test_preview_and_print_rights_are_enough(self, kept):
        assert read_font(kept(altered(fsType=0x0004)), "mine.ttf")

    def test_a_huge_one_is_not_even_read(self, kept, monkeypatch):
        monkeypatch.setattr(own_fonts, "MOST_BYTES", 1000)
        with pytest.raises(Refusal, match="too large"):
            read_font(kept(altered()), "mine.ttf")

    def test_without_outlines_it_is_no_face(self, kept):
        font = TTFont(SHIPPED_FILE)
        for table in ("glyf", "loca"):
            del font[table]
        out = io.BytesIO()
        font.save(out)
        with pytest.raises(Refusal, match=r"no outlines|is broken"):
            read_font(kept(out.getvalue()), "mine.ttf")


@pytest.fixture
def shelf(kept, reel, tmp_path):
    """A document with an own font on its shelf, its bytes in a place that is known."""
    name = "ab" * 32
    kept(altered("woff2"), name)
    place = lambda hash_: tmp_path / hash_  # noqa: E731
    add_place(place)
    asset = Asset(kind="font", name="Mine", file=name)
    yield AddAsset(asset=asset).apply(reel(frames=20).document()), asset
    remove_place(place)


class TestOnTheShelf:
    def test_words_are_set_in_it(self, shelf):
        document, asset = shelf
        add = AddLayer(source=LetteringSource(words="Mara", face=asset.file), at=0)
        document = add.apply(document)
        assert document.layer(add.layer).source.files == (asset.file,)
        same = laid(Typesetting("Mara", "bangers", size=100)).box
        assert laid(Typesetting("Mara", asset.file, size=100)).box == pytest.approx(same, abs=0.2)
        with pytest.raises(Refusal, match="is in use"):
            RemoveAsset(asset=asset.id).apply(document)
        plain = ChangeLayer(layer=add.layer, source=LetteringSource(words="Mara")).apply(document)
        assert asset.id not in RemoveAsset(asset=asset.id).apply(plain).assets

    def test_it_goes_along_into_another_project(self, shelf, reel):
        document, asset = shelf
        add = AddLayer(source=LetteringSource(words="Mara", face=asset.file), at=0)
        clip = clip_of(add.apply(document), [add.layer])
        other = PasteLayers(clip=clip, at=0).apply(reel("other.mp4", frames=20).document())
        assert [a.file for a in other.assets.values()] == [asset.file]
        assert other.project.layers[-1].source.checked(other)

    def test_one_that_is_not_there_is_refused(self, shelf):
        document, _ = shelf
        with pytest.raises(Refusal, match="no longer there"):
            AddLayer(source=LetteringSource(face="cd" * 32), at=0).apply(document)
        with pytest.raises(Refusal, match="no longer there"):
            face_files("cd" * 32)

    def test_one_of_another_project_is_refused(self, shelf, reel):
        _, asset = shelf
        with pytest.raises(Refusal, match="not on this project's shelf"):
            AddLayer(source=LetteringSource(face=asset.file), at=0).apply(reel("other.mp4", frames=20).document())
