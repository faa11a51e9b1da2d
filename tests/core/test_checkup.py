"""The checkup: for each finding a patch that has the fault, a neighbour that has not, and the remedy that mends it."""

import json
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any, get_args

from inner_tone.core.checkup import Checkup, Code, examined
from inner_tone.core.lesson.templates import TEMPLATES
from inner_tone.core.patch.edit import edited
from inner_tone.core.patch.graph import Graph
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.moves import Connect, SetValue
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Phrase, read_phrase
from inner_tone.demo import bell, fog, foghorn
from tests.support.patches import Line, module, patch, phrase

EXAMPLES = Path(__file__).resolve().parents[2] / "docs" / "examples"

ONE_NOTE = phrase((0.0, 1.0, 57.0), beats=1.5)
TWO_NOTES = phrase((0.0, 0.6, 57.0), (0.8, 0.6, 64.0), beats=1.5)
EARS: list[Line] = [("amp.out", "out.left"), ("amp.out", "out.right")]


def voice(
    *more: dict[str, Any],
    lines: tuple[Line, ...] = (),
    without: tuple[tuple[str, str], ...] = (),
    **settings: dict[str, Any],
) -> Patch:
    """Return an oscillator through a filter and an amplifier with an envelope: nothing is wrong with it."""
    modules: dict[str, dict[str, Any]] = {
        "player": {},
        "osc": {"wave": "saw", "octave": -1},
        "filter": {"cutoff": 1200},
        "env": {"attack": 0.02, "decay": 0.1, "sustain": 0.7, "release": 0.2},
        "amp": {},
        "out": {"level": -12},
    }
    types = {
        "player": "player",
        "osc": "oscillator",
        "filter": "filter",
        "env": "envelope",
        "amp": "amplifier",
        "out": "output",
    }
    drawn: list[Line] = [
        ("player.pitch", "osc.pitch"),
        ("osc.out", "filter.in"),
        ("filter.out", "amp.in"),
        ("player.gate", "env.gate"),
        ("env.out", "amp.level"),
        *EARS,
        *lines,
    ]
    kept = [line for line in drawn if (line[0], line[1]) not in without]
    named = [module(name, types[name], **(given | settings.get(name, {}))) for name, given in modules.items()]
    return patch([*named, *more], kept)


def codes(found: Checkup) -> set[str]:
    return {one.code for one in found.findings}


def two_envelopes(bright: float, loud: float) -> Patch:
    """Return a voice whose filter and whose amplifier have releases of their own."""
    return voice(
        module("bright", "envelope", attack=0.01, decay=0.2, sustain=0.9, release=bright),
        lines=(("player.gate", "bright.gate"), ("bright.out", "filter.cutoff", 48)),
        filter={"cutoff": 60},
        env={"release": loud},
    )


def modulated(depth: float, note: float) -> tuple[Patch, Phrase]:
    """Return a sine that another one at three times its frequency moves."""
    played = voice(
        module("mod", "oscillator", wave="sine", ratio=3, octave=-1),
        lines=(("player.pitch", "mod.pitch"), ("mod.out", "osc.phase", depth), ("osc.out", "amp.in")),
        without=(("osc.out", "filter.in"), ("filter.out", "amp.in")),
        osc={"wave": "sine"},
    )
    bare = played.model_copy(update={"modules": tuple(one for one in played.modules if one.id != "filter")})
    return bare, phrase((0.0, 1.0, note), beats=1.5)


WHEELED = phrase((0.0, 1.0, 57.0), beats=1.5, gestures=[{"control": "wheel", "points": [[0, 0], [1, 1]]}])
TICK: Line = ("clock.out", "steps.clock")
RUNNING = (module("clock", "clock"), module("steps", "steps", count=4))
PULSED = (module("mod", "oscillator", wave="square", width=0.1, octave=-1),)
PUSHED: tuple[Line, ...] = (("player.pitch", "mod.pitch"), ("mod.out", "osc.linear", 20))


