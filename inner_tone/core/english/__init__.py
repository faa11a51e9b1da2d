"""English: the templates of all messages, by their keys."""

from inner_tone.core.english.instructions import INSTRUCTIONS

LISTS = {"next": ", ", "last": " and "}
SUBJECTS = {"list": LISTS, "do": INSTRUCTIONS}
TEMPLATES = {f"{subject}.{key}": text for subject, texts in SUBJECTS.items() for key, text in texts.items()}
