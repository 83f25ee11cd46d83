"""Tables of colours, tones of other pictures, patterns out of pictures: numbers against definitions."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeGround
from nervykite.core.common.colour import hex_of, lab_of, mixed, rgb_of
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.finishing.likeness import COUNT, tones_of
from nervykite.core.craft.finishing.tables import through_table
from nervykite.core.craft.finishing.tiling import tiled
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.tone_table import tone_table
from nervykite.core.kinds.finishes.fill import Pattern
from nervykite.core.kinds.finishes.given import ColourTable, MatchTones
from nervykite.core.piece.model import FinishKind
from nervykite.core.piece.model.finish import Stage
from nervykite.core.see.footage.cube_lut import CubeLut, is_table, read_table, written_table

from .test_ground import even, of

ZERO, ONE = np.zeros(3, np.float32), np.ones(3, np.float32)


def cube(size: int, change=lambda rgb: rgb) -> str:
    """A 3D table's file: red runs quickest."""
    steps = [n / (size - 1) for n in range(size)]
    rows = [" ".join(f"{v:.7f}" for v in change((r, g, b))) for b in steps for g in steps for r in steps]
    return "\n".join([f'TITLE "made up"\n# a note\nLUT_3D_SIZE {size}', *rows])


@pytest.fixture
def read(tmp_path):
    def read(text: str) -> CubeLut:
        path = tmp_path / "some.cube"
        path.write_text(text)
        return read_table(path, "some.cube")

    return read


@pytest.fixture
def picture() -> np.ndarray:
    """Colours of all sorts, half of them half covered."""
    rgba = np.random.default_rng(3).random((40, 60, 4)).astype(np.float32)
    rgba[:, :30, 3] = 1
    rgba[..., :3] *= rgba[..., 3:]
    return rgba


@pytest.mark.parametrize("size", [2, 5, 33])
def test_a_table_that_changes_nothing_changes_nothing(read, picture, size):
    assert np.abs(through_table(picture, read(cube(size))) - picture).max() < 2e-6


def test_what_is_linear_in_a_table_is_exact_between_its_entries(read, picture):
    """Tetrahedra, like cubes, are exact for any linear change; red and blue change places here."""
    table = read(cube(3, lambda c: (c[2], 0.5 * c[1] + 0.25, c[0])))
    out = through_table(picture, table)
    alpha = picture[..., 3]
    assert np.abs(out[..., 0] - picture[..., 2]).max() < 2e-6
    assert np.abs(out[..., 1] - (0.5 * picture[..., 1] + 0.25 * alpha)).max() < 2e-6
    assert (out[..., 3] == alpha).all()


def test_between_entries_it_goes_by_tetrahedra(read):
    """Of a table that is 1 in its white corner alone, the least of the three numbers is what comes out."""
    table = read(cube(2, lambda c: (float(c == (1, 1, 1)),) * 3))
    pixel = np.array([[[0.7, 0.4, 0.9, 1]]], np.float32)
    assert through_table(pixel, table)[0, 0, 0] == pytest.approx(0.4, abs=1e-6)


def test_each_colour_by_itself_and_over_a_domain_of_its_own(read):
    rows = "\n".join(f"{v} {v * v} {1 - v}" for v in (0.0, 0.5, 1.0))
    table = read(f"LUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 1 1\n{rows}\n")
    pixel = np.array([[[0.5, 0.75, 0.25, 1]]], np.float32)
    assert through_table(pixel, table)[0, 0, :3] == pytest.approx([0.25, 0.625, 0.75], abs=1e-6)
    half = through_table(pixel, table, 0.5)[0, 0, :3]
    assert half == pytest.approx([0.375, 0.6875, 0.5], abs=1e-6)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("0 0 0\n1 1 1\n", "does not say how large"),
        ("LUT_3D_SIZE 2\n0 0 0\n", "1 lines of numbers; there should be 8"),
        ("LUT_3D_SIZE 900\n", "may have 2 to 129"),
        ("LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n", "holds two tables"),
        ("LUT_3D_SIZE two\n", "line 1 is not understood"),
        ("LUT_1D_SIZE 2\n0 0\n1 1 1\n", "three numbers"),
        ("LUT_1D_SIZE 2\n0 0 0\n1 1 1e99\n", "are no numbers"),
        ("LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\n0 0 0\n1 1 1\n", "ends below where it begins"),
    ],
)
def test_what_is_wrong_with_a_table_is_said(read, text, says):
    with pytest.raises(Refusal, match=says):
        read(text)