def blended(second: str = "oscillator", **settings: Any) -> Patch:
    """Return a voice of two sources in a mixer; settings are the mixer's or the second source's."""
    own = {name: value for name, value in settings.items() if name in ("fill", "levels")}
    return voice(
        module("second", second, octave=-1, **own) if second == "oscillator" else module("second", second, **own),
        module("mix", "mixer", **{name: value for name, value in settings.items() if name not in own}),
        lines=(
            ("player.pitch", "second.pitch"),
            ("osc.out", "mix.in1"),
            ("second.out", "mix.in2"),
            ("mix.out", "filter.in"),
        ),
        without=(("osc.out", "filter.in"),),
    )


def steered(name: str, depth: float, **settings: Any) -> Patch:
    """Return a voice of which an LFO steers the pitch or the cutoff."""
    target = "osc.pitch" if name == "pitch" else "filter.cutoff"
    return voice(module("lfo", "lfo", rate=5, **settings), lines=(("lfo.out", target, depth),))


def vibrato(depth: float = 0.5) -> Patch:
    """Return a voice with a vibrato that the wheel brings in."""
    return voice(module("lfo", "lfo", rate=5), lines=(("lfo.out", "osc.pitch", depth, "player.wheel"),))


def wobbling(octaves: float) -> Patch:
    """Return a voice with an LFO whose rate the envelope moves."""
    return voice(module("lfo", "lfo"), lines=(("lfo.out", "filter.cutoff", 12), ("env.out", "lfo.rate", octaves)))


def opened(level: float, into: float = 1.0, out: float = 1.0) -> Patch:
    """Return a voice whose amplifier is opened so far, with so deep lines into it and out of it."""
    depths = {"amp.level": level, "amp.in": into, "out.left": out, "out.right": out}
    played = voice()
    lines = [one.model_copy(update={"depth": depths.get(one.target, one.depth)}) for one in played.connections]
    return played.model_copy(update={"connections": tuple(lines)})


def rung(driven: bool = True, gates: list[int] | None = None) -> Patch:
    """Return a voice whose keys open its amplifier, while steps move its cutoff and strike the envelope for that."""
    return voice(
        module("clock", "clock"),
        module("steps", "steps", count=4, gates=gates or [1, 1, 1, 1], row1=[0, 3, 7, 12]),
        module("bright", "envelope", attack=0.01, decay=0.05, release=0.2),
        lines=(
            *((TICK,) if driven else ()),
            ("steps.row1", "filter.cutoff"),
            ("steps.gate", "bright.gate"),
            ("bright.out", "filter.cutoff", 12),
        ),
    )


def stepped(driven: bool = True, gates: list[int] | None = None, **envelope: Any) -> Patch:
    """Return a voice that steps strike, four to the second."""
    return voice(
        module("clock", "clock"),
        module("steps", "steps", count=4, gates=gates or [1, 1, 1, 1]),
        lines=(*((TICK,) if driven else ()), ("steps.gate", "env.gate")),
        without=(("player.gate", "env.gate"),),
        env={"attack": 0.01, "decay": 0.05} | envelope,
    )


def weighed(source: str, target: str) -> Patch:
    """Return a voice of which an LFO moves the cutoff by way of a product, with something else on it."""
    return voice(
        module("lfo", "lfo"),
        module("product", "arithmetic"),
        lines=(
            ("lfo.out", "product.a"),
            ("product.out", "filter.cutoff", 12),
            *(((source, target),) if source else ()),
        ),
    )


def spread(behind: bool) -> Patch:
    """Return a voice with a pan that an LFO moves; behind it, if asked, a filter takes in both sides."""
    sides = ("end.in", "end.in") if behind else ("out.left", "out.right")
    lines: tuple[Line, ...] = (("amp.out", "pan.in"), ("pan.left", sides[0]), ("pan.right", sides[1]))
    after: tuple[Line, ...] = (("end.out", "out.left"), ("end.out", "out.right"))
    more = (module("end", "filter", cutoff=5000),) if behind else ()
    return voice(
        module("pan", "pan"),
        module("lfo", "lfo", rate=4),
        *more,
        lines=(*lines, ("lfo.out", "pan.position", 1), *(after if behind else ())),
        without=tuple((one[0], one[1]) for one in EARS),
    )


Case = tuple[str, Callable[[], tuple[Patch, Phrase]], Callable[[], tuple[Patch, Phrase]], str, str]

