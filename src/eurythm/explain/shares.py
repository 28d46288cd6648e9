"""Sharing the difference between two cases out over what was changed.

The changed inputs are put into at most six groups; every combination of them is simulated, and each group gets its Shapley
value (Shapley 1953): the mean of what it adds over all orders in which the groups may be changed one after another. The
shares add up to the difference, whatever the order.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import factorial
from typing import Any, TypeVar

from pydantic import BaseModel

from eurythm.assess.figures import FIGURES
from eurythm.explain.case import Case
from eurythm.model.errors import EurythmError
from eurythm.model.part import UNSAID, Part, excerpt, part_of
from eurythm.simulate import Prepared, run_many

Model = TypeVar("Model", bound=BaseModel)
MOST_GROUPS = 6
GROUP_NAMES = {
    "place": "place and climate", "form": "form", "turn": "turn", "glass": "glass and shade", "fabric": "constructions", "use": "use",
    "plant": "plant", "method": "method",
}  # fmt: skip
JOIN_FIRST = (("form", "turn"), ("plant", "method"))
"""Which groups are one where more than six were changed."""


@dataclass(frozen=True)
class Shares:
    """Shares of a difference.

    Attributes
    ----------
    groups : what was changed, by id; several ids where their mixtures could not be built apart
    figures : for each figure its unit, both values, and the share of each group
    joined : why groups were joined, a sentence each
    runs : how many cases were simulated
    """

    groups: tuple[tuple[str, ...], ...]
    figures: dict[str, dict[str, Any]]
    joined: tuple[str, ...]
    runs: int

    def as_dict(self) -> dict[str, Any]:
        """Return plain data for JSON."""
        return {
            "groups": [{"id": "+".join(group), "name": name_of(group)} for group in self.groups],
            "figures": self.figures,
            "joined": list(self.joined),
            "runs": self.runs,
        }


def name_of(group: Sequence[str]) -> str:
    """Name a group in words."""
    return " with ".join(GROUP_NAMES[part] for part in group)


def changed_groups(base: Case, other: Case) -> list[str]:
    """Return which groups of inputs differ between two cases."""
    return [name for name in GROUP_NAMES if _part(base, name) != _part(other, name)]


def shares_of_difference(base: Case, other: Case, substeps: int = 1) -> Shares:
    """Share the difference of `other` from `base` out over what was changed.

    Raises
    ------
    EurythmError
        Where one of the two cases itself cannot be simulated.
    """
    groups: list[tuple[str, ...]] = [(name,) for name in changed_groups(base, other)]
    joined: list[str] = []
    for first, second in JOIN_FIRST:
        if len(groups) > MOST_GROUPS and (first,) in groups and (second,) in groups:
            groups = _join(groups, (first,), (second,))
            joined.append(
                f"{_capital(GROUP_NAMES[first])} and {GROUP_NAMES[second]} share one bar: more than {MOST_GROUPS} groups changed."
            )
    prepared, groups = _all_mixtures(base, other, groups, joined, substeps)
    order = list(prepared)
    found = dict(zip(order, run_many([prepared[key] for key in order]), strict=True))
    figures = {}
    for figure in (f for f in FIGURES if f.share_as):
        values = {key: figure.of(summary) for key, summary in found.items()}
        figures[figure.share_as] = {
            "unit": figure.unit,
            "base": values[frozenset()],
            "other": values[frozenset(groups)],
            "shares": {"+".join(group): share for group, share in zip(groups, _shapley(groups, values), strict=True)},
        }
    return Shares(tuple(groups), figures, tuple(joined), len(found))


Key = frozenset[tuple[str, ...]]


def _shapley(groups: list[tuple[str, ...]], values: dict[Key, float]) -> list[float]:
    count = len(groups)
    shares = []
    for group in groups:
        rest = [g for g in groups if g != group]
        share = 0.0
        for size in range(count):
            weight = factorial(size) * factorial(count - size - 1) / factorial(count)
            for others in combinations(rest, size):
                share += weight * (values[frozenset((*others, group))] - values[frozenset(others)])
        shares.append(share)
    return shares


def _all_mixtures(
    base: Case, other: Case, groups: list[tuple[str, ...]], joined: list[str], substeps: int
) -> tuple[dict[Key, Prepared], list[tuple[str, ...]]]:
    """Prepare every combination; one that cannot be built joins two of its groups, and all begin again."""
    while True:
        prepared: dict[Key, Prepared] = {}
        fault: tuple[tuple[str, ...], tuple[str, ...], str] | None = None
        for size in (0, len(groups), *range(1, len(groups))):  # the two cases themselves first
            for taken in combinations(groups, size):
                key = frozenset(taken)
                if key in prepared:
                    continue
                try:
                    prepared[key] = mixed(base, other, [part for group in taken for part in group]).prepared(substeps)
                except EurythmError as error:
                    left = [g for g in groups if g not in key]
                    if not left or not taken:
                        raise
                    fault = (taken[0], left[0], error.message)
                    break
            if fault:
                break
        if fault is None:
            return prepared, groups
        first, second, why = fault
        groups = _join(groups, first, second)
        joined.append(f"{_capital(name_of(first))} and {name_of(second)} share one bar: mixing them cannot be built ({why.rstrip('.')}).")


def _join(groups: list[tuple[str, ...]], first: tuple[str, ...], second: tuple[str, ...]) -> list[tuple[str, ...]]:
    return [g + second if g == first else g for g in groups if g != second]


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def mixed(base: Case, other: Case, taken: Sequence[str]) -> Case:
    """Return `base` with the named groups as in `other`; form takes what is tied to its faces with it."""
    place = other if "place" in taken else base
    library = _mixed(base.library, other.library, taken, UNSAID)
    scheme = _mixed(base.scheme, other.scheme, taken, UNSAID)
    return Case(place.place, library, scheme, base.factors, place.climate)


def _mixed(base: Model, other: Model, taken: Sequence[str], holder: Part) -> Model:
    """Mix two documents field by field, by the group of each; what is given stays given, and what is assumed assumed."""
    found: dict[str, Any] = {}
    for name in type(base).model_fields:
        part, mine, theirs = part_of(type(base), name, holder), getattr(base, name), getattr(other, name)
        source = other if part.group in taken else base
        if isinstance(mine, BaseModel) and isinstance(theirs, BaseModel) and type(mine) is type(theirs):
            if name in base.model_fields_set | other.model_fields_set:
                found[name] = _mixed(mine, theirs, taken, part)
        elif name in source.model_fields_set:
            found[name] = getattr(source, name)
    return type(base)(**found)


def _part(case: Case, group: str) -> tuple[str, ...]:
    """What of a case belongs to a group, to be compared."""
    documents = tuple(excerpt(d, "group", frozenset({group})) for d in (case.place, case.library, case.scheme))
    return (*documents, case.climate.digest) if group == "place" else documents
