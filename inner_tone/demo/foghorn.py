"""The lesson “Foghorn”: from a bare reed to a horn far out at sea, in five steps."""

from typing import Any

from inner_tone.core.lens.kinds.level import LevelView
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.moment import StretchMoment
from inner_tone.core.lens.recipe import Behind, Recipe
from inner_tone.core.lens.strip import Strip
from inner_tone.core.lesson.lesson import LessonDocument
from inner_tone.core.lesson.mark import LensPlace, LinePlace, ModulePlace, StepMark
from inner_tone.core.lesson.plate import Plate
from inner_tone.core.lesson.step import StepContent
from inner_tone.core.patch.model import Patch
from inner_tone.core.patch.port import Port
from inner_tone.core.patch.validate import read_patch
from inner_tone.core.phrase import Note, Phrase

TITLE = "Foghorn"
SUMMARY = (
    "The horn on the end of Saltmarsh mole, built from nothing: a reed, an amplifier, a gate, a breath, and the "
    "distance that the water puts between us and it."
)

BLASTS = Phrase(
    title="Two long blasts",
    tempo=96,
    beats=8,
    notes=(Note(start=0, length=2.5, pitch=57, velocity=0.8), Note(start=4, length=2.5, pitch=57, velocity=0.8)),
)

PLAYER = {"id": "player", "type": "player", "label": "Keeper"}
REED = {"id": "reed", "type": "oscillator", "label": "Reed", "settings": {"wave": "saw", "octave": -2}}
LOUDNESS = {"id": "amp", "type": "amplifier", "label": "Loudness"}
BREATH = {
    "id": "breath",
    "type": "envelope",
    "label": "Breath",
    "settings": {"attack": 0.35, "decay": 0.2, "sustain": 0.8, "release": 0.9},
}
BELL = {
    "id": "bell",
    "type": "filter",
    "label": "Bell mouth",
    "settings": {"mode": "lowpass", "slope": 24, "cutoff": 420, "resonance": 0.2},
}
OUT = {"id": "out", "type": "output", "label": "Harbour", "settings": {"level": -9}}

PITCH = ("player.pitch", "reed.pitch")
GATE = ("player.gate", "amp.level")
TO_BREATH = ("player.gate", "breath.gate")
FROM_BREATH = ("breath.out", "amp.level")


def sides(source: str) -> list[tuple[str, str]]:
    """Return the lines from an output to both ears."""
    return [(source, "out.left"), (source, "out.right")]


def patch(modules: list[dict[str, Any]], lines: list[tuple[str, str]]) -> Patch:
    """Return a patch of the lesson; every line has a depth of 1."""
    connections = [{"from": source, "to": target, "depth": 1} for source, target in lines]
    return read_patch({"title": TITLE, "modules": [PLAYER, *modules, OUT], "connections": connections})


BARE = patch([REED], [PITCH, *sides("reed.out")])
SILENCED = patch([REED, LOUDNESS], [PITCH, ("reed.out", "amp.in"), *sides("amp.out")])
SWITCHED = patch([REED, LOUDNESS], [PITCH, GATE, ("reed.out", "amp.in"), *sides("amp.out")])
BREATHED = patch([REED, LOUDNESS, BREATH], [PITCH, TO_BREATH, FROM_BREATH, ("reed.out", "amp.in"), *sides("amp.out")])
DISTANT = patch(
    [REED, BELL, LOUDNESS, BREATH],
    [PITCH, TO_BREATH, FROM_BREATH, ("reed.out", "bell.in"), ("bell.out", "amp.in"), *sides("amp.out")],
)

