"""English: the templates of all messages, by their keys."""

from inner_tone.core.english.checkup import CHECKUP
from inner_tone.core.english.instructions import INSTRUCTIONS
from inner_tone.core.english.sounds import SOUNDS

LISTS = {"next": ", ", "last": " and "}
SUBJECTS = {"list": LISTS, "do": INSTRUCTIONS, "check": CHECKUP, "say": SOUNDS}
TEMPLATES = {f"{subject}.{key}": text for subject, texts in SUBJECTS.items() for key, text in texts.items()}
