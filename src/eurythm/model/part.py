"""What part a field plays, said where the field is defined: ``sill_m: Annotated[float, OPENING] = quantity(...)``.

A field says which step of the pipeline is the first to read it, which group of a difference between two cases it belongs
to, and at which stage it is changed. What it leaves open it takes from its model (``PART``), and that from the field that
holds it. Keys of the pipeline's memory, shares of a difference, the register of assumptions, the order of a study's cases and imports are derived from that.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields
from functools import cache
from hashlib import blake2b
from typing import Any, Generic, Literal, TypeVar, get_args, get_origin

from pydantic import BaseModel

from eurythm.model.known import Known
from eurythm.model.remark import Stage

Step = Literal[
    "form",
    "openings",
    "cladding",
    "light",
    "daylight",
    "lights",
    "use",
    "balance",
    "panels",
    "generation",
    "plant",
    "assessment",
    "nothing",
]
STEPS: tuple[Step, ...] = get_args(Step)
"""Steps of the pipeline in their order, and what no result depends on."""
CASTING: frozenset[Step] = frozenset({"form", "openings", "light", "panels"})
"""Steps after which the sun is cast anew."""
Group = Literal["place", "form", "turn", "glass", "fabric", "use", "plant", "method", "none"]


@dataclass(frozen=True)
class Part:
    """What part a field plays; None takes it from the field that holds it.

    Attributes
    ----------
    step : the first step of the pipeline that reads it
    group : of a difference between two cases
    stage : where it is changed
    casts : whether a change of it casts rays anew; as the step does unless it says otherwise
    assumed : whether its value is an assumption where nobody gave it, and no plain absence
    word : what stands before the titles of the fields below it where these are told on their own
    """

    step: Step | None = None
    group: Group | None = None
    stage: Stage | None = None
    casts: bool | None = None
    assumed: bool | None = None
    word: str | None = None

    def within(self, holder: Part) -> Part:
        """Return the part with what it leaves open taken from its holder; a step of its own casts as that step does."""
        found = {f.name: getattr(self, f.name) if getattr(self, f.name) is not None else getattr(holder, f.name) for f in fields(self)}
        if self.step is not None and self.casts is None:
            found["casts"] = self.step in CASTING
        return Part(**found)


def models_in(annotation: Any) -> list[type[BaseModel]]:
    """Return the models that a field's annotation names, such as those of the things in a list."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return [annotation]
    if get_origin(annotation) is None and not get_args(annotation):
        return []
    return [m for part in get_args(annotation) for m in models_in(part)]


UNSAID = Part("nothing", "none", "shape", False, True)


@cache
def part_of(model: type[BaseModel], name: str, holder: Part = UNSAID) -> Part:
    """Return the part of one field of a model, below a holder."""
    said = next((m for m in model.model_fields[name].metadata if isinstance(m, Part)), Part())
    whole: Part = getattr(model, "PART", Part())
    return said.within(whole.within(holder))


def fields_below(model: type[BaseModel], holder: Part = UNSAID, path: str = "") -> Iterator[tuple[str, type[BaseModel], str, Part]]:
    """Walk all fields that hold no further document: path without ids, model, name, part."""
    for name, info in model.model_fields.items():
        part, inner = part_of(model, name, holder), models_in(info.annotation)
        here = f"{path}{name}"
        if not inner:
            yield here, model, name, part
        for kind in inner:
            yield from fields_below(kind, part, f"{here}/")


@cache
def part_at(model: type[BaseModel], path: str) -> Part:
    """Return the part of a field by its path in a document, ids of things in lists among its steps.

    Raises
    ------
    KeyError
        Where the path names no field.
    """
    here, part = [model], UNSAID
    for step in path.split("/"):
        holding = next((m for m in here if step in m.model_fields), None)
        if holding is None:
            if not here or part is UNSAID:
                raise KeyError(path)
            continue  # the id of a thing in a list
        part = part_of(holding, step, part)
        here = models_in(holding.model_fields[step].annotation)
    return part


def part_word(model: type[BaseModel], name: str) -> str:
    """Return the word that stands before the titles of the fields below one field."""
    return next((m.word for m in model.model_fields[name].metadata if isinstance(m, Part) and m.word), name)