CLICK = Plate(
    id="plate-1",
    caption="Twenty milliseconds at the end of the first blast: the key comes up, and the wave is cut off where it is.",
    recipe=Recipe(
        view=WaveView(taps=("amp.out",), cycles=0),
        patch=SWITCHED,
        phrase=BLASTS,
        moment=StretchMoment(begin_s=1.5525, end_s=1.5725),
    ),
)
SWELL = Plate(
    id="plate-1",
    caption="Where there was a switch there is now a swell, and the tone outlasts the key by almost a second.",
    recipe=Recipe(
        view=LevelView(taps=("amp.out",)),
        patch=BREATHED,
        phrase=BLASTS,
        behind=Behind(legend="the step before", patch=SWITCHED, phrase=BLASTS),
    ),
)
DISTANCES = Plate(
    id="plate-1",
    caption="The same horn near, far out, and farther still: the lower the cutoff, the fewer partials arrive.",
    recipe=Recipe(
        view=SpectrumView(taps=("amp.out",)),
        patch=DISTANT,
        phrase=BLASTS,
        strip=Strip(module="bell", setting="cutoff", values=(1680, 420, 105)),
    ),
)

OPENS = StepMark(at=LinePlace(source=Port("breath.out"), target=Port("amp.level")), purpose="opens with each note")
DARKENS = StepMark(at=ModulePlace(module="bell"), number=1, purpose="drinks the highs")
SEVENTH = StepMark(
    at=LensPlace(lens="spectrum", tap=Port("bell.out"), x=385), number=2, purpose="the last at full size"
)

STEPS = (
    StepContent(
        title="A reed that never stops",
        why=(
            "Every sound in this class begins with something that swings. Ours is an **oscillator** with the shape of "
            "a *saw*: it rises evenly and drops at once, 55 times a second, two octaves below the note that is played."
            "\n\nThe keeper plays two blasts. Do you hear two? The reed follows the *pitch*, and knows nothing of "
            "beginning and end."
        ),
        listen="A tone that is there before the first note and goes on after the last. Nothing in it changes.",
        patch=BARE,
        phrase=BLASTS,
    ),
    StepContent(
        title="The amplifier that silences it",
        why=(
            "To give the tone an end, we need a hand on its loudness. An **amplifier** lets through as much as its "
            "*level* says, and its own level is 0.\n\nSo now there is silence, and that is right: the reed still "
            "swings at full strength, as its picture on the map shows, but nothing passes the amplifier until "
            "something drives it."
        ),
        listen="Silence. Compare the pictures on the two cards: the sound arrives, and nothing leaves.",
        patch=SILENCED,
        phrase=BLASTS,
    ),
    StepContent(
        title="A gate that switches it",
        why=(
            "The keeper puts out a **gate**: 1 while the key is down, 0 while it is not. Let it drive the level, and "
            "the horn sounds exactly as long as the key is held.\n\nIt is a switch, and it sounds like one: each blast "
            "begins and ends with a *click*, because the wave is cut off wherever it happens to be."
        ),
        listen="Two blasts at last, and the hard edge at both ends of each.",
        patch=SWITCHED,
        phrase=BLASTS,
        plates=(CLICK,),
    ),
    StepContent(
        title="An envelope that gives it breath",
        why=(
            "Nobody blows a horn like a switch. An **envelope** stands between gate and level and takes its time: "
            "{the attack of Breath} to swell, a small fall to where it holds, and almost a second to die away."
            "\n\nTry it: set the "
            "*attack* to 5 ms and the horn barks; set it to 2 s and it never reaches its strength before the key is up."
        ),
        listen="The swell at the beginning and the long fall after the key is up. The clicks are gone.",
        patch=BREATHED,
        phrase=BLASTS,
        marks=(OPENS,),
        plates=(SWELL,),
    ),
    StepContent(
        title="A filter that gives it distance",
        why=(
            "The horn is far out. Air and water take the highs away first, so a **low-pass filter** {mark 1} goes "
            "between reed and loudness: above its *cutoff* of {the cutoff of Bell mouth} the partials grow weaker by "
            "24 dB with every octave.\n\nIn the spectrum the first seven partials {mark 2} stand almost as before, and "
            "the brilliance behind them is gone."
        ),
        listen="The same pitch, the same breath, but rounder, darker, a mile away.",
        patch=DISTANT,
        phrase=BLASTS,
        marks=(OPENS, DARKENS, SEVENTH),
        plates=(DISTANCES,),
    ),
)

LESSON = LessonDocument(title=TITLE, summary=SUMMARY, steps=STEPS)
