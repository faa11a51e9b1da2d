"""Lenses: views on the taps of a patch that has played a phrase, each drawn as a chart and said in a sentence."""

from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.look import View, look, taps_of
from inner_tone.core.lens.source import Against, Played, Recorded, Source

__all__ = ["Against", "Chart", "Played", "Recorded", "Source", "View", "look", "taps_of"]
