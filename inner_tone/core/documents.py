"""Reads documents: JSON data into models, with every problem named by its path and its remedy."""

import re
from collections.abc import Mapping
from typing import Any, Self, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError, model_validator

from inner_tone.core.errors import DocumentError, Problem, did_you_mean

UNREADABLE = re.compile("[\0\ud800-\udfff]")  # what is no character: it can be neither shown nor kept


def texts_readable(data: Any) -> Any:
    """Return the data of a model as it is; raises ValueError where one of its texts has what is no character."""
    if isinstance(data, dict):
        for name, value in data.items():
            texts = [value] if isinstance(value, str) else value if isinstance(value, (list, tuple)) else ()
            for text in (name, *texts):
                if isinstance(text, str) and (found := UNREADABLE.search(text)):
                    code = f"U+{ord(found.group()):04X}"
                    raise ValueError(f"“{UNREADABLE.sub('�', str(name))}” has {code} in it, which is no character.")
    return data


class Document(BaseModel):
    """The base of all documents: unknown keys are refused, instances do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True, allow_inf_nan=False)
    readable = model_validator(mode="before")(texts_readable)

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """Return a copy, changed where wished; what the original has worked out about itself stays with it."""
        copied = super().model_copy(update=update, deep=deep)
        for name in copied.__dict__.keys() - type(copied).model_fields.keys():
            del copied.__dict__[name]
        return copied


AnyDocument = TypeVar("AnyDocument", bound=Document)

FORMAT_VERSION = 1
# what is wanted where something else stands, in the words of those who write JSON
WANTED = {
    "list_type": "a list",
    "tuple_type": "a list",
    "dict_type": "an object",
    "model_type": "an object",
    "model_attributes_type": "an object",
    "string_type": "a text",
    "int_type": "a whole number",
    "int_parsing": "a whole number",
    "int_from_float": "a whole number",
    "float_type": "a number",
    "float_parsing": "a number",
    "finite_number": "a finite number",
    "bool_type": "true or false",
    "bool_parsing": "true or false",
}
# by what a bound is known, and how it is said; of numbers, and of how many there are of something
LIMITS = {
    "greater_than_equal": ("ge", "at least"),
    "less_than_equal": ("le", "at most"),
    "greater_than": ("gt", "more than"),
    "less_than": ("lt", "less than"),
}
LENGTHS = {
    "too_short": ("min_length", "at least", "entries"),
    "too_long": ("max_length", "at most", "entries"),
    "string_too_short": ("min_length", "at least", "characters"),
    "string_too_long": ("max_length", "at most", "characters"),
}


def read(model: type[AnyDocument], data: Any) -> AnyDocument:
    """Return `data` as `model`; raises DocumentError with all problems that the structure has."""
    if not isinstance(data, Mapping):
        raise DocumentError([Problem("", f"This is {kind_of(data)}, not a JSON object.", "Begin it with {.")])
    version = data.get("version")
    if isinstance(version, int) and version > FORMAT_VERSION:
        message = f"It was written in version {version} of the format; this Inner Tone reads up to {FORMAT_VERSION}."
        raise DocumentError([Problem("version", message, "Open it with a newer Inner Tone.")])
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise DocumentError([problem_of(model, one) for one in error.errors()]) from error


def kind_of(data: Any) -> str:
    """Return what a JSON value is, in words."""
    words = {dict: "an object", list: "a list", str: "a text", bool: "true or false", type(None): "null"}
    return words.get(type(data), "a number")


def path_text(location: tuple[int | str, ...]) -> str:
    """Return a location as people write it: modules[2].settings.cutoff."""
    text = ""
    for part in location:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text


def problem_of(model: type[BaseModel], error: Mapping[str, Any]) -> Problem:
    """Return a validation error of Pydantic's as a problem in our own words."""
    location = tuple(error["loc"])
    path = path_text(location)
    context = error.get("ctx", {})
    kind = error["type"]
    if kind == "extra_forbidden":
        return Problem(path, "There is no such key.", did_you_mean(str(location[-1]), keys_at(model, location[:-1])))
    if kind == "missing":
        return Problem(path, "This key is missing.", "Add it.")
    if kind == "literal_error":
        return Problem(path, f"This is “{error['input']}”.", f"It must be {context['expected']}.")
    if kind == "value_error":
        return Problem(path, str(context["error"]))
    if kind in WANTED:
        return Problem(path, f"This is {kind_of(error['input'])}.", f"It must be {WANTED[kind]}.")
    if kind in LENGTHS:
        bound, words, things = LENGTHS[kind]
        return Problem(
            path, f"The number of its {things} is {len(error['input'])}.", f"It must be {words} {context[bound]}."
        )
    if kind in LIMITS:
        bound, words = LIMITS[kind]
        return Problem(path, f"It is {error['input']}.", f"It must be {words} {context[bound]}.")
    return Problem(path, f"This is {kind_of(error['input'])} that cannot stand here: {error['msg'].lower()}.")


def keys_at(model: type[BaseModel], location: tuple[int | str, ...]) -> list[str]:
    """Return the keys that the object at `location` of a document may have."""
    here: Any = model
    for part in location:
        if isinstance(part, int):
            continue
        found = [f for name, f in here.model_fields.items() if part in (f.alias, name)]
        arguments = [found[0].annotation, *getattr(found[0].annotation, "__args__", ())] if found else []
        models = [a for a in arguments if isinstance(a, type) and issubclass(a, BaseModel)]
        if not models:
            return []
        here = models[0]
    return [field.alias or name for name, field in here.model_fields.items()]