def test_tables_are_told_from_other_files():
    assert is_table(b"# by somebody\nLUT_3D_SIZE 17\n", "warm.txt")
    assert is_table(b"# a long note", "WARM.CUBE")
    assert not is_table(b"\0\0\0\x18ftypmp42", "film.cube")
    assert not is_table(b"hello", "notes.txt")


class Shelf:
    """Supplies with one table and one picture."""

    def __init__(self, table: CubeLut | None = None, picture: np.ndarray | None = None) -> None:
        self._table, self._picture = table, picture

    def table(self, file: str) -> CubeLut | None:
        return self._table

    def shelved(self, file: str) -> np.ndarray | None:
        return self._picture


def test_a_finish_whose_file_is_gone_does_nothing(read, picture):
    stage = Stage(1.0, supplies=Shelf())
    for look in (ColourTable(table="0" * 64), Pattern(picture="0" * 64), ColourTable(), Pattern(), MatchTones()):
        assert look.dress(picture, stage) is picture
    stage = Stage(1.0, supplies=Shelf(read(cube(2, lambda c: (1 - c[0], c[1], c[2])))))
    assert not np.allclose(ColourTable(table="0" * 64).dress(picture, stage), picture)


def scene(low: float, high: float, cast: tuple[float, float, float]) -> np.ndarray:
    """A grey ramp between two levels under a cast, with some noise."""
    rng = np.random.default_rng(5)
    grey = np.linspace(low, high, 80)[None, :, None] + rng.normal(0, 0.02, (60, 80, 1))
    rgb = np.clip(grey * np.array(cast), 0, 1)
    return np.dstack([rgb, np.ones((60, 80))]).astype(np.float32)


def test_a_picture_takes_on_the_tones_of_another():
    dark, light = scene(0.1, 0.5, (1, 0.9, 0.7)), scene(0.3, 0.9, (0.8, 0.95, 1))
    like = tones_of(light)
    assert len(like) == COUNT
    out = MatchTones(like=tuple(like), lightness=1, colour=1).dress(dark, Stage(1.0))
    before, after = (np.abs(np.subtract(tones_of(x)[:7], like[:7])) for x in (dark, out))
    assert after.max() < 0.04
    assert after.mean() < before.mean() / 5


def test_a_picture_given_its_own_tones_stays_as_it_is():
    own = scene(0.1, 0.8, (1, 0.8, 0.9))
    out = MatchTones(like=tuple(tones_of(own)), lightness=1, colour=1).dress(own, Stage(1.0))
    assert np.abs(out - own).max() < 0.02


def test_tones_are_those_of_what_is_seen():
    own = scene(0.1, 0.8, (1, 0.8, 0.9))
    around = np.zeros((120, 160, 4), np.float32)
    around[30:90, 40:120] = own
    assert tones_of(around) == pytest.approx(tones_of(own), abs=0.01)
    assert tones_of(np.zeros((50, 50, 4), np.float32)) is None


def test_a_pattern_is_the_picture_again_and_again():
    rng = np.random.default_rng(1)
    tile = rng.integers(0, 255, (6, 10, 4)).astype(np.uint8)
    out = tiled(tile, (18, 40), 10, 0, (5, 3))
    assert np.abs(out[:6, :10] - out[6:12, 20:30]).max() < 1e-5
    straight = tile[..., :3].astype(np.float32) / 255 * (tile[..., 3:].astype(np.float32) / 255)
    assert np.abs(out[:6, :10, :3] - straight).max() < 1e-5
    moved = tiled(tile, (18, 40), 10, 0, (5, 3), shifted=0.5)
    assert np.abs(moved[6:12, 5:15] - out[:6, :10]).max() < 1e-5


