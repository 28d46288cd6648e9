"""Rooms in daylight that tests share."""

from __future__ import annotations

from typing import Any

import numpy as np

from eurythm.climate.standin import standin_year
from eurythm.daylight import illuminance
from eurythm.daylight.illuminance import Illuminance, Skin
from eurythm.fabric.shipped import GLAZINGS
from eurythm.geometry.building import Building
from eurythm.model.place import Place
from eurythm.model.scheme import Scheme
from tests.conftest import make_scheme, volume

UP = np.array([0.0, 0.0, 1.0])
YEAR = standin_year("merrowhaven")
GLASS = next(g for g in GLAZINGS if g.id == "double-lowe")
SOUTH = {"glazing_ratio": {"south": 0.4, "north": 0, "east": 0, "west": 0}}


def room(length: float, depth: float, **skin: Any) -> Scheme:
    return make_scheme(volumes=[volume(form={"length": length, "depth": depth}, height=3)], skin=SOUTH | skin)


USUAL = {"ceiling": 0.7, "wall": 0.5, "floor": 0.2}


def skin_of(glass: Any = GLASS, reflectances: dict[str, float] = USUAL) -> Skin:
    return Skin(lambda face, number: glass, lambda face, zone, kind: reflectances[kind], {})


def lit(building: Building, place: Place, sensors: Any, skin: Skin | None = None) -> Illuminance:
    return illuminance.illuminance(building, place, YEAR, sensors, skin or skin_of())


OPPOSITE = {"boxes": [{"id": "b", "x": -20, "y": -16, "length": 44, "depth": 8, "height": 12}]}
BENT = {"kind": "l", "length": 9, "depth": 9, "wing_length": 4, "wing_depth": 4}
LIKE = {
    "side-lit": (room(4, 5), {}),
    "deep": (room(4, 12), {}),
    "under an overhang": (room(4, 5, overhang_depth_m={"south": 1.2}), {}),
    "opposite a building": (room(4, 5), OPPOSITE),
    "at a corner": (room(6, 6, glazing_ratio={"south": 0.4, "north": 0, "east": 0.4, "west": 0}), {}),
    "bent": (make_scheme(volumes=[volume(kind="l", form=BENT, height=3)], skin=SOUTH), {}),
    "merged of five": (
        make_scheme(
            volumes=[volume(form={"length": 12, "depth": 9}, height=3, zoning="perimeter_core")],
            skin=SOUTH,
            merged=[{"id": "hall", "name": "Hall", "zones": [f"v1/s0/{k}" for k in ("e1", "e2", "e3", "e4", "core")]}],
        ),
        {},
    ),
    "rooflit": (room(6, 6, glazing_ratio={"south": 0, "north": 0, "east": 0, "west": 0}, rooflight_ratio=0.1), {}),
}
FIVE = {"volumes": [volume(zoning="perimeter_core")], "method": {"run_in_days": 5}}
