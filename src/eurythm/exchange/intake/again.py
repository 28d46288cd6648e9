"""A newer state of the same file: what was added, changed or is gone, and how it meets what was changed by hand."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from eurythm.exchange.intake.checks import called
from eurythm.exchange.intake.received import Received, ReceivedSpace
from eurythm.model.amount import amount

SAME = 0.005
FIGURES = {"floor_area_m2": "floor area", "volume_m3": "air volume"}
WORDS = {"name": "name", "number": "number", "use": "use", "storey": "storey"}


@dataclass(frozen=True)
class Difference:
    """One object that a newer file has otherwise."""

    object: str
    class_name: str
    called: str
    kind: str
    what: tuple[str, ...] = ()


@dataclass
class Clash:
    """A value that both the file and a hand changed; the hand's stays."""

    path: str
    by_hand: Any
    by_file: Any


@dataclass
class Rebased:
    """A scheme with a newer file's changes and those made by hand."""

    scheme: dict[str, Any]
    clashes: list[Clash] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)


def differences(old: Received, new: Received) -> list[Difference]:
    """Return what a newer file of the same model adds, changes and no longer has."""
    found: list[Difference] = []
    storeys = [{s.id: s.name for s in received.storeys} for received in (old, new)]
    for before, after in ((old.spaces, new.spaces), (old.elements, new.elements)):
        mine, theirs = {t.id: t for t in before}, {t.id: t for t in after}
        for ref, thing in theirs.items():
            if ref not in mine:
                found.append(Difference(ref, thing.class_name, called(thing), "added"))
                continue
            what = _changes(mine[ref], thing, storeys)
            if what:
                found.append(Difference(ref, thing.class_name, called(thing), "changed", tuple(what)))
        found += [Difference(ref, thing.class_name, called(thing), "gone") for ref, thing in mine.items() if ref not in theirs]
    return found


def _changes(old: Any, new: Any, storeys: list[dict[str, str]]) -> list[str]:
    what = []
    for name, word in WORDS.items():
        a, b = getattr(old, name, ""), getattr(new, name, "")
        if name == "storey":
            a, b = storeys[0].get(a or "", ""), storeys[1].get(b or "", "")
        if a != b:
            what.append(f"{word} “{a}” is now “{b}”")
    if isinstance(new, ReceivedSpace):
        for name, word in FIGURES.items():
            a, b, unit = getattr(old, name), getattr(new, name), "m²" if "area" in word else "m³"
            if abs(a - b) > SAME * max(abs(a), 1.0):
                what.append(f"{word} {amount(a, unit, 1)} is now {amount(b, unit, 1)}")
    elif old.points != new.points:
        what.append("form or place")
    return what


def rebase(base: dict[str, Any], mine: dict[str, Any], theirs: dict[str, Any]) -> Rebased:
    """Bring a newer file's scheme together with what was changed by hand since the older one came.

    Parameters
    ----------
    base : the scheme as the older file made it.
    mine : the scheme as it stands.
    theirs : the scheme as the newer file makes it.

    Returns
    -------
    What the file changed follows the file, what a hand changed stays, and where both did, the hand's stays and is listed.
    """
    out = Rebased({})
    out.scheme = _both(base, mine, theirs, "", out)
    return out


def _both(base: Any, mine: Any, theirs: Any, path: str, out: Rebased) -> Any:
    if mine == base:
        return theirs
    if theirs in (base, mine):
        return mine
    if isinstance(mine, dict) and isinstance(theirs, dict):
        base = base if isinstance(base, dict) else {}
        made = {}
        for key in dict.fromkeys([*theirs, *mine]):
            here = f"{path}/{key}" if path else key
            if key in mine and key in theirs:
                made[key] = _both(base.get(key), mine[key], theirs[key], here, out)
            elif key in mine:
                if key not in base or mine[key] != base[key]:
                    made[key] = mine[key]  # given by hand; the file has nothing to say
            elif key not in base or theirs[key] != base[key]:
                made[key] = theirs[key]
        return made
    if _listed(mine) and _listed(theirs):
        return _lists(base if _listed(base) else [], mine, theirs, path, out)
    out.clashes.append(Clash(path, mine, theirs))
    return mine


def _listed(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(v, dict) and "id" in v for v in value)


def _lists(
    base: list[dict[str, Any]], mine: list[dict[str, Any]], theirs: list[dict[str, Any]], path: str, out: Rebased
) -> list[dict[str, Any]]:
    was, have, come = ({v["id"]: v for v in values} for values in (base, mine, theirs))
    made = []
    for name in dict.fromkeys([*come, *have]):
        here = f"{path}/{name}"
        if name in have and name in come:
            made.append(_both(was.get(name), have[name], come[name], here, out))
        elif name in come:
            if name not in was:
                made.append(come[name])  # new in the file; one that was taken out by hand stays out
        elif name not in was:
            made.append(have[name])  # added by hand
        elif have[name] != was[name]:
            out.lost.append(here)
    return made
