"""Lenses: views on the taps of a patch that has played a phrase, each drawn as a chart and said in a sentence."""

from inner_tone.core.lens.chart import Chart
from inner_tone.core.lens.look import look, taps_of
from inner_tone.core.lens.source import Against, Played, Recorded, Source
from inner_tone.core.lens.view import View

__all__ = ["Against", "Chart", "Played", "Recorded", "Source", "View", "look", "taps_of"]
