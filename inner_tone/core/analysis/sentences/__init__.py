"""What each lens shows, said in a sentence computed from the data: its text alternative, and the draft of a caption."""

from inner_tone.core.analysis.sentences import clause, level, response, spectrum, sweep, wave, words

__all__ = ["clause", "level", "response", "spectrum", "sweep", "wave", "words"]
