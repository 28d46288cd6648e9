"""A newer state of a file: what it changed, what a hand changed, and both at once."""

from __future__ import annotations

import copy
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from eurythm.exchange.intake.again import differences, rebase
from eurythm.exchange.intake.received import Received, ReceivedStorey
from eurythm.model.amount import said
from tests.core.test_checks import block, model, room

BASE: dict[str, Any] = {
    "id": "court",
    "name": "Court",
    "contact_gap_m": 0.5,
    "zones": [
        {"id": "hall", "name": "Hall", "profile": "library", "faces": [{"id": "f1", "boundary": "outdoors"}, {"id": "f2", "construction": "w1"}]},
        {"id": "stair", "name": "Stair"},
        {"id": "store", "name": "Store", "corners": [[0, 0], [4, 0], [4, 3]]},
    ],
}  # fmt: skip


def changed(path: str, value: Any) -> dict[str, Any]:
    """The base with one value set, by a path of keys and ids; a value of `...` takes it out."""
    made = copy.deepcopy(BASE)
    here: Any = made
    *way, last = path.split("/")
    for key in way:
        here = next(v for v in here if v["id"] == key) if isinstance(here, list) else here[key]
    if isinstance(here, list):
        here[:] = [v for v in here if v["id"] != last] + ([] if value is ... else [value])
    elif value is ...:
        del here[last]
    else:
        here[last] = value
    return made


CHANGES = [
    ("contact_gap_m", 0.3),
    ("zones/hall/name", "Great hall"),
    ("zones/hall/profile", ...),
    ("zones/hall/faces/f1/boundary", "adiabatic"),
    ("zones/hall/faces/f2", ...),
    ("zones/stair/number", "0.4"),
    ("zones/store/corners", [[0, 0], [5, 0], [5, 3]]),
    ("zones/new", {"id": "new", "name": "New"}),
]


@pytest.mark.parametrize(("path", "value"), CHANGES)
def test_what_only_the_file_changed_follows_the_file(path: str, value: Any) -> None:
    out = rebase(BASE, BASE, changed(path, value))
    assert out.scheme == changed(path, value)
    assert (out.clashes, out.lost) == ([], [])


@pytest.mark.parametrize(("path", "value"), CHANGES)
def test_what_only_a_hand_changed_stays(path: str, value: Any) -> None:
    out = rebase(BASE, changed(path, value), BASE)
    assert out.scheme == changed(path, value)
    assert (out.clashes, out.lost) == ([], [])


@pytest.mark.parametrize("mine", CHANGES)
@pytest.mark.parametrize("theirs", CHANGES)
def test_changes_in_different_places_are_both_kept(mine: tuple[str, Any], theirs: tuple[str, Any]) -> None:
    if mine == theirs or mine[0].startswith(theirs[0]) or theirs[0].startswith(mine[0]):
        return
    out = rebase(BASE, changed(*mine), changed(*theirs))
    assert out.clashes == []
    for path, value in (mine, theirs):
        here: Any = out.scheme
        *way, last = path.split("/")
        for key in way:
            here = next(v for v in here if v["id"] == key) if isinstance(here, list) else here[key]
        if isinstance(here, list):
            assert any(v["id"] == last for v in here) == (value is not ...)
        else:
            assert here.get(last, ...) == value


def test_where_both_changed_a_value_the_hands_stays_and_is_listed() -> None:
    out = rebase(BASE, changed("zones/hall/name", "By hand"), changed("zones/hall/name", "By file"))
    assert next(z for z in out.scheme["zones"] if z["id"] == "hall")["name"] == "By hand"
    (clash,) = out.clashes
    assert (clash.path, clash.by_hand, clash.by_file) == ("zones/hall/name", "By hand", "By file")


def test_both_changed_alike_is_no_clash() -> None:
    same = changed("zones/hall/name", "Alike")
    out = rebase(BASE, same, copy.deepcopy(same))
    assert (out.scheme, out.clashes) == (same, [])