# the code, a patch with the fault, its neighbour without it, and the place that the finding must name
CASES: list[Case] = [
    (
        "no-sound",
        lambda: (voice(without=(("env.out", "amp.level"),)), ONE_NOTE),
        lambda: (voice(), ONE_NOTE),
        "amp",
        "level",
    ),
    ("drone", lambda: (voice(amp={"level": 0.5}), ONE_NOTE), lambda: (voice(), ONE_NOTE), "out", ""),
    (
        "goes-nowhere",
        lambda: (voice(module("lfo", "lfo")), ONE_NOTE),
        lambda: (voice(module("lfo", "lfo"), lines=(("lfo.out", "filter.cutoff", 12),)), ONE_NOTE),
        "lfo",
        "",
    ),
    (
        "unmoving",
        lambda: (voice(lines=(("player.wheel", "filter.cutoff", 24),)), ONE_NOTE),
        lambda: (
            voice(lines=(("player.wheel", "filter.cutoff", 24),)),
            phrase(
                (0.0, 1.0, 57.0),
                beats=1.5,
                gestures=[{"control": "wheel", "points": [[0, 0], [1, 1]]}],
            ),
        ),
        "filter",
        "cutoff",
    ),
    (
        "pitch-not-followed",
        lambda: (voice(without=(("player.pitch", "osc.pitch"),)), TWO_NOTES),
        lambda: (voice(), TWO_NOTES),
        "osc",
        "pitch",
    ),
    (
        "pitch-not-followed",
        lambda: (
            voice(lines=(("player.pitch", "osc.pitch", 0.5),), without=(("player.pitch", "osc.pitch"),)).model_copy(
                update={"connections": halved()}
            ),
            TWO_NOTES,
        ),
        lambda: (voice(), TWO_NOTES),
        "osc",
        "pitch",
    ),
    (
        "out-of-tune",
        lambda: (voice(osc={"fine": 30}), ONE_NOTE),
        lambda: (voice(osc={"fine": 3}), ONE_NOTE),
        "osc",
        "pitch",
    ),
    (
        "out-of-tune",
        lambda: (voice(osc={"offset": 9}), ONE_NOTE),
        lambda: (
            voice(
                module("second", "oscillator", fine=9, octave=-1),
                lines=(("player.pitch", "second.pitch"), ("second.out", "filter.in")),
            ),
            ONE_NOTE,
        ),
        "osc",
        "pitch",
    ),
    (
        "out-of-hearing",
        lambda: (voice(osc={"octave": -5}), phrase((0.0, 1.0, 40.0), beats=1.5)),
        lambda: (voice(osc={"octave": -2}), phrase((0.0, 1.0, 57.0), beats=1.5)),
        "osc",
        "pitch",
    ),
    (
        "clipping",
        lambda: (voice(filter={"resonance": 0.8, "cutoff": 440}, out={"level": 0}), ONE_NOTE),
        lambda: (voice(filter={"resonance": 0.8, "cutoff": 440}, out={"level": -12}), ONE_NOTE),
        "filter",
        "",
    ),
    ("clipping", lambda: (voice(out={"level": 6}), ONE_NOTE), lambda: (voice(), ONE_NOTE), "out", ""),
    (
        "dc-offset",
        lambda: (voice(osc={"wave": "square", "width": 0.1}, filter={"cutoff": 8000}, out={"level": -6}), ONE_NOTE),
        lambda: (voice(osc={"wave": "square", "width": 0.5}, filter={"cutoff": 8000}, out={"level": -6}), ONE_NOTE),
        "osc",
        "",
    ),
    (
        "click",
        lambda: (voice(lines=(("player.gate", "amp.level"),), without=(("env.out", "amp.level"),)), ONE_NOTE),
        lambda: (voice(), ONE_NOTE),
        "amp",
        "level",
    ),
    (
        "click",
        lambda: (voice(env={"release": 0.0}), ONE_NOTE),
        lambda: (voice(env={"release": 0.005}), ONE_NOTE),
        "amp",
        "level",
    ),
    (
        "cut-short",
        lambda: (voice(env={"attack": 3.0}), ONE_NOTE),
        lambda: (voice(env={"attack": 0.5}), ONE_NOTE),
        "env",
        "attack",
    ),
    (
        "cut-short",
        lambda: (voice(env={"decay": 4.0, "sustain": 0.1}), ONE_NOTE),
        lambda: (voice(env={"decay": 0.6, "sustain": 0.1}), ONE_NOTE),
        "env",
        "decay",
    ),
    (
        "release-mismatch",
        lambda: (two_envelopes(0.1, 1.5), ONE_NOTE),
        lambda: (two_envelopes(1.2, 1.5), ONE_NOTE),
        "bright",
        "release",
    ),
    (
        "release-mismatch",
        lambda: (two_envelopes(3.0, 0.2), ONE_NOTE),
        lambda: (two_envelopes(0.3, 0.2), ONE_NOTE),
        "bright",
        "release",
    ),
    (
        "sounds-unplayed",
        lambda: (voice(without=(("osc.out", "filter.in"),), filter={"resonance": 1}), ONE_NOTE),
        lambda: (voice(filter={"resonance": 1}), ONE_NOTE),
        "filter",
        "resonance",
    ),
    (
        "runaway",
        lambda: (voice(lines=(("filter.out", "filter.in", 1.6),)), ONE_NOTE),
        lambda: (voice(lines=(("filter.out", "filter.in", 0.4),)), ONE_NOTE),
        "filter",
        "",
    ),
    ("aliasing", lambda: modulated(7.0, 98.0), lambda: modulated(0.6, 69.0), "osc", "phase"),
    # what is kept out of what is heard
    ("unheard", lambda: (blended(level2=0), ONE_NOTE), lambda: (blended(level2=0.2), ONE_NOTE), "mix", "level2"),
    ("unheard", lambda: (blended(mute2="on"), ONE_NOTE), lambda: (blended(), ONE_NOTE), "mix", "in2"),
    ("unheard", lambda: (blended(solo1="on"), ONE_NOTE), lambda: (blended(), ONE_NOTE), "mix", "in2"),
    ("unheard", lambda: (vibrato(), TWO_NOTES), lambda: (vibrato(), WHEELED), "osc", "pitch"),
    ("unheard", lambda: (vibrato(depth=0.0), WHEELED), lambda: (vibrato(), WHEELED), "osc", "pitch"),
    (
        "unheard",
        lambda: (blended("harmonics", fill="drawn"), ONE_NOTE),
        lambda: (blended("harmonics", fill="drawn", levels=[0.5]), ONE_NOTE),
        "second",
        "levels",
    ),
    # what is driven too far
    ("too-far", lambda: (steered("pitch", 144), ONE_NOTE), lambda: (steered("pitch", 12), ONE_NOTE), "osc", "pitch"),
    (
        "too-far",
        lambda: (steered("cutoff", 576), ONE_NOTE),
        lambda: (steered("cutoff", 96), ONE_NOTE),
        "filter",
        "cutoff",
    ),
    ("too-far", lambda: (wobbling(99), ONE_NOTE), lambda: (wobbling(3), ONE_NOTE), "lfo", "rate"),
    (
        "too-far",
        lambda: (opened(16.0), ONE_NOTE),
        lambda: (opened(1.0), ONE_NOTE),
        "amp",
        "level",
    ),
    ("too-quiet", lambda: (voice(out={"level": -55}), ONE_NOTE), lambda: (voice(), ONE_NOTE), "out", "level"),
    ("too-quiet", lambda: (opened(1.0, 0.003), ONE_NOTE), lambda: (opened(1.0, 0.9), ONE_NOTE), "amp", "in"),
    # gates and steps
    ("stands-still", lambda: (rung(False), ONE_NOTE), lambda: (rung(), ONE_NOTE), "steps", "clock"),
    (
        "stands-still",
        lambda: (rung(gates=[0, 0, 0, 0]), ONE_NOTE),
        lambda: (rung(gates=[0, 1, 0, 0]), ONE_NOTE),
        "steps",
        "gates",
    ),
    (
        "masked-gate",
        lambda: (voice(*RUNNING, lines=(TICK, ("steps.gate", "env.gate"))), ONE_NOTE),
        lambda: (stepped(), ONE_NOTE),
        "env",
        "gate",
    ),
    (
        "lone-factor",
        lambda: (weighed("player.wheel", "product.c"), WHEELED),
        lambda: (weighed("player.wheel", "product.b"), WHEELED),
        "product",
        "c",
    ),
    (
        "lone-factor",
        lambda: (weighed("", ""), ONE_NOTE),
        lambda: (weighed("env.out", "product.b"), ONE_NOTE),
        "product",
        "b",
    ),
    (
        "cut-short",
        lambda: (stepped(stages="attack-decay", attack=0.9), ONE_NOTE),
        lambda: (stepped(stages="attack-decay", attack=0.05), ONE_NOTE),
        "env",
        "attack",
    ),
    (
        "lone-factor",
        lambda: (voice(module("product", "arithmetic"), lines=(("product.out", "filter.cutoff", 12),)), ONE_NOTE),
        lambda: (weighed("env.out", "product.b"), ONE_NOTE),
        "product",
        "a",
    ),
    # tunings that are shifted
    ("out-of-tune", lambda: (voice(osc={"linear": 7}), ONE_NOTE), lambda: (voice(), ONE_NOTE), "osc", "pitch"),
    (
        "out-of-tune",
        lambda: (steered("pitch", 1, range="positive"), ONE_NOTE),
        lambda: (steered("pitch", 1), ONE_NOTE),
        "osc",
        "pitch",
    ),
    (
        "out-of-tune",
        lambda: (voice(*PULSED, lines=PUSHED), ONE_NOTE),
        lambda: (voice(module("mod", "oscillator", wave="sine"), lines=PUSHED), ONE_NOTE),
        "osc",
        "pitch",
    ),
    # two sides, and a line that is too strong
    ("one-sided", lambda: (spread(True), ONE_NOTE), lambda: (spread(False), ONE_NOTE), "pan", "left"),
    (
        "clipping",
        lambda: (opened(1.0, 1.0, 8.0), ONE_NOTE),
        lambda: (opened(1.0, 1.0, 1.0), ONE_NOTE),
        "out",
        "left",
    ),
]


