"""A sound in company: the spectrum in thirds of an octave, with what sounds beside it; and the other lenses."""

from collections.abc import Iterator
from typing import Any, Literal

import numpy as np

from inner_tone.core.analysis.loudness import SILENT_LUFS, loudness_lufs
from inner_tone.core.analysis.sentences.clause import Clause, facts_of, sentence
from inner_tone.core.analysis.sound import Sound
from inner_tone.core.analysis.thirds import EDGES_HZ, Region, band_powers, in_db, regions
from inner_tone.core.arrays import Floats
from inner_tone.core.company import Mix
from inner_tone.core.lens.chart import Axis, Chart, Panel, Role, Table, Trace, rounded, seen_in
from inner_tone.core.lens.kinds.spectrum import SpectrumView
from inner_tone.core.lens.kinds.wave import WaveView
from inner_tone.core.lens.look import View, look
from inner_tone.core.lens.moment import Span
from inner_tone.core.lens.source import Against, Recorded
from inner_tone.core.message import Argument, Message, Name, say
from inner_tone.core.units import MINUS, capital, with_unit

Which = Literal["others", "together"]
THIS = "this sound"
TOP_DB = 0.0
ROOM_DB = 6.0
WORTH = 0.01  # of the power, so that anything is said of it
MISSED = 3e-4  # what is covered is missed though it has little power
NOTHING = 1e-12
NEARLY = 0.95


def in_company(view: View, mix: Mix, span: Span, which: Which, legend: str) -> Chart:
    """Return what a lens shows of what is heard, with its company behind it, or all of it together."""
    if isinstance(view, SpectrumView):
        return in_thirds(view, mix, span, which, legend)
    behind = mix.others if which == "others" else mix.together
    if isinstance(view, WaveView):  # what repeats in one does not in the other: both are seen over the whole moment
        view = view.model_copy(update={"cycles": 0})
    own, other = (Recorded(name, middle(one, mix.rate), span) for name, one in ((THIS, mix.own), (legend, behind)))
    return look(view, own, Against(legend, other))


def middle(channels: Floats, rate: float) -> Sound:
    """Return channels, shape (2, n), as the sound between them."""
    return Sound(np.mean(channels, axis=0), rate)


def in_thirds(view: SpectrumView, mix: Mix, span: Span, which: Which, legend: str) -> Chart:
    """Return the spectrum in thirds of an octave: what is heard, and behind it what it is in company of."""
    own, others, together = (powers(one, mix.rate, span) for one in (mix.own, mix.others, mix.together))
    found = regions(own, others)
    clauses = clauses_of(found, mix, span)
    behind = others if which == "others" else together
    levels = np.concatenate([in_db(own), in_db(behind)])
    top = max(TOP_DB - 60.0, float(np.max(levels)) + ROOM_DB)
    return Chart(
        kind="spectrum",
        taps=list(view.taps),
        x=Axis(label="Frequency", unit="Hz", low=view.low_hz, high=view.high_hz, log=view.log),
        panels=[
            Panel(
                title="thirds of an octave",
                y=Axis(label="Level", unit="dB", low=float(np.floor(top - 72.0)), high=float(np.ceil(top))),
                traces=[steps(behind, "compared", legend), steps(own, "this", THIS)],
                shaded=True,
            )
        ],
        sentence=capital(sentence(clauses)),
        difference="",
        table=table(found),
        facts=facts_of(clauses),
        seen=seen_in(span, mix.own.shape[1] / mix.rate),
    )


def powers(channels: Floats, rate: float, span: Span) -> Floats:
    """Return the power of channels in each band, at a moment."""
    last = None if span.end_s is None else round(span.end_s * rate)
    return band_powers(channels[:, round(span.begin_s * rate) : last], rate)


def steps(power: Floats, role: Role, legend: str) -> Trace:
    """Return the levels of the bands as a line with a step at each edge."""
    xs, ys = np.repeat(EDGES_HZ, 2)[1:-1], np.repeat(in_db(power), 2)
    return Trace(role=role, legend=legend, xs=rounded(np.asarray(xs), 3), ys=[*rounded(np.asarray(ys), 2)])


