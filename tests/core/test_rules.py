"""Rules of assignment against an independent reading of what they say: hand before rule, earlier rule before later, rule before drawing."""

from __future__ import annotations

import re
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.brief.resolve import Shelf
from eurythm.geometry.building import Face
from eurythm.geometry.cladding import idle_rules
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.simulate import building_of
from tests.conftest import make_scheme, volume

WALLS = [c.id for c in Shelf(Library()).constructions.values() if c.element == "wall"][:6]
ROOFS = [c.id for c in Shelf(Library()).constructions.values() if c.element == "roof"][:3]
VOLUMES = [
    volume("bar", storeys=2) | {"name": "Long bar"},
    volume("wing", x=30, form={"length": 8, "depth": 8}) | {"name": "Wing"},
]
PATTERNS = ["", "bar", "BAR", "*bar", "wing*", "long*", "w?ng", "nothing*", "*"]
STOREYS = ["", "s0", "s1", "S*", "roof"]


def rule(**given_: Any) -> dict[str, Any]:
    return {k: v for k, v in given_.items() if v not in (None, "")}


rules = st.builds(
    rule,
    element=st.sampled_from([None, "wall", "roof", "ground_floor"]),
    orientation=st.sampled_from([None, "north", "east", "south", "west"]),
    storey=st.sampled_from(STOREYS),
    matching=st.sampled_from(PATTERNS),
    construction=st.sampled_from([None, *WALLS]),
    glazing=st.sampled_from([None, "triple-clear", "double-solar", "single"]),
)
overrides = st.builds(
    rule,
    face=st.sampled_from(["bar/s0/e1", "bar/s1/e1", "bar/*/e1", "bar/s0/e2", "wing/s0/e3", "gone/s0/e1"]),
    construction=st.sampled_from([None, *WALLS]),
    glazing=st.sampled_from([None, "triple-solar", "double-clear"]),
)


def like(names: list[str], pattern: str) -> bool:
    """Shell patterns, by regular expressions of our own."""
    made = "".join(".*" if c == "*" else "." if c == "?" else re.escape(c) for c in pattern)
    return any(re.fullmatch(made, name, re.IGNORECASE) for name in names)


def means(one: dict[str, Any], face: Face, north: float) -> bool:
    owner, storey, _ = face.id.split("/", 2)
    titles = {v["id"]: v["name"] for v in VOLUMES}
    if one.get("element", face.element) != face.element:
        return False
    if "orientation" in one:
        if face.kind != "wall":
            return False
        quarter = ["north", "east", "south", "west"][int(((face.azimuth_deg(north) + 45) % 360) // 90)]
        if quarter != one["orientation"]:
            return False
    if "storey" in one and not like([storey], one["storey"]):
        return False
    return "matching" not in one or like([owner, titles[owner], face.zone, "all"], one["matching"])


def hangs(one: dict[str, Any], face: Face) -> bool:
    owner, storey, edge = one["face"].split("/")
    return (
        face.edge in (one["face"], f"{owner}/{face.edge.split('/')[1] if face.edge else ''}/{edge}")
        if storey == "*"
        else face.edge == one["face"]
    )


@settings(max_examples=120, deadline=None)
@given(st.lists(rules, max_size=6), st.lists(overrides, max_size=4), st.sampled_from([0.0, 30.0, -77.0]))
def test_the_first_rule_that_fits_has_the_word_unless_a_hand_has_it(asked: list[dict], by_hand: list[dict], north: float) -> None:
    skin = {
        "rules": [{"id": f"r{k}", **r} for k, r in enumerate(asked)],
        "overrides": [{"id": f"o{k}", **o} for k, o in enumerate(by_hand)],
    }
    scheme = make_scheme(volumes=VOLUMES, skin=skin)
    place = Place(north_deg=north)
    building = building_of(place, scheme)
    for face in building.faces:
        fitting = [(k, r) for k, r in enumerate(asked) if means(r, face, north)]
        hands = [o for o in by_hand if hangs(o, face)]
        held = [o["construction"] for o in hands if "construction" in o]
        ruled = [(k, r["construction"]) for k, r in fitting if "construction" in r]
        if held:
            assert (face.construction, face.clad_by) == (held[-1], "by hand")
        elif ruled:
            assert face.construction == ruled[0][1]
            assert face.clad_by.startswith(f"by rule {ruled[0][0] + 1}: ")
        else:
            assert (face.construction, face.clad_by) == (None, "as its kind of element")
        glass = [o["glazing"] for o in hands if "glazing" in o][-1:] or [r["glazing"] for _, r in fitting if "glazing" in r][:1]
        assert {w.glazing for w in face.windows} <= {glass[0] if glass else None}
    idle = {r.id for r in idle_rules(building, scheme, north)}
    assert idle == {f"r{k}" for k, r in enumerate(asked) if not any(means(r, f, north) for f in building.faces)}


@settings(max_examples=40, deadline=None)
@given(st.lists(rules, min_size=1, max_size=5), st.integers(0, 4))
def test_a_rule_that_stands_behind_one_for_every_face_changes_nothing(asked: list[dict], at: int) -> None:
    every = {"construction": WALLS[0], "glazing": "single"}
    front = [every, *asked[at % len(asked) :]]

    def clad(which: list[dict]) -> list[tuple[str | None, set[str | None]]]:
        scheme = make_scheme(volumes=VOLUMES, skin={"rules": [{"id": f"r{k}", **r} for k, r in enumerate(which)]})
        return [(f.construction, {w.glazing for w in f.windows}) for f in building_of(Place(), scheme).faces]

    assert clad(front) == clad([every])