def halved() -> tuple[Any, ...]:
    """Return the voice's connections with the keys followed by half."""
    return tuple(
        line.model_copy(update={"depth": 0.5}) if line.source == "player.pitch" else line
        for line in voice().connections
    )


class CodesTest(unittest.TestCase):
    def test_every_code_is_tried(self) -> None:
        self.assertEqual({case[0] for case in CASES}, set(get_args(Code)))

    def test_fault_is_found_in_its_place_and_its_neighbour_passes(self) -> None:
        for number, (code, faulty, sound, place, port) in enumerate(CASES):
            with self.subTest(code, number=number):
                found = [one for one in examined(*faulty()).findings if one.code == code]
                self.assertTrue(found, "the fault is found")
                self.assertEqual((found[0].module, found[0].port), (place, port))
                self.assertTrue(str(found[0].message).endswith("."), found[0].message)
                self.assertTrue(found[0].measured and found[0].why and found[0].remedy.words)
                self.assertNotIn(code, codes(examined(*sound())), "the neighbour passes")

    def test_no_aliasing_is_invented(self) -> None:
        """Nothing folds where the modulator moves nothing, or where what is no multiple does not come from folding."""
        for depth in (0.0, 0.3):
            self.assertNotIn("aliasing", codes(examined(*modulated(depth, 98.0))))
        played, notes = modulated(7.0, 98.0)
        unheard = played.model_copy(
            update={
                "connections": tuple(
                    one.model_copy(update={"scaled_by": Port("player.wheel")}) if one.target == "osc.phase" else one
                    for one in played.connections
                )
            }
        )
        self.assertNotIn("aliasing", codes(examined(unheard, notes)))
        # a filter that sings beside an FM that folds nothing: its tone is no multiple, and no folding
        singing = voice(
            module("mod", "oscillator", wave="sine", octave=-1),
            lines=(("player.pitch", "mod.pitch"), ("mod.out", "osc.phase", 0.5)),
            osc={"wave": "sine"},
            filter={"resonance": 1, "cutoff": 5003},
        )
        self.assertNotIn("aliasing", codes(examined(singing, ONE_NOTE)))

    def test_healthy_voice_has_no_findings(self) -> None:
        self.assertEqual(examined(voice(), TWO_NOTES).findings, ())

    def test_remedy_mends_the_fault(self) -> None:
        for number, (code, faulty, _, _, _) in enumerate(CASES):
            with self.subTest(code, number=number):
                played, notes = faulty()
                for _ in range(3):  # what is far too much may have to be turned down more than once
                    findings = [one for one in examined(played, notes).findings if one.code == code]
                    if findings:
                        remedy = findings[0].remedy
                        self.assertTrue(remedy.edits or remedy.phrase, "there is one move that mends it")
                        played, notes = edited(played, remedy.edits).patch, remedy.phrase or notes
                self.assertNotIn(code, codes(examined(played, notes)))


