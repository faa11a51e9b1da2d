"""Reads documents: JSON data into models, with every problem named by its path and its remedy."""

import re
from collections.abc import Iterable, Mapping
from functools import cache
from typing import Any, Self, TypeVar, get_args

from pydantic import BaseModel, ConfigDict, ModelWrapValidatorHandler, ValidationError, model_validator
from pydantic_core import InitErrorDetails, PydanticCustomError
from pydantic_core.core_schema import ErrorType

from inner_tone.core.errors import MOST_TOLD, DocumentError, Problem, did_you_mean, quoted

MOST_ENTRIES = 2_000  # of a list or an object of which nothing else is said
LONGEST_SAID = 200  # characters of what Pydantic says
MORE, OVERLONG, OVERFULL = "more", "overlong", "overfull"  # errors of our own: others that are not told; too many
KNOWN_ERRORS = frozenset(get_args(ErrorType))
UNREADABLE = re.compile("[\0\ud800-\udfff]")  # what is no character: it can be neither shown nor kept


Model = TypeVar("Model", bound=BaseModel)


def read_within_bounds(data: Any, handler: ModelWrapValidatorHandler[Model], cls: type[Model]) -> Model:
    """Return data as a model; raises ValidationError with no more errors than anybody reads.

    What has more keys or entries than it may have is refused before any of them is looked at: a document with a
    million errors must not cost more than one with twenty. So is a text with what is no character.
    """
    if isinstance(data, dict):
        refuse_beyond(cls, data)
    try:
        return handler(data)
    except ValidationError as error:
        if error.error_count() <= MOST_TOLD:
            raise
        raise shortened(error) from None


def refuse_beyond(cls: type[BaseModel], data: Mapping[str, Any]) -> None:
    """Raise an error where an object has more keys than it may have, or something right within it is beyond its bounds.

    Raises PydanticCustomError where there is too much of something, and ValueError for what is no character.
    """
    bounds = most_entries(cls)
    if len(data) > len(bounds) + MOST_TOLD:
        raise PydanticCustomError(OVERFULL, "too many keys", {"count": len(data), "most": len(cls.model_fields)})
    for name, value in data.items():
        most = bounds.get(name)
        if most is None:
            refuse_unreadable(name, name)
        if isinstance(value, str):
            refuse_unreadable(name, value)
        elif isinstance(value, (list, tuple, dict)):
            most = most or MOST_ENTRIES
            if len(value) > most:
                raise PydanticCustomError(OVERLONG, "too long", {"place": name, "count": len(value), "most": most})
            for one in value:
                refuse_unreadable(name, one)


@cache
def most_entries(cls: type[BaseModel]) -> dict[str, int]:
    """Return how many entries each field of a model may have, by its name and by what it is called in JSON."""
    found: dict[str, int] = {}
    for name, field in cls.model_fields.items():
        bounds = field.metadata if field.annotation is not str else ()  # that of a text is of its characters
        said = [one.max_length for one in bounds if getattr(one, "max_length", None) is not None]
        for one in (name, field.alias or name):
            found[one] = min(said, default=MOST_ENTRIES)
    return found


def refuse_unreadable(name: Any, text: Any) -> None:
    """Raise ValueError where a text has what is no character; `name` is where it stands."""
    if isinstance(text, str) and (found := UNREADABLE.search(text)):
        where, code = UNREADABLE.sub("�", quoted(str(name))), f"U+{ord(found.group()):04X}"
        raise ValueError(f"“{where}” has {code} in it, which is no character.")


def shortened(error: ValidationError) -> ValidationError:
    """Return an error with the first of its lines, and one that says how many others there are."""
    found = error.errors(include_url=False)
    told = [one for one in found if one["type"] != MORE]
    lines = [line_of(one) for one in told[:MOST_TOLD]]
    more = PydanticCustomError(MORE, "{count} more", {"count": len(told) - len(lines) + untold(found)})
    return ValidationError.from_exception_data(error.title, [*lines, InitErrorDetails(type=more, input=None)])


def line_of(error: Mapping[str, Any]) -> InitErrorDetails:
    """Return a line of an error as it is made again."""
    kind, context = error["type"], error.get("ctx", {})
    if kind in KNOWN_ERRORS:
        return InitErrorDetails(type=kind, loc=error["loc"], input=error["input"], ctx=context)
    made = PydanticCustomError(kind, "{said}", {**context, "said": error["msg"]})
    return InitErrorDetails(type=made, loc=error["loc"], input=error["input"])


def untold(errors: Iterable[Mapping[str, Any]]) -> int:
    """Return how many errors are not told by themselves."""
    return sum(int(one["ctx"]["count"]) for one in errors if one["type"] == MORE)


def problems_in(model: type[BaseModel], errors: Iterable[Mapping[str, Any]]) -> tuple[list[Problem], int]:
    """Return errors of Pydantic's as problems in our own words, as many as are told; and how many more there are."""
    found = list(errors)
    told = [one for one in found if one["type"] != MORE]
    kept = [problem_of(model, one) for one in told[:MOST_TOLD]]
    return kept, len(told) - len(kept) + untold(found)


class Document(BaseModel):
    """The base of all documents: unknown keys are refused, instances do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True, allow_inf_nan=False)

    @model_validator(mode="wrap")
    @classmethod
    def within_bounds(cls, data: Any, handler: ModelWrapValidatorHandler[Self]) -> Self:
        """Return data as a document; raises ValidationError."""
        return read_within_bounds(data, handler, cls)

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
        raise DocumentError(*problems_in(model, error.errors(include_url=False))) from error


def kind_of(data: Any) -> str:
    """Return what a JSON value is, in words."""
    words = {dict: "an object", list: "a list", str: "a text", bool: "true or false", type(None): "null"}
    return words.get(type(data), "a number")


def written_or_kind(data: Any) -> str:
    """Return what somebody has written, or what it is in words where it is no text and no number."""
    return f"“{quoted(str(data))}”" if isinstance(data, (str, int, float)) else kind_of(data)


def path_text(location: tuple[int | str, ...]) -> str:
    """Return a location as people write it: modules[2].settings.cutoff."""
    text = ""
    for part in location:
        text += f"[{part}]" if isinstance(part, int) else f".{quoted(part)}" if text else quoted(part)
    return text


def problem_of(model: type[BaseModel], error: Mapping[str, Any]) -> Problem:
    """Return a validation error of Pydantic's as a problem in our own words."""
    location = tuple(error["loc"])
    path = path_text(location)
    context = error.get("ctx", {})
    kind = error["type"]
    if kind == OVERFULL:
        return Problem(path, f"The number of its keys is {context['count']}.", f"It has at most {context['most']}.")
    if kind == OVERLONG:
        place = path_text((*location, context["place"]))
        return Problem(
            place, f"The number of its entries is {context['count']}.", f"It must be at most {context['most']}."
        )
    if kind == "extra_forbidden":
        return Problem(path, "There is no such key.", did_you_mean(str(location[-1]), keys_at(model, location[:-1])))
    if kind == "missing":
        return Problem(path, "This key is missing.", "Add it.")
    if kind == "literal_error":
        return Problem(path, f"This is {written_or_kind(error['input'])}.", f"It must be {context['expected']}.")
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
        return Problem(path, f"It is {quoted(str(error['input']))}.", f"It must be {words} {context[bound]}.")
    said = quoted(error["msg"].lower(), LONGEST_SAID)
    return Problem(path, f"This is {kind_of(error['input'])} that cannot stand here: {said}.")


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