Chosen = bool | dict[str, Any]


@cache
def _chosen(model: type[BaseModel], about: str, values: frozenset[str], holder: Part) -> Chosen:
    """Which fields of a model, and of what it holds, have one of some values in their part: all, none or by name, as pydantic includes them."""
    found: dict[str, Chosen] = {}
    for name, info in model.model_fields.items():
        part, inner = part_of(model, name, holder), models_in(info.annotation)
        below = [_chosen(kind, about, values, part) for kind in inner] or [getattr(part, about) in values]
        if all(b is True for b in below):
            found[name] = True
        elif any(below):
            found[name] = _joined([_by_name(kind, b) for kind, b in zip(inner, below, strict=True)])
            if str(info.annotation).startswith("tuple["):
                found[name] = {"__all__": found[name]}
    if len(found) == len(model.model_fields) and all(f is True for f in found.values()):
        return True
    return found or False


def _by_name(model: type[BaseModel], chosen: Chosen) -> dict[str, Any]:
    return chosen if isinstance(chosen, dict) else dict.fromkeys(model.model_fields, True) if chosen else {}


def _joined(choices: list[dict[str, Any]]) -> dict[str, Any]:
    """What is chosen of any of several models that may stand in one field."""
    joined: dict[str, Any] = {}
    for choice in choices:
        for name, below in choice.items():
            if joined.setdefault(name, below) != below:
                raise TypeError(f"“{name}” plays different parts in models that stand in one field")
    return joined


D = TypeVar("D", bound=BaseModel)


_KNOWN = Known()


class Excerpt(Generic[D]):
    """What some steps of the pipeline read of a document.

    `digest` stands for it; `read` is the document with nothing else in it: to read another field raises AttributeError.
    """

    def __init__(self, document: D, steps: frozenset[Step]) -> None:
        self.document, self.steps = document, steps

    @property
    def digest(self) -> str:
        """Stands for all that the steps read, given and assumed values alike."""
        return excerpt(self.document, "step", self.steps)

    @property
    def read(self) -> D:
        """The document cut down to what the steps read."""
        cut: D = _cut(self.document, _chosen(type(self.document), "step", self.steps, UNSAID))
        return cut


def _cut(value: Any, chosen: Chosen) -> Any:
    if chosen is True:
        return value
    if isinstance(value, tuple):
        below = chosen.get("__all__", False) if isinstance(chosen, dict) else False
        return tuple(_cut(item, below) for item in value)
    if not isinstance(value, BaseModel):
        return value
    known, key = _KNOWN.of(value), ("cut", id(chosen))  # what is chosen is remembered for good
    if key not in known:
        copy = value.model_copy()
        for name in type(value).model_fields:
            below = chosen.get(name, False) if isinstance(chosen, dict) else False
            if below is False:
                del copy.__dict__[name]
            elif below is not True:
                copy.__dict__[name] = _cut(copy.__dict__[name], below)
        known[key] = copy
    return known[key]


def excerpt(document: BaseModel, about: Literal["step", "group"], values: frozenset[str], holder: Part = UNSAID) -> str:
    """Return a digest of what of a document has one of some values in its part, given and assumed values alike; "" where nothing has."""
    chosen = _chosen(type(document), about, values, holder)
    return "" if chosen is False else _digest(document, chosen)


def _digest(document: BaseModel, chosen: Chosen) -> str:
    """A digest of a document's chosen fields; of documents in it by their own digests, which are worked out once."""
    known, key = _KNOWN.of(document), ("digest", id(chosen))
    if key not in known:
        plain = set()
        found = blake2b(digest_size=16)
        for name, below in _by_name(type(document), chosen).items():
            value = getattr(document, name, None)  # what is chosen is that of any model that may stand here
            if isinstance(value, BaseModel):
                found.update(f"{name}:{_digest(value, below)};".encode())
            elif isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
                each = below if isinstance(below, bool) else below["__all__"]
                found.update(f"{name}:{','.join([_digest(item, each) for item in value])};".encode())
            else:
                plain.add(name)
        found.update(document.model_dump_json(include=plain).encode())
        known[key] = found.hexdigest()
    told: str = known[key]
    return told