class SilenceTest(unittest.TestCase):
    """The walk to the place where the sound is lost."""

    def assert_lost(self, played: Patch, place: str, port: str, words: str, notes: Phrase = ONE_NOTE) -> None:
        found = examined(played, notes)
        self.assertEqual([one.code for one in found.findings], ["no-sound"])
        first = found.findings[0]
        self.assertEqual((first.module, first.port), (place, port), first.message)
        self.assertIn(words, str(first.message))
        if first.remedy.edits:
            self.assertNotIn("no-sound", codes(examined(edited(played, first.remedy.edits).patch, notes)))

    def test_what_has_no_way_in_and_gives_nothing_is_told_by_what_it_waits_for(self) -> None:
        heard = [
            module("player", "player"),
            module("env", "envelope"),
            module("lever", "lever"),
            module("out", "output"),
        ]
        self.assert_lost(patch(heard, [("env.out", "out.left")]), "env", "gate", "nothing is connected to its gate")
        self.assert_lost(patch(heard, [("lever.out", "out.left")]), "lever", "", "Lever gives no sound")

    def test_nothing_connected_to_the_output(self) -> None:
        played = voice(without=(("amp.out", "out.left"), ("amp.out", "out.right")))
        self.assert_lost(played, "out", "left", "Nothing is connected")

    def test_no_output_at_all(self) -> None:
        played = read_patch({"modules": [module("osc", "oscillator")], "connections": []})
        self.assert_lost(played, "", "", "There is no output")

    def test_steps_without_a_clock_and_steps_that_are_all_off(self) -> None:
        self.assert_lost(stepped(False), "steps", "clock", "nothing drives its clock")
        self.assert_lost(stepped(gates=[0, 0, 0, 0]), "steps", "gates", "All steps of Steps are off")

    def test_harmonics_that_are_all_zero(self) -> None:
        played = patch(
            [module("player", "player"), module("sum", "harmonics", fill="drawn"), module("out", "output")],
            [("player.pitch", "sum.pitch"), ("sum.out", "out.left"), ("sum.out", "out.right")],
        )
        self.assert_lost(played, "sum", "levels", "all its levels are 0")

    def test_depth_of_zero(self) -> None:
        lines = tuple(
            one.model_copy(update={"depth": 0.0}) if one.ends == ("filter.out", "amp.in") else one
            for one in voice().connections
        )
        self.assert_lost(voice().model_copy(update={"connections": lines}), "amp", "in", "depth of 0")

    def test_envelope_that_is_never_gated(self) -> None:
        self.assert_lost(
            voice(without=(("player.gate", "env.gate"),)), "env", "gate", "nothing is connected to its gate"
        )

    def test_phrase_without_notes(self) -> None:
        self.assert_lost(voice(), "env", "gate", "the phrase has no notes", phrase(beats=1.0))

    def test_depth_of_zero_from_the_envelope(self) -> None:
        lines = tuple(
            one.model_copy(update={"depth": 0.0}) if one.target == "amp.level" else one for one in voice().connections
        )
        self.assert_lost(voice().model_copy(update={"connections": lines}), "amp", "level", "depth of 0")

    def test_closed_filter(self) -> None:
        self.assert_lost(
            voice(filter={"mode": "highpass", "cutoff": 20_000, "slope": 24}, osc={"wave": "sine"}),
            "filter",
            "cutoff",
            "closed",
        )

    def test_muted_channel(self) -> None:
        played = voice(
            module("mix", "mixer", mute1="on"),
            lines=(("osc.out", "mix.in1"), ("mix.out", "filter.in")),
            without=(("osc.out", "filter.in"),),
        )
        self.assert_lost(played, "mix", "in1", "is muted")

    def test_solo_elsewhere_and_level_at_zero(self) -> None:
        for settings, port, words in (({"solo2": "on"}, "in1", "alone"), ({"level1": 0}, "level1", "turned down")):
            played = voice(
                module("mix", "mixer", **settings),
                lines=(("osc.out", "mix.in1"), ("mix.out", "filter.in")),
                without=(("osc.out", "filter.in"),),
            )
            self.assert_lost(played, "mix", port, words)

    def test_selector_and_crossfade_turned_away(self) -> None:
        for kind, way, settings in (("selector", "in3", {"position": 1}), ("crossfade", "b", {"position": 0})):
            played = voice(
                module("turn", kind, **settings),
                lines=(("osc.out", f"turn.{way}"), ("turn.out", "filter.in")),
                without=(("osc.out", "filter.in"),),
            )
            self.assert_lost(played, "turn", "position", "no sound")

    def test_scale_that_stays_at_zero(self) -> None:
        lines = tuple(
            one.model_copy(update={"scaled_by": Port("player.wheel")}) if one.ends == ("filter.out", "amp.in") else one
            for one in voice().connections
        )
        self.assert_lost(voice().model_copy(update={"connections": lines}), "amp", "in", "stays at 0")

    def test_reach_names_what_still_sounds(self) -> None:
        found = examined(voice(without=(("env.out", "amp.level"),)), ONE_NOTE)
        self.assertEqual(set(found.reach), {"osc", "filter"})