def clauses_of(found: list[Region], mix: Mix, span: Span) -> list[Clause]:
    """Return what there is to say of a sound in company."""
    own, others = (sum(power) for power in ([one.own for one in found], [one.other for one in found]))
    if own <= NOTHING:
        return [Clause("silent", say("say.company.silent"))]
    if others <= NOTHING:
        return [Clause("alone", say("say.company.alone"))]
    return [*told(found, own, others, mix, span), *loudness(mix)]


def told(found: list[Region], all_own: float, all_others: float, mix: Mix, span: Span) -> Iterator[Clause]:
    """Yield where the sound stands how, the weightiest place of each kind, with figures."""
    firm = [one for one in found if one.standing in ("free", "covers") and one.own > WORTH * all_own]
    if firm:
        one = max(firm, key=lambda one: one.own)
        over = weightiest(one, mix, span) if one.standing == "covers" else ""
        where: dict[str, Argument] = {"place": place(one), "parts": parts(one.share)}
        said = say("say.company.covers", **where, over=Name(over)) if over else say("say.company.carries", **where)
        yield Clause("carries", said, fact(one, **({"of": over} if over else {})))
    covered = [one for one in found if one.standing == "covered" and one.own > MISSED * all_own]
    if covered:
        one = max(covered, key=lambda one: one.own)
        who = weightiest(one, mix, span)
        yield Clause("covered", say("say.company.covered", place=place(one), who=Name(who)), fact(one, by=who))
    if firm or covered:
        return
    shared = [one for one in found if one.standing == "shared" and one.own + one.other > WORTH * (all_own + all_others)]
    if shared:
        one = max(shared, key=lambda one: one.own)
        yield Clause("shared", say("say.company.shared", place=place(one), parts=parts(one.share)), fact(one))


def fact(one: Region, **more: Any) -> dict[str, Any]:
    """Return what is known of a region, under how the sound stands there."""
    return {one.standing: {"low_hz": one.low_hz, "high_hz": one.high_hz, "share": one.share, **more}}


def place(one: Region) -> Message:
    """Return where a region lies, in words."""
    low, high = (with_unit(float(f"{edge:.2g}"), "Hz") for edge in (one.low_hz, one.high_hz))
    if one.first == 0 and one.last == len(EDGES_HZ) - 1:
        return say("say.company.everywhere")
    if one.first == 0:
        return say("say.company.below", high=high)
    if one.last == len(EDGES_HZ) - 1:
        return say("say.company.above", low=low)
    return say("say.company.from", low=low.removesuffix(" Hz"), high=high)


def parts(share: float) -> Message:
    """Return a share in words."""
    if share > NEARLY:
        return say("say.company.nearly-all")
    if share < 1.0 - NEARLY:
        return say("say.company.next-to-nothing")
    return say("say.company.parts", parts=round(10 * share))


def weightiest(one: Region, mix: Mix, span: Span) -> str:
    """Return the name of the part that has most of the power in a region."""
    found = [(float(np.sum(powers(part.sound, mix.rate, span)[one.first : one.last])), part.name) for part in mix.parts]
    return max(found)[1]


def loudness(mix: Mix) -> Iterator[Clause]:
    """Yield how loud the whole is without the sound and with it, over the whole phrase (ITU-R BS.1770)."""
    others, together = (loudness_lufs(one, mix.rate) for one in (mix.others, mix.together))
    if others <= SILENT_LUFS:
        return
    said = say("say.company.loudness", together=lufs(together), others=lufs(others))
    yield Clause("loudness", said, {"others_lufs": others, "together_lufs": together})


def lufs(value: float) -> str:
    """Return a loudness in words."""
    return f"{value:.1f} LUFS".replace("-", MINUS)


def table(found: list[Region]) -> Table:
    """Return how the sound stands in each region."""
    rows = [
        [str(place(one)), WORDS[one.standing], f"{round(100 * one.share)} %"]
        for one in found
        if one.standing != "silent"
    ]
    return Table(columns=["Where", "This sound", "Its part of the energy"], rows=rows)


WORDS = {
    "free": "stands free",
    "covers": "covers the company",
    "shared": "is heard beside the company",
    "covered": "is covered",
    "absent": "is not there",
    "silent": "",
}