def test_a_thing_that_is_gone_from_the_file_goes_and_hand_made_changes_to_it_are_told() -> None:
    gone = changed("zones/store", ...)
    assert rebase(BASE, BASE, gone).scheme == gone
    out = rebase(BASE, changed("zones/store/name", "Archive"), gone)
    assert [z["id"] for z in out.scheme["zones"]] == ["hall", "stair"]
    assert out.lost == ["zones/store"]


def test_what_a_hand_took_out_stays_out() -> None:
    out = rebase(BASE, changed("zones/store", ...), changed("zones/store/name", "Archive"))
    assert "store" not in [z["id"] for z in out.scheme["zones"]]


VALUES = st.one_of(st.integers(0, 3), st.sampled_from(["a", "b"]))
TREES = st.dictionaries(
    st.sampled_from(["p", "q", "r"]), st.one_of(VALUES, st.dictionaries(st.sampled_from(["x", "y"]), VALUES, max_size=2)), max_size=3
)


@given(TREES, TREES)
def test_one_side_alone_always_wins_whole(base: dict, other: dict) -> None:
    assert rebase(base, base, other).scheme == other
    assert rebase(base, other, base).scheme == other
    assert rebase(base, other, copy.deepcopy(other)).scheme == other


@given(TREES, TREES, TREES)
def test_no_value_is_made_up(base: dict, mine: dict, theirs: dict) -> None:
    """Every value of the outcome stood in one of the two; every clash has both sides."""
    out = rebase(base, mine, theirs)

    def leaves(tree: dict, path: tuple[str, ...] = ()) -> set[tuple]:
        found: set[tuple] = set()
        for key, value in tree.items():
            found |= leaves(value, (*path, key)) if isinstance(value, dict) else {(*path, key, value)}
        return found

    assert leaves(out.scheme) <= leaves(mine) | leaves(theirs)
    assert all(c.by_hand != c.by_file for c in out.clashes)


def differing(old: Received, new: Received) -> dict[str, tuple[str, str]]:
    return {d.object: (d.kind, said("; ".join(d.what))) for d in differences(old, new)}


def test_differences_name_what_came_changed_and_went() -> None:
    wall = block("w", "IfcWall", 0, -0.3, 0, 5, 0, 3)
    old = model(room("a", 0, 0, 5, 4), room("b", 6, 0, 9, 4), elements=(wall, block("chair", "IfcFurniture", 1, 1, 0, 2, 2, 1)))
    new = model(
        room("a", 0, 0, 5.5, 4, name="Archive"), room("c", 6, 5, 9, 9), elements=(block("w", "IfcWall", 0, -0.4, 0, 5, 0, 3), block("chair", "IfcFurniture", 1, 1, 0, 2, 2, 1))
    )  # fmt: skip
    found = differing(old, new)
    assert found["a"] == ("changed", "name “Room a” is now “Archive”; floor area 20.0 m² is now 22.0 m²; air volume 60.0 m³ is now 66.0 m³")
    assert found["b"][0] == "gone"
    assert found["c"][0] == "added"
    assert found["w"] == ("changed", "form or place")
    assert "chair" not in found


def test_a_renamed_storey_is_no_change_of_reference() -> None:
    old, new = model(room("a", 0, 0, 5, 4)), model(room("a", 0, 0, 5, 4, storey="g2"))
    new = new.model_copy(update={"storeys": [ReceivedStorey(id="g2", name="Ground floor", elevation_m=0.0)]})
    assert differing(old, new) == {}


def test_nothing_changed_is_nothing_told() -> None:
    given_model = model(room("a", 0, 0, 5, 4), elements=(block("w", "IfcWall", 0, -0.3, 0, 5, 0, 3),))
    assert differing(given_model, given_model.model_copy(deep=True)) == {}
    hair = model(room("a", 0, 0, 5.001, 4), elements=given_model.elements and (given_model.elements[0],))
    assert differing(given_model, hair) == {}  # below half a percent