class ExamplesTest(unittest.TestCase):
    def test_no_false_finding_on_the_examples(self) -> None:
        for file in sorted(EXAMPLES.glob("*.patch.json")):
            with self.subTest(file.name):
                played = read_patch(json.loads(file.read_text()))
                notes = read_phrase(json.loads(file.with_name(file.name.replace(".patch.", ".phrase.")).read_text()))
                found = examined(played, notes).findings
                self.assertEqual([f"{one.code}: {one.message}" for one in found], [])

    def test_lessons_show_the_faults_that_they_tell_of_and_no_other(self) -> None:
        told = {
            "A reed that never stops": {"drone"},
            "The amplifier that silences it": {"no-sound"},
            "A gate that switches it": {"click"},
            "One sine, and no end to it": {"drone"},
            "Somebody has to let it through": {"no-sound"},
        }
        steps = [*foghorn.STEPS, *bell.STEPS, *fog.STEPS]
        self.assertEqual(told.keys() - {step.title for step in steps}, set())
        for step in steps:
            with self.subTest(step.title):
                self.assertEqual(codes(examined(step.patch, step.phrase)), told.get(step.title, set()))

    def test_nothing_is_found_in_the_templates(self) -> None:
        for template in TEMPLATES:
            for step in template.steps:
                with self.subTest(template.id, step=step.title):
                    found = examined(step.patch, step.phrase).findings
                    wanted = ["Nothing is connected to Output."] if template.id == "empty" else []
                    self.assertEqual([str(one.message) for one in found], wanted)

    def test_no_remedy_offers_what_is_there_already(self) -> None:
        for code, faulty, _, _, _ in CASES:
            played, notes = faulty()
            graph = Graph(played)
            for one in examined(played, notes).findings:
                for edit in one.remedy.edits:
                    with self.subTest(code, edit=edit.kind):
                        if isinstance(edit, Connect):
                            self.assertIsNone(graph.between(edit.line.source, edit.line.target))
                        if isinstance(edit, SetValue):
                            self.assertNotEqual(played.by_id[edit.module].all_settings[edit.setting], edit.value)


class CostTest(unittest.TestCase):
    def test_switched_off_connections_count_for_nothing(self) -> None:
        lines = tuple(
            one.model_copy(update={"off": True}) if one.target == "amp.level" else one for one in voice().connections
        )
        found = examined(voice().model_copy(update={"connections": lines}), ONE_NOTE)
        self.assertEqual(codes(found), {"no-sound"})


if __name__ == "__main__":
    unittest.main()
