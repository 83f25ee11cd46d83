"""The mix: three parts, a bed that steps back, what is hushed at a standstill, loudness and peaks; the same samples
however they are asked for, and no cut that is heard."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nervykite.core.change.edits import (
    AddAsset,
    AddCue,
    AddGround,
    AddStandstill,
    ChangeCue,
    ChangeGround,
    ChangeLoudness,
    ChangeMix,
    DetachSound,
    DuplicateGround,
    MoveGround,
    RemoveGround,
    SplitCue,
    SplitGround,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.sound.limit import SPAN, limited, true_peak
from nervykite.core.draw.sound.loudness import loudness
from nervykite.core.draw.sound.master import Master
from nervykite.core.draw.sound.mix import Mixer
from nervykite.core.draw.sound.plan import BLOCK, plan_of
from nervykite.core.draw.sound.taken import Sounds
from nervykite.core.kinds.hits.impacts import Slam
from nervykite.core.kinds.hits.small import Tick
from nervykite.core.piece.model import Asset, CueTie
from nervykite.core.piece.timeline.timeline import Timeline

from .test_ground import even, of

SHOT, BED, VOICE = "a" * 64, "b" * 64, "c" * 64
LONG = 6


def noise(seed: int, loud: float, seconds: float = LONG) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return rng.normal(0, loud, (2, int(seconds * RATE))).clip(-0.98, 0.98).astype(np.float32)


def speech() -> np.ndarray:
    """Loud in its second second alone."""
    sound = np.zeros((2, 3 * RATE), np.float32)
    sound[:, RATE : 2 * RATE] = noise(4, 0.2, 1)
    return sound


FILES = {SHOT: noise(1, 0.05), BED: noise(2, 0.1, 10), VOICE: speech()}


def footage():
    """Six seconds with sound, at 30 frames a second; mixed as it comes."""
    shot = even(LONG * 30, 30).model_copy(update={"has_sound": True, "sound_file": SHOT})
    document = of(shot)
    document = AddAsset(asset=Asset(id="d" * 16, kind="sound", name="Music", file=BED, seconds=10.0)).apply(document)
    document = AddAsset(asset=Asset(id="e" * 16, kind="sound", name="Words", file=VOICE, seconds=3.0)).apply(document)
    return ChangeMix(changes={"loudness": None, "peak": 0.0, "duck": {"depth": 0}}).apply(document)


MUSIC = {"kind": "shelved", "asset": "d" * 16, "stored": BED}
WORDS = {"kind": "shelved", "asset": "e" * 16, "stored": VOICE}


def master(document) -> Master:
    return Master(plan_of(Timeline(document)), Sounds(FILES.__getitem__))


def mixed(document) -> np.ndarray:
    plan = plan_of(Timeline(document))
    return Mixer(plan, Sounds(FILES.__getitem__)).samples(0, plan.length)


def rms(sound: np.ndarray) -> float:
    return float(np.sqrt((sound.astype(float) ** 2).mean()))


def with_music(document, **changes):
    add = AddCue(sound=MUSIC, tie=CueTie())
    document = add.apply(document)
    return ChangeCue(cue=add.cue, changes=changes).apply(document) if changes else document


class TestParts:
    def test_what_lasts_is_the_bed_and_what_strikes_a_hit(self):
        document = AddCue(sound=Tick(), tie=CueTie(offset=30)).apply(with_music(footage()))
        assert [c.part for c in document.project.cues] == ["bed", "hits"]

    @pytest.mark.parametrize(("part", "other"), [("footage", "bed"), ("bed", "footage")])
    def test_a_fader_changes_its_own_part_alone(self, part, other):
        document = with_music(footage())
        alone = ChangeMix(changes={other: {"muted": True}}).apply(document)
        quiet = ChangeMix(changes={part: {"gain": -6.0206}}).apply(alone)
        assert mixed(quiet) == pytest.approx(mixed(alone) / 2, abs=1e-5)
        assert mixed(document) == pytest.approx(
            mixed(alone) + mixed(ChangeMix(changes={part: {"muted": True}}).apply(document)), abs=1e-6
        )

    def test_levels_are_the_peaks_of_the_parts(self):
        document = AddCue(sound=Slam(), tie=CueTie(offset=45), gain=0).apply(with_music(footage()))
        levels = master(document).levels(1)
        assert levels.shape == (3, 25)
        bed = ChangeMix(changes={"footage": {"muted": True}, "hits": {"muted": True}}).apply(document)
        peaks = np.abs(mixed(bed)[:, RATE : 2 * RATE]).max(0).reshape(25, -1).max(1)
        assert levels[1] == pytest.approx(peaks, abs=1e-6)
        assert levels[2, :11].max() < 0.01 < 0.2 < levels[2, 13]

    def test_wrong_ones_get_a_sentence(self):
        document = footage()
        with pytest.raises(Refusal, match="nothing that is called volume"):
            ChangeMix(changes={"volume": 3}).apply(document)
        with pytest.raises(Refusal, match="Choose another value"):
            ChangeMix(changes={"loudness": 12}).apply(document)
        with pytest.raises(Refusal, match="Choose another value"):
            ChangeMix(changes={"duck": {"depth": -3}}).apply(document)
        item = document.project.ground[0].id
        with pytest.raises(Refusal, match="Choose another value"):
            ChangeLoudness(items=[item], changes={"line": [{"at": 5, "gain": 0}, {"at": 2, "gain": 0}]}).apply(document)


class TestDuck:
    def heard(self, **duck) -> np.ndarray:
        """The bed under words from the third second to the fourth, footage muted."""
        document = ChangeMix(changes={"duck": {"depth": 12, **duck}, "footage": {"muted": False}}).apply(footage())
        item = document.project.ground[0].id
        document = ChangeLoudness(items=[item], changes={"muted": True}).apply(with_music(document))
        return mixed(AddCue(sound=WORDS, tie=CueTie(offset=60), part="voice", gain=-60).apply(document))

    def test_it_is_down_when_the_voice_begins_and_back_when_it_is_over(self):
        plain, down = self.heard(depth=0), self.heard(attack=0.2, release=0.5)
        share = [rms(down[:, a : a + 2400]) / rms(plain[:, a : a + 2400]) for a in range(0, 6 * RATE - 2400, 2400)]
        at = np.arange(len(share)) * 0.05
        # Voices that cannot be heard are in nobody's way.
        assert share == pytest.approx(np.ones(len(share)), abs=1e-6)
        document = ChangeMix(changes={"duck": {"depth": 12, "attack": 0.2, "release": 0.5}}).apply(footage())
        item = document.project.ground[0].id
        document = ChangeLoudness(items=[item], changes={"muted": True}).apply(with_music(document))
        loud = AddCue(sound=WORDS, tie=CueTie(offset=60), part="voice", gain=0).apply(document)
        words = ChangeMix(changes={"bed": {"muted": True}}).apply(loud)
        bed = mixed(loud) - mixed(words)
        share = np.array([rms(bed[:, a : a + 2400]) / rms(plain[:, a : a + 2400]) for a in range(0, 285_600, 2400)])
        at = at[: len(share)]
        assert share[(at > 3.05) & (at < 3.9)] == pytest.approx(10 ** (-12 / 20), abs=0.01)
        assert share[(at < 2.75) | (at > 4.6)] == pytest.approx(1, abs=0.01)
        assert np.abs(np.diff(share)).max() < 0.3

    def test_hits_can_be_left_out_and_muted_ones_are(self):
        document = AddCue(sound=Slam(), tie=CueTie(offset=60)).apply(with_music(footage()))
        document = ChangeMix(changes={"duck": {"depth": 20}}).apply(document)
        silent = ChangeMix(changes={"hits": {"muted": True}}).apply(document)
        without = ChangeMix(changes={"duck": {"hits": False}}).apply(document)
        assert mixed(silent) == pytest.approx(mixed(with_music(footage())), abs=1e-6)
        late = slice(int(2.05 * RATE), int(2.2 * RATE))
        assert rms(mixed(document)[:, late]) < rms(mixed(without)[:, late])


class TestHush:
    def stood(self, **source) -> tuple[np.ndarray, np.ndarray]:
        """What is heard with a second's standstill at second 2, as it is and hushed."""
        document = AddStandstill(at=59, frames=30, heard="runs on").apply(with_music(footage()))
        item = document.project.ground[1]
        changed = item.source.model_copy(update=source)
        return mixed(document), mixed(ChangeGround(item=item.id, source=changed).apply(document))

    @pytest.mark.parametrize("source", [{"bed": w} for w in ("silent", "echo", "muffled")] + [{"heard": "muffled"}])
    def test_nothing_changes_outside_the_standstill(self, source):
        plain, hushed = self.stood(**source)
        assert np.array_equal(plain[:, : 2 * RATE], hushed[:, : 2 * RATE])
        assert np.array_equal(plain[:, 3 * RATE :], hushed[:, 3 * RATE :])
        assert np.abs(np.diff(hushed[0] - plain[0])[2 * RATE - 5 : 2 * RATE + 5]).max() < 0.02

    def test_what_rings_out_grows_less_and_less(self):
        document = AddStandstill(at=59, frames=60, heard="silent").apply(footage())
        item = document.project.ground[1]
        source = item.source.model_copy(update={"heard": "echo"})
        heard = mixed(ChangeGround(item=item.id, source=source).apply(document))[:, 2 * RATE : 4 * RATE]
        loud = [rms(heard[:, a : a + RATE // 2]) for a in range(0, 2 * RATE, RATE // 2)]
        assert loud[0] > 0.004
        assert loud[0] > 1.5 * loud[1] > 3 * loud[3]
        assert np.abs(heard[:, -50:]).max() < 1e-3

    def test_behind_a_wall_only_what_is_low_is_left(self):
        _, heard = self.stood(bed="muffled", heard="muffled")
        spectrum = np.abs(np.fft.rfft(heard[0, int(2.2 * RATE) : int(2.8 * RATE)]))
        hz = np.fft.rfftfreq(int(0.6 * RATE), 1 / RATE)
        assert spectrum[(hz > 1500) & (hz < 12_000)].mean() < 0.02 * spectrum[(hz > 50) & (hz < 300)].mean()


class TestCuts:
    @given(st.lists(st.integers(1, 178), min_size=1, max_size=4, unique=True), st.booleans())
    @settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    def test_cutting_is_not_heard_and_joining_leaves_what_was(self, places, shaped):
        document = footage()
        item = document.project.ground[0].id
        if shaped:
            line = [{"at": 20, "gain": -12}, {"at": 100, "gain": 3}]
            changes = {"gain": -3, "fade_in": 20, "fade_out": 15, "line": line}
            document = ChangeLoudness(items=[item], changes=changes).apply(document)
        cut = document
        for at in places:
            cut = SplitGround(at=at).apply(cut)
        assert len(cut.project.ground) == len(places) + 1
        assert np.array_equal(mixed(cut), mixed(document))
        # A standstill cuts; taken away, the two parts are one again.
        stood = AddStandstill(at=places[0], frames=9).apply(document)
        stands = next(g for g in stood.project.ground if g.source.stands)
        assert RemoveGround(items=[stands.id]).apply(stood).project.ground == document.project.ground

    @pytest.mark.parametrize("speed", [100, 80])
    def test_a_cue_that_is_cut_is_heard_as_before(self, speed):
        line = [{"at": 1, "gain": 0}, {"at": 3, "gain": -9}]
        document = with_music(footage(), speed=speed, line=line, fade_in=10, fade_out=20, lasts=5, skip=0.5)
        cue = document.project.cues[0].id
        cut = SplitCue(cue=cue, at=70).apply(document)
        assert [c.part for c in cut.project.cues] == ["bed", "bed"]
        assert [c.name for c in cut.project.cues] == ["Music", "Music 2"]
        assert mixed(cut) == pytest.approx(mixed(document), abs=1e-4)
        assert np.array_equal(mixed(cut)[:, : 2 * RATE], mixed(document)[:, : 2 * RATE])
        with pytest.raises(Refusal, match="not heard there"):
            SplitCue(cue=cue, at=170).apply(document)

    def test_one_that_is_cut_again_and_again_is_yet_one(self):
        document = AddCue(sound=Tick(), tie=CueTie(offset=170)).apply(with_music(footage()))
        cut = document
        for at, cue in ((60, 0), (100, 1), (150, 2)):
            cut = SplitCue(cue=cut.project.cues[cue].id, at=at).apply(cut)
        assert len(cut.project.cues) == 5
        assert len(plan_of(Timeline(cut)).cues) == 2
        assert mixed(cut) == pytest.approx(mixed(document), abs=1e-4)

    def test_a_sound_that_is_detached_is_heard_as_before(self):
        document = SplitGround(at=60).apply(footage())
        item = document.project.ground[1].id
        loud = ChangeLoudness(items=[item], changes={"gain": -4, "line": [{"at": 90, "gain": 3}]}).apply(document)
        apart = DetachSound(item=item).apply(loud)
        (cue,) = apart.project.cues
        assert (cue.part, cue.tie.item) == ("voice", item)
        # But for the cut itself, where either comes and goes within milliseconds.
        differ = np.abs(mixed(apart) - mixed(loud)).max(0) > 1e-5
        assert differ.sum() < 1000
        assert not differ[: 2 * RATE - 200].any()
        with pytest.raises(Refusal, match="is not heard"):
            DetachSound(item=item).apply(apart)


class TestTies:
    STEPS = st.lists(
        st.tuples(st.sampled_from(["split", "stand", "trim", "move", "remove", "again", "slow"]), st.integers(0, 400)),
        min_size=1,
        max_size=6,
    )

    @given(STEPS)
    @settings(max_examples=60, deadline=None)
    def test_what_is_tied_to_an_end_keeps_to_it_whatever_is_done_to_the_ground(self, steps):
        """A cue tied to the end of footage stays at the end of the frame it was put after, as long as that is there."""
        document = SplitGround(at=90).apply(footage())
        first, second = (g.id for g in document.project.ground)
        ties = (CueTie(item=first, to="end", offset=-2), CueTie(item=second, offset=3))
        for tie in ties:
            document = AddCue(sound=Tick(), tie=tie).apply(document)
        for what, at in steps:
            ground = document.project.ground
            item, frame = ground[at % len(ground)], at % Timeline(document).length
            edit = {
                "split": SplitGround(at=frame),
                "stand": AddStandstill(at=frame, frames=7),
                "trim": ChangeGround(item=item.id, past=(item.source.range or (0, 1))[1]),
                "move": MoveGround(item=item.id, to=at % 3),
                "remove": RemoveGround(items=[item.id]),
                "again": DuplicateGround(item=item.id),
                "slow": ChangeGround(item=item.id, source=_slower(item.source)),
            }[what]
            if what == "remove" and len(ground) == 1:
                continue
            try:
                document = edit.apply(document)
            except Refusal:
                continue
        timeline = Timeline(document)
        assert len(document.project.cues) == 2
        for cue in document.project.cues:
            frame = timeline.cue(cue)
            assert frame is not None
            assert cue.tie.item is None or cue.tie.item in timeline.starts
        items = timeline.starts
        if second in items and document.project.cues[1].tie.item == second:
            assert timeline.cue(document.project.cues[1]) == items[second] + 3


def _slower(source):
    return source.model_copy(update={"speed": 50, "part": None}) if hasattr(source, "speed") else source


class TestMaster:
    def test_it_comes_to_its_loudness_below_its_peak(self):
        document = with_music(footage(), gain=4)
        document = AddCue(sound=Slam(), tie=CueTie(offset=40), gain=6).apply(document)
        for target, peak in ((-14.0, -1.0), (-20.0, -3.0), (-10.0, -1.5)):
            mix = {"loudness": target, "peak": peak, "duck": {"depth": 8}}
            found = master(ChangeMix(changes=mix).apply(document))
            whole = found.samples(0, found.plan.length)
            assert loudness([whole]) == pytest.approx(target, abs=0.3)
            assert found.measured[0] == pytest.approx(target, abs=0.3)
            assert true_peak(whole) <= 10 ** (peak / 20) * 1.001

    def test_nothing_is_made_of_silence_and_of_noise_no_more_than_it_can_bear(self):
        silent = ChangeMix(changes={"footage": {"muted": True}, "loudness": -14.0}).apply(footage())
        assert master(silent).gain == 0
        assert master(silent).measured == (None, 0.0)
        faint = ChangeMix(changes={"footage": {"gain": -50}, "loudness": -14.0}).apply(footage())
        assert master(faint).gain == 24

    def test_parts_make_the_whole_to_the_bit(self):
        document = AddStandstill(at=80, frames=20, heard="silent").apply(with_music(footage(), speed=90))
        item = next(g for g in document.project.ground if g.source.stands)
        source = item.source.model_copy(update={"heard": "echo", "bed": "muffled"})
        document = ChangeGround(item=item.id, source=source).apply(document)
        document = AddCue(sound=Slam(), tie=CueTie(offset=50), gain=9).apply(document)
        document = ChangeMix(changes={"loudness": -12.0, "peak": -1.0, "duck": {"depth": 9}}).apply(document)
        found, again = master(document), master(document)
        whole = found.samples(-100, found.plan.length + 50)
        edges = [-100, 0, 1, 47_999, 48_001, 100_000, 144_000, 222_222, found.plan.length + 50]
        parts = [again.samples(a, b) for a, b in reversed(list(zip(edges, edges[1:], strict=False)))]
        assert np.array_equal(np.concatenate(parts[::-1], 1), whole)
        assert not whole[:, :100].any()
        assert not whole[:, -50:].any()

    def test_the_longest_release_is_within_reach_of_a_key(self):
        """A bed that comes back within five seconds is mixed anew as far as that."""
        document = ChangeMix(changes={"duck": {"depth": 20, "release": 5.0}}).apply(with_music(footage()))
        after = AddCue(sound=Tick(), tie=CueTie(offset=5)).apply(document)
        keys = [[plan_of(Timeline(d)).block(n) for n in range(6)] for d in (document, after)]
        heard = [master(d) for d in (document, after)]
        for n in range(6):
            same = np.array_equal(*(h.block(n).samples for h in heard))
            assert same or keys[0][n] != keys[1][n]
        assert not np.array_equal(*(h.block(4).samples for h in heard))

    def test_an_edit_changes_the_keys_of_what_is_near_it_alone(self):
        document = with_music(footage())
        (shot,) = document.shots
        long = AddGround(shot=shot).apply(document)
        before = plan_of(Timeline(document))
        after = plan_of(Timeline(AddCue(sound=Tick(), tie=CueTie(offset=179)).apply(document)))
        same = [before.block(n) == after.block(n) for n in range(before.blocks)]
        assert same == [False] * 6
        far = plan_of(Timeline(AddCue(sound=Tick(), tie=CueTie(offset=340)).apply(long)))
        assert [plan_of(Timeline(long)).block(n) == far.block(n) for n in range(12)] == [True] * 5 + [False] * 7
        assert before.key != after.key
        assert plan_of(Timeline(document)).key == before.key


class TestLimit:
    @pytest.mark.parametrize("seed", range(3))
    def test_no_peak_is_higher_than_the_ceiling(self, seed):
        rng = np.random.default_rng(seed)
        sound = rng.normal(0, 0.2, (2, BLOCK + 2 * SPAN)).astype(np.float32)
        # A quarter of the rate, between whose samples it is the highest.
        t = np.arange(4000)
        sound[:, 9000:13_000] += 1.2 * np.sin(np.pi / 2 * t + np.pi / 4).astype(np.float32)
        sound[0, 30_000] = 4
        out = limited(sound, 0.8)
        assert out.shape == (2, BLOCK)
        assert true_peak(out) <= 0.8 * 1.005
        # Far from any peak it is as it was.
        quiet = limited(sound * 0.1, 0.8)
        assert np.array_equal(quiet, sound[:, SPAN:-SPAN] * np.float32(0.1))

    def test_a_tone_between_samples_has_its_true_peak(self):
        t = np.arange(RATE // 2)
        tone = (0.5 * np.sin(np.pi / 2 * t + np.pi / 4)).astype(np.float32)
        assert np.abs(tone).max() == pytest.approx(0.3536, abs=1e-3)
        assert true_peak(np.stack([tone, tone])) == pytest.approx(0.5, abs=0.02)

    def test_loudness_is_that_of_the_standard(self):
        """EBU Tech 3341: a stereo sine of 1 kHz at −23 dBFS is −23 LUFS; what is quiet around it does not count."""
        t = np.arange(20 * RATE) / RATE
        tone = (10 ** (-23 / 20) * np.sin(2 * np.pi * 1000 * t)).astype(np.float32)
        sound = np.stack([tone, tone])
        assert loudness([sound]) == pytest.approx(-23, abs=0.1)
        assert loudness([sound * 0.01, sound, sound * 0.01]) == pytest.approx(-23, abs=0.1)
        assert loudness([]) is None
        assert loudness([np.zeros((2, RATE), np.float32)]) is None
