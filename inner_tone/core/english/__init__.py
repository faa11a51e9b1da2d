"""English: the templates of all messages, by their keys."""

from inner_tone.core.english.checkup import CHECKUP
from inner_tone.core.english.hints import HINTS
from inner_tone.core.english.instructions import INSTRUCTIONS
from inner_tone.core.english.offers import OFFERS
from inner_tone.core.english.sounds import SOUNDS
from inner_tone.core.english.titles import TITLES

LISTS = {"next": ", ", "last": " and "}
SUBJECTS = {
    "list": LISTS,
    "do": INSTRUCTIONS,
    "title": TITLES,
    "offer": OFFERS,
    "check": CHECKUP,
    "say": SOUNDS,
    "hint": HINTS,
}
TEMPLATES = {f"{subject}.{key}": text for subject, texts in SUBJECTS.items() for key, text in texts.items()}
