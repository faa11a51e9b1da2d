"""What instructions were known by before: facts by their places in the sentence, inserts by the lines they cut."""

import re

from inner_tone.core.modules import MODULE_TYPES

NUMBERED = re.compile(r"\{(\d+)\}")
LINE = ["source", "target", "depth", "scaling"]
ORDERS = {
    "add": ["module"],
    "remove": ["module"],
    "replace": ["module"],
    "insert": ["module", "before", "after"],
    "duplicate": ["module", "copy"],
    "rename": ["before", "after"],
    "disconnect": LINE,
    "take-apart": ["section"],
}
WAVES = {declared.named("wave") for declared in MODULE_TYPES} - {
    ""
}  # of which one alone was told with what it had been
PLAYED = {"tempo": ["tempo"], "beats": ["length"], "notes": ["notes"], "note": ["note"], "company": ["companion"]}


def key_now(key: object) -> object:
    """Return a key as it is now: what is inserted was known by all the lines that came of it, too."""
    if isinstance(key, str) and key.startswith("insert "):
        return " ".join(key.split(" ")[:2])
    return key


def named(key: str, text: str) -> str:
    """Return a wording with its facts by their names, given the key of its instruction."""
    facts = facts_in(key)

    def name(found: re.Match[str]) -> str:
        place = int(found[1]) - 1
        return f"{{{facts[place]}}}" if 0 <= place < len(facts) else found[0]

    return NUMBERED.sub(name, text)


def facts_in(key: str) -> list[str]:
    """Return the names of an instruction's facts in the order in which they stood, as far as its key tells."""
    kind, _, rest = key.partition(" ")
    places = rest.split()
    if kind == "set":
        return facts_set(places)
    if kind == "connect":
        source, _, target = places[0].partition(">") if places else ("", "", "")
        return ["target", "source"] if source.endswith(".pitch") and target.endswith(".pitch") else LINE
    if kind == "move-end":
        old, _, new = rest.partition("=")
        begins = old.partition(">")[0] != new.partition(">")[0]
        return ["target", "old", "new"] if begins else ["source", "old", "new", "depth"]
    if kind == "group":
        count = len(places[-1].split(",")) if places else 0
        return [*(f"modules_{place + 1}" if place else "modules" for place in range(count)), "section"]
    if kind == "play":
        return PLAYED.get(rest.partition("-")[0], ["control", "course"])
    return ORDERS.get(kind, [])


def facts_set(places: list[str]) -> list[str]:
    """Return the names of what stood in a sentence that sets something."""
    if any(">" in one for one in places):
        return LINE
    settings = [one.partition(".")[2] for one in places if "." in one]
    if len(settings) == 1 and settings[0] in WAVES:
        return ["module", "old", "new"]
    return ["module", *settings] if settings else ["voices"]
