"""Accompaniments that come with the program: four who can sound together with any phrase, in A minor."""

from collections.abc import Sequence
from functools import lru_cache

from inner_tone.core.patch.notation import notated
from inner_tone.core.phrase import Companion, Note, Score

HULL = """
    player: player
    plate: oscillator "Plate" wave=triangle
    blow: envelope "Blow" attack=0.002 decay=0.09 sustain=0 stages=attack-decay
    ring: envelope "Ring" attack=0.004 decay=0.34 sustain=0 stages=attack-decay
    amp: amplifier "Loudness"
    out: output level=-8
    player.pitch -> plate.pitch
    player.gate -> blow.gate
    player.gate -> ring.gate
    blow.out -> plate.pitch * 19
    plate.out -> amp.in
    ring.out -> amp.level * 1 by player.velocity
    amp.out -> out.left, out.right
"""
REEDS = """
    voices 4
    player: player
    reed: oscillator "Reed" wave=saw
    second: oscillator "Second reed" wave=saw fine=7
    both: mixer "Both" level1=0.5 level2=0.5
    box: filter "Wooden box" mode=lowpass slope=12 cutoff=620
    breath: envelope "Breath" attack=0.35 decay=0.3 sustain=0.8 release=0.7
    amp: amplifier "Loudness"
    out: output level=-20
    player.pitch -> reed.pitch
    player.pitch -> second.pitch
    reed.out -> both.in1
    second.out -> both.in2
    both.out -> box.in
    box.out -> amp.in
    player.gate -> breath.gate
    breath.out -> amp.level
    amp.out -> out.left, out.right
"""
BELLS = """
    voices 6
    player: player
    bell: oscillator "Bell" wave=sine
    clapper: oscillator "Clapper" wave=sine ratio=3.5
    blow: envelope "Blow" attack=0.001 decay=0.7 sustain=0 stages=attack-decay
    ring: envelope "Ring" attack=0.002 decay=2.4 sustain=0 stages=attack-decay
    amp: amplifier "Loudness"
    room: reverb "Over the water" mix=0.3 decay=2.2 damping=0.5
    out: output level=-22
    player.pitch -> bell.pitch
    player.pitch -> clapper.pitch
    clapper.out -> bell.phase * 2.4 by blow.out
    player.strike -> blow.strike
    player.gate -> blow.gate
    player.gate -> ring.gate
    player.strike -> ring.strike
    bell.out -> amp.in
    ring.out -> amp.level * 1 by player.velocity
    amp.out -> room.in
    room.left -> out.left
    room.right -> out.right
"""
RAIN = """
    shower: noise "Shower" colour=pink seed=3
    deck: filter "Over the deck" mode=highpass slope=12 cutoff=2400
    gusts: lfo "Gusts" wave=smooth rate=0.35 range=positive seed=5
    drops: noise "Drops" colour=white seed=9
    pace: lfo "Pace" wave=stepped rate=11 range=positive seed=2
    tick: envelope "Tick" attack=0.0005 decay=0.03 sustain=0 stages=attack-decay
    fall: clock "Fall" division=1/8
    size: hold "Size of a drop"
    tin: filter "Tin" mode=bandpass slope=12 cutoff=3100 resonance=0.6
    wet: amplifier "Shower’s loudness" level=0.35
    hit: amplifier "Drop’s loudness"
    both: mixer "Both" level1=1 level2=0.7
    out: output level=-16
    shower.out -> deck.in
    deck.out -> wet.in
    gusts.out -> wet.level * 0.4
    fall.out -> tick.gate
    fall.out -> size.trigger
    pace.out -> size.in
    size.out -> tin.cutoff * 9
    drops.out -> tin.in
    tin.out -> hit.in
    tick.out -> hit.level * 0.9 by size.out
    wet.out -> both.in1
    hit.out -> both.in2
    both.out -> out.left, out.right
"""


def phrase(title: str, notes: Sequence[tuple[float, float, float, float]], beats: float = 8) -> Score:
    """Return a phrase of notes (start, length, pitch, velocity) at 96 beats a minute."""
    made = tuple(
        Note(start=start, length=length, pitch=pitch, velocity=velocity) for start, length, pitch, velocity in notes
    )
    return Score(title=title, tempo=96, beats=beats, notes=made)


def chord(start: float, *pitches: float) -> list[tuple[float, float, float, float]]:
    """Return notes that are held together for almost four beats."""
    return [(start, 3.8, pitch, 0.8) for pitch in pitches]


@lru_cache(maxsize=1)
def accompaniments() -> tuple[Companion, ...]:
    """Return those who can sound together with any phrase."""
    pulse = [(0.5 * n, 0.25, 33, 0.95 if n % 4 == 0 else 0.6 if n % 2 == 0 else 0.4) for n in range(16)]
    peal = [(0, 1, 81, 0.8), (1.5, 1, 76, 0.6), (3, 1, 84, 0.7), (4, 1, 81, 0.75), (5.5, 1, 79, 0.6), (7, 1, 76, 0.7)]
    reeds = [*chord(0, 45, 52, 57, 60), *chord(4, 41, 48, 57, 60)]
    return (
        Companion(id="hull", name="Pulse of the hull", patch=notated(HULL), phrase=phrase("Half beats", pulse)),
        Companion(id="reeds", name="Low reeds", patch=notated(REEDS), phrase=phrase("Two chords", reeds)),
        Companion(id="bells", name="Bells", patch=notated(BELLS), phrase=phrase("A peal", peal), pan=0.35),
        Companion(id="rain", name="Rain", patch=notated(RAIN), phrase=phrase("All the time", [])),
    )
