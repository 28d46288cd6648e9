"""The sift: what of a file counts for energy and what is left out, and what was mended by hand; nothing is ever deleted."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from fnmatch import fnmatchcase
from typing import Annotated, Literal

from pydantic import Field

from eurythm.exchange.intake.received import Kind, Received, ReceivedElement, ReceivedSpace
from eurythm.model.field import Described, choice, quantity
from eurythm.model.ids import Id

COUNTS: frozenset[Kind] = frozenset({"room", "mass", "wall", "curtain_wall", "slab", "roof", "covering", "window", "door", "panel"})
"""What an energy model needs; everything else is left out unless a rule keeps it."""
Mended = Literal["name", "number", "use", "storey", "external", "u_value"]
Basis = Literal["spaces", "walls", "outline"]


class SiftRule(Described):
    """Keep or leave out what matches; of several rules that match, the last one holds."""

    id: Id
    by: Literal["class", "storey", "name", "property", "object"]
    value: Annotated[str, Field(min_length=1, max_length=400)]
    """A class, a storey's reference, a pattern with ``*``, ``Set.Property=value`` with patterns, or an object's reference."""
    keep: bool


class Mend(Described):
    """A value given by hand to an object of the file, by its reference."""

    id: Id
    object: Annotated[str, Field(min_length=1, max_length=200)]
    field: Mended
    value: str | float | bool | None


class Sift(Described):
    """All decisions about one file; kept as a list that can be applied again when a newer state of the file comes."""

    format: Literal["eurythm.sift"] = "eurythm.sift"
    version: Literal[1] = 1
    rules: Annotated[tuple[SiftRule, ...], Field(max_length=2000)] = ()
    mends: Annotated[tuple[Mend, ...], Field(max_length=20000)] = ()
    gap_m: float = quantity(0.5, "Contact bridges gaps up to", "m", ge=0, le=3, usual=(0, 0.6), source="thick outside walls stay below it")
    north: Literal["project", "file"] = choice(
        "project", "Whose north counts", help="Where both are given: the project's turns what is imported, the file's turns the project"
    )
    basis: Basis | None = choice(None, "Zones from", help="Spaces where the file has any; else walls and slabs, or the outline")


@dataclass(frozen=True)
class Verdict:
    """Whether a thing counts, and why."""

    keep: bool
    reason: str


def verdicts(received: Received, sift: Sift, proposals: Mapping[str, str]) -> dict[str, Verdict]:
    """Decide over every space and element of a file.

    Parameters
    ----------
    proposals : reasons to leave out, by reference, as the checks propose them; a rule for the object itself stands before one.
    """
    found: dict[str, Verdict] = {}
    for thing in things_of(received):
        keep, reason = thing.kind in COUNTS, "class"
        for rule in sift.rules:
            if rule.by != "object" and _matches(rule, thing):
                keep, reason = rule.keep, f"rule: {rule.by} {rule.value}"
        if keep and thing.id in proposals:
            keep, reason = False, proposals[thing.id]
        for rule in sift.rules:
            if rule.by == "object" and _matches(rule, thing):
                keep, reason = rule.keep, "by hand"
        found[thing.id] = Verdict(keep, reason)
    return found


def met(received: Received, sift: Sift) -> dict[str, int]:
    """Return how many things each rule speaks of, by the rule's id; what a later rule says of them does not count."""
    things = things_of(received)
    return {rule.id: sum(_matches(rule, thing) for thing in things) for rule in sift.rules}


def things_of(received: Received) -> Iterable[ReceivedSpace | ReceivedElement]:
    """Return spaces, then elements."""
    return (*received.spaces, *received.elements)


def _matches(rule: SiftRule, thing: ReceivedSpace | ReceivedElement) -> bool:
    if rule.by == "object":
        return thing.id == rule.value
    if rule.by == "class":
        return thing.class_name == rule.value
    if rule.by == "storey":
        return thing.storey == rule.value
    if rule.by == "name":
        return _like(thing.name, rule.value) or (isinstance(thing, ReceivedSpace) and _like(thing.number, rule.value))
    name, _, value = rule.value.partition("=")
    return any(_like(key, name) and (not value or _like(str(held), value)) for key, held in thing.properties.items())


def _like(text: str, pattern: str) -> bool:
    return fnmatchcase(text.casefold(), pattern.casefold())


def mended(received: Received, sift: Sift) -> Received:
    """Return the file's content with what was mended by hand; mends of things that are gone are passed over."""
    by_object: dict[str, dict[str, object]] = {}
    for mend in sift.mends:
        by_object.setdefault(mend.object, {})[mend.field] = mend.value
    spaces = [s.model_copy(update=_fitting(s, by_object.get(s.id, {}))) for s in received.spaces]
    elements = [e.model_copy(update=_fitting(e, by_object.get(e.id, {}))) for e in received.elements]
    return received.model_copy(update={"spaces": spaces, "elements": elements})


def _fitting(thing: ReceivedSpace | ReceivedElement, values: Mapping[str, object]) -> dict[str, object]:
    return {k: v for k, v in values.items() if k in type(thing).model_fields}


def lost_mends(received: Received, sift: Sift) -> list[Mend]:
    """Return the mends whose object is no longer in the file."""
    known = {thing.id for thing in things_of(received)}
    return [m for m in sift.mends if m.object not in known]
