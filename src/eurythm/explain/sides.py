"""Two cases part by part, at each one's own peak hour and at the other's, with a sentence where the hours differ."""

from __future__ import annotations

from typing import Any

from eurythm.assess.attribution import SOURCE_NAMES, at_hour, attribution
from eurythm.assess.compare import hour_in_words
from eurythm.explain.case import Case
from eurythm.explain.shares import changed_groups
from eurythm.thermal.parts import SOURCES, USES

BOUND_TO = {
    "walls": ("fabric", "form", "turn", "place"), "roofs": ("fabric", "form", "turn", "place"), "floors": ("fabric", "form", "place"),
    "windows": ("glass", "form", "turn", "place"), "ground": ("fabric", "form", "place"), "bridges": ("fabric", "form", "glass", "place"),
    "infiltration": ("use", "form", "place"), "ventilation": ("use", "plant", "form", "place"),
    "people": ("use", "form"), "lighting": ("use", "form", "turn", "glass", "fabric", "place"), "equipment": ("use", "form"),
}  # fmt: skip
"""Which groups of inputs must have been left alone for a part to count as untouched."""
LEAST_SHARE = 0.02
"""A part that differs by less than this of the larger peak is not spoken of: our own assumption."""


def side_by_side(base: Case, other: Case, substeps: int = 1) -> dict[str, Any]:
    """Return the parts of both cases over the year, at both peak hours, and what is to be said about the hours.

    Raises
    ------
    EurythmError
        Where one of the cases cannot be simulated.
    """
    first, second = base.taken_apart(substeps), other.taken_apart(substeps)
    changed = set(changed_groups(base, other))
    found: dict[str, Any] = {"sources": [{"id": s, "name": SOURCE_NAMES[s]} for s in SOURCES], "substeps": substeps}
    whole = [attribution(t.prepared.building, t.prepared.arrays, t.parts)["building"] for t in (first, second)]
    for u, use in enumerate(USES):
        hours = [int(t.parts.building_peaks[u]) for t in (first, second)]
        found[use] = {
            "base": {**_year(whole[0][use]), "own": at_hour(first.parts, u, hours[0]), "at_other": at_hour(first.parts, u, hours[1])},
            "other": {**_year(whole[1][use]), "own": at_hour(second.parts, u, hours[1]), "at_other": at_hour(second.parts, u, hours[0])},
        }
        found[use]["sentence"] = hours_in_a_sentence(use, found[use]["base"]["own"], found[use]["other"]["own"], changed)
    return found


def _year(of_use: dict[str, Any]) -> dict[str, Any]:
    return {"load_kwh": of_use["load_kwh"], "parts_kwh": of_use["parts_kwh"]}


def hours_in_a_sentence(use: str, base: dict[str, Any], other: dict[str, Any], changed: set[str]) -> str:
    """Say whether the peak moved, and which parts differ for that reason alone."""
    if base["at"] is None or other["at"] is None:
        return f"No {use} is needed in {'either case' if base['at'] == other['at'] else 'one of the cases'}."
    before, after = hour_in_words(base["at"]), hour_in_words(other["at"])
    least = LEAST_SHARE * max(base["load_w"], other["load_w"])
    untouched = [
        SOURCE_NAMES[source]
        for source, bound in BOUND_TO.items()
        if not changed.intersection(bound) and abs(other["parts_w"][source] - base["parts_w"][source]) > least
    ]
    differ = _differ(untouched)
    if before == after:
        why = f"; {differ}, since parts carry what rooms gained and lost before that hour" if differ else ""
        return f"Both {use} peaks fall on {before}{why}."
    return f"The {use} peak moved from {before} to {after}{', so ' + differ if differ else ''}."


def _differ(names: list[str]) -> str:
    if not names:
        return ""
    if len(names) == 1:
        return f"the part by {names[0]} differs although nobody touched it"
    return f"the parts by {', '.join(names[:-1])} and {names[-1]} differ although nobody touched them"