def test_a_pattern_lies_within_the_edge_and_over_what_it_covers():
    tile = np.zeros((4, 4, 4), np.uint8)
    tile[:2] = 255
    rgba = np.zeros((40, 40, 4), np.float32)
    rgba[10:30, 10:30] = (0.2, 0.4, 0.6, 1)
    stage = Stage(1.0, supplies=Shelf(picture=tile))
    out = Pattern(picture="0" * 64, wide=4).dress(rgba, stage)
    assert (out[..., 3] == rgba[..., 3]).all()
    inside = out[10:30, 10:30]
    assert (np.isclose(inside, 1, atol=1e-3).all(-1) | np.isclose(inside, (0.2, 0.4, 0.6, 1), atol=1e-3).all(-1)).all()
    backed = Pattern(picture="0" * 64, wide=4, backing=True, colour="#000000").dress(rgba, stage)
    assert set(np.unique(backed[10:30, 10:30, 0]).round(3)) == {0.0, 1.0}


def test_colours_lie_between_two_as_in_css():
    """`color-mix(in oklab, …)`: values worked out by the formulas of CSS Color 4."""
    assert hex_of(mixed(rgb_of("#FF0000"), rgb_of("#0000FF"), 0.5)) == "#8C53A2"
    assert hex_of(mixed(rgb_of("#000000"), rgb_of("#FFFFFF"), 0.5)) == "#636363"
    assert lab_of((1, 1, 1)) == pytest.approx([1, 0, 0], abs=1e-4)
    assert lab_of((1, 0, 0)) == pytest.approx([0.62796, 0.22486, 0.12585], abs=1e-4)


@pytest.mark.parametrize("kind", [k for k, f in FinishKind.family.all().items() if f.looks == "tone"])
def test_each_finish_of_tone_does_to_a_colour_the_same_wherever_it_is(kind):
    """That is what makes a table of it: colours in another order become the same colours in that order."""
    look = FinishKind.family[kind]()
    colours = np.random.default_rng(5).random((24, 30, 4)).astype(np.float32)
    colours[..., 3] = 1
    order = np.random.default_rng(6).permutation(24 * 30)
    mixed_up = colours.reshape(-1, 4)[order].reshape(colours.shape)
    one, other = (look.dress(c, Stage(1, canvas=(30, 24), opaque=True)) for c in (colours, mixed_up))
    assert np.abs(one.reshape(-1, 4)[order] - other.reshape(-1, 4)).max() < 1e-5


def test_a_chain_of_tones_is_written_as_a_table_that_does_the_same(read, picture):
    document = of(even(40, Fraction(30)), Fraction(30))
    chain = [
        {"kind": "tone", "settings": {"exposure": 0.4, "saturation": 0.3}},
        {"kind": "soft-blur"},
        {"kind": "duotone"},
    ]
    item = document.project.ground[0].id
    document = ChangeGround(item=item, finishes=chain).apply(document)
    evaluation = Evaluation(document)
    text = written_table(tone_table(evaluation, document.project.ground[0], 3, None), 'Dune "run"')
    assert text.startswith("TITLE \"Dune 'run'\"\nLUT_3D_SIZE 33\n")
    table = read(text)
    by_hand = picture
    for finish in (chain[0], chain[2]):
        look = FinishKind.family.parse({"kind": finish["kind"], **finish.get("settings", {})})
        by_hand = look.dress(by_hand, Stage(1, canvas=(60, 40)))
    # Between its entries a table is straight; what is clipped and bent by the chain is not.
    assert np.abs(through_table(picture, table) - by_hand).mean() < 4e-3
    plain = ChangeGround(item=item, finishes=[{"kind": "soft-blur"}]).apply(document)
    with pytest.raises(Refusal, match="no finish of tone"):
        tone_table(Evaluation(plain), plain.project.ground[0], 3, None)
