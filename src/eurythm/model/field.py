"""A field is described once, where it is defined.

`quantity`, `choice` and `text` wrap pydantic's ``Field`` and keep title, unit, digits, usual range, help, the source of
the assumed value and whether the field can be a lever. `describe` hands that on to the API, command-line help, docs,
checks and tables.

The default of a field *is* its assumed value: documents keep only what was given (``exclude_unset``), so that whatever
is not among ``model_fields_set`` is assumed, and "reset" is taking the given value away. Where the program has to write a
value of its own into a document, such as the height of a neighbour that was only drawn, the part names it in ``assumed``
(`Proposed`) until someone gives it. `is_given` answers for both.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cache
from typing import Annotated, Any, Self, get_args

from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, model_validator
from pydantic_core import CoreSchema

from eurythm.model.part import Part, models_in
from eurythm.model.units import IP_OF

OWN = "our own assumption"


CONTROLS = r"^[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]*$"
"""Text without control characters but line ends and tabs."""


def _parts_of(schema: Any) -> Iterator[dict[str, Any]]:
    """Yield every part of a core schema, those of other models too."""
    if isinstance(schema, dict):
        if isinstance(schema.get("type"), str):
            yield schema
        for key, value in schema.items():
            if key not in ("metadata", "serialization", "default"):
                yield from _parts_of(value)
    elif isinstance(schema, (list, tuple)):
        for value in schema:
            yield from _parts_of(value)


class Spoken(BaseModel):
    """Base of all that is taken from outside: numbers are numbers, neither ``true`` nor ``"12"``; text holds no control characters."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """Make numbers strict and bound text in whatever the model holds itself."""
        schema = handler(source)
        for part in _parts_of(schema):
            if part["type"] in ("int", "float"):
                part["strict"] = True
            elif part["type"] == "str" and "pattern" not in part:
                part["pattern"] = CONTROLS
        return schema


class Described(Spoken):
    """Base of all document parts: unknown fields refused, no NaN or infinity, immutable."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True, json_schema_serialization_defaults_required=True)


class Proposed(Described):
    """A part that can be added by a gesture, so that the program chooses some of its measures."""

    assumed: Annotated[
        tuple[str, ...], Field(max_length=20, description="Fields whose value nobody gave yet"), Part("nothing", "none", assumed=False)
    ] = ()

    @model_validator(mode="after")
    def _names_fields(self) -> Self:
        unknown = [name for name in self.assumed if name not in type(self).model_fields]
        if unknown:
            raise ValueError(f"assumed names “{unknown[0]}”, which is no field of it")
        return self


def is_given(document: BaseModel, name: str) -> bool:
    """Return whether someone gave a field's value: it stands in the document and is not one that the program chose."""
    return name in document.model_fields_set and name not in getattr(document, "assumed", ())


def quantity(
    default: Any,
    title: str,
    unit: str = "",
    *,
    digits: int = 2,
    ge: float | None = None,
    le: float | None = None,
    gt: float | None = None,
    lt: float | None = None,
    usual: tuple[float, float] | None = None,
    help: str = "",
    source: str = OWN,
    lever: bool = False,
    share: bool = False,
) -> Any:
    """Describe a number: `default` is the assumed value (``...`` where one must be given, None where it depends); a `share` is told in percent."""
    note: dict[str, Any] = {"title": title, "unit": unit, "digits": digits, "help": help, "source": source, "lever": lever}
    if share:
        note["share"] = True
    if usual is not None:
        note["usual"] = list(usual)
    limits: dict[str, Any] = {k: v for k, v in {"ge": ge, "le": le, "gt": gt, "lt": lt}.items() if v is not None}
    return Field(default, title=title, description=help or title, json_schema_extra={"eurythm": note}, **limits)


def choice(default: Any, title: str, *, help: str = "", source: str = OWN, lever: bool = False) -> Any:
    """Describe a value out of a list, or a reference to something by its id."""
    note: dict[str, Any] = {"title": title, "help": help, "source": source, "lever": lever}
    return Field(default, title=title, description=help or title, json_schema_extra={"eurythm": note})


def text(default: Any, title: str, *, help: str = "", max_length: int = 400) -> Any:
    """Describe a name or note."""
    note: dict[str, Any] = {"title": title, "help": help, "source": OWN}
    return Field(default, title=title, description=help or title, max_length=max_length, json_schema_extra={"eurythm": note})


@cache
def notes(model: type[BaseModel], name: str) -> Mapping[str, Any]:
    """Return the description of one field of a model, an empty one where the field has none."""
    extra = model.model_fields[name].json_schema_extra
    return dict(extra["eurythm"]) if isinstance(extra, dict) and "eurythm" in extra else {}  # type: ignore[arg-type]


def limits(model: type[BaseModel], name: str) -> dict[str, float]:
    """Return the hard limits (ge, gt, le, lt) of a field."""
    found: dict[str, float] = {}
    for constraint in model.model_fields[name].metadata:
        for key in ("ge", "gt", "le", "lt"):
            if hasattr(constraint, key):
                found[key] = float(getattr(constraint, key))
    return found


def describe(*roots: type[BaseModel]) -> dict[str, dict[str, Any]]:
    """Describe every field reachable from `roots`, keyed ``"Skin.sill_m"``.

    Each entry holds title, unit, digits, help, source, usual range, limits, the assumed value, the choices of a literal
    and the inch-pound form of the unit.
    """
    found: dict[str, dict[str, Any]] = {}
    seen: set[type[BaseModel]] = set()
    queue = list(roots)
    while queue:
        model = queue.pop()
        if model in seen:
            continue
        seen.add(model)
        for name, info in model.model_fields.items():
            queue += models_in(info.annotation)
            note = dict(notes(model, name))
            if not note:
                continue
            note |= limits(model, name)
            note["assumed"] = None if info.is_required() or info.default_factory else _plain(info.default)
            values = [v for v in get_args(info.annotation) if isinstance(v, str)]
            if values:
                note["choices"] = values
            ip = IP_OF.get(str(note.get("unit", "")))
            if ip is not None:
                note["ip"] = {"unit": ip.unit, "factor": ip.factor, "offset": ip.offset, "digits": ip.digits}
            found[f"{model.__name__}.{name}"] = note
    return dict(sorted(found.items()))


def _plain(value: Any) -> Any:
    return value if isinstance(value, (int, float, str, bool)) or value is None else None
