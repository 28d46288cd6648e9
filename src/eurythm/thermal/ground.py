"""Heat through the ground (ISO 13370), made hourly: slabs, basement floors and basement walls by their depth.

Every face on the ground keeps its own layers and half a metre of soil; a massless virtual layer beyond leads to a virtual
temperature, the year's mean and a share of the outdoor swing a month late, such that the standard's steady and periodic flow come out.
All constants of the standard are from memory (unverified).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from eurythm.climate.year import HOURS, ClimateYear
from eurythm.fabric.opaque import slab_nodes
from eurythm.geometry.building import Building, Face
from eurythm.memo import Kept, key_of

Series = NDArray[np.float64]
Layers = tuple[tuple[float, float], ...]
CONDUCTIVITY, CAPACITY, PENETRATION = 2.0, 2.0e6, 3.2
"""Sand or gravel of ISO 13370, table 7: W/mK, J/m3K, periodic penetration depth m (unverified)."""
SOIL_M = 0.5
INSIDE = {"floor": 0.17, "wall": 0.13, "ceiling": 0.10}
OUTSIDE = 0.04
LEAST_VIRTUAL = 0.001
LEVEL_M, ACROSS_WALLS_M = 0.05, 0.3
YEAR_S = HOURS * 3600.0


@dataclass(frozen=True)
class Coupling:
    """Steady coupling from inside to outside air, and the external periodic one over it: W/m2K, and a ratio."""

    u: float
    ratio: float


def slab(area: float, perimeter: float, wall: float, resistance: float, depth: float = 0.0) -> Coupling:
    """Return the coupling of a floor on the ground, at a depth below it that of a basement (ISO 13370, slab on ground and heated basement).

    Parameters
    ----------
    area, perimeter : of the whole contiguous slab, m² and m; the perimeter towards outdoor air or earth
    wall : thickness of the walls around it, m
    resistance : of the slab's layers, m2K/W
    depth : of the slab below ground level, m
    """
    size = area / max(0.5 * perimeter, 1e-6)
    equivalent = wall + CONDUCTIVITY * (INSIDE["floor"] + resistance + OUTSIDE)
    reach = equivalent + 0.5 * depth
    if reach < size:
        u = 2 * CONDUCTIVITY / (np.pi * size + reach) * np.log(np.pi * size / reach + 1)
    else:
        u = CONDUCTIVITY / (0.457 * size + reach)
    periodic = 0.37 * perimeter * CONDUCTIVITY * np.exp(-depth / PENETRATION) * np.log(PENETRATION / equivalent + 1) / area
    return Coupling(float(u), float(periodic / u))


def basement_wall(top: float, bottom: float, resistance: float, floor_equivalent: float) -> Coupling:
    """Return the coupling of a wall against the ground from a depth `top` to `bottom`, m (ISO 13370, heated basement).

    What the standard gives for a wall down to a depth is its mean; a part of it has the difference of two such walls.

    Parameters
    ----------
    resistance : of the wall's layers, m2K/W
    floor_equivalent : equivalent thickness of the basement's floor, m
    """
    own = CONDUCTIVITY * (INSIDE["wall"] + resistance + OUTSIDE)
    floor = min(floor_equivalent, own)

    def down_to(z: float) -> float:
        """Flow per metre of wall down to a depth, W/mK."""
        if z <= 0:
            return 0.0
        return float(2 * CONDUCTIVITY / np.pi * (1 + 0.5 * floor / (floor + z)) * np.log(z / own + 1))

    high = bottom - top
    u = (down_to(bottom) - down_to(top)) / high
    faded = np.exp(-top / PENETRATION) - np.exp(-bottom / PENETRATION)
    periodic = 0.37 * CONDUCTIVITY * 2 * faded * np.log(PENETRATION / own + 1) / high
    return Coupling(u, float(periodic / u))


def buried_roof(cover: float, resistance: float) -> Coupling:
    """Return the coupling of a ceiling under so many metres of earth: a plain wall of layers (our own assumption)."""
    u = 1 / (INSIDE["ceiling"] + resistance + cover / CONDUCTIVITY + OUTSIDE)
    return Coupling(u, float(np.exp(-cover / PENETRATION)))


@dataclass(frozen=True)
class Slab:
    """A contiguous floor on the ground: area m², perimeter towards air or earth m, depth below ground level m."""

    area: float
    perimeter: float
    depth: float


_SLABS: Kept[Mapping[str, Slab]] = Kept(1_000_000)


def slabs(building: Building, ground_level: float) -> Mapping[str, Slab]:
    """Return the contiguous slab of each floor face on the ground, by the face's id; kept for the last forms, whatever their openings.

    Floors at one level are one slab where their outlines touch, or stand no further apart than a wall's thickness.
    """
    floors = [f for f in building.faces if f.kind == "floor" and f.boundary == "ground"]
    feet = [f for f in building.faces if f.kind == "wall" and f.boundary in ("outdoors", "ground")]
    both = floors + feet
    names = "\0".join(f"{f.id}\0{f.zone}" for f in both).encode()
    figures = np.array([ground_level, *(v for f in both for v in (f.area, f.size[0]))])
    key = key_of(np.frombuffer(names, dtype=np.uint8), figures, *(loop for f in both for loop in f.loops))
    return _SLABS.get(key, lambda: _slabs(floors, feet, ground_level))


def _slabs(floors: Sequence[Face], feet: Sequence[Face], ground_level: float) -> Mapping[str, Slab]:
    found: dict[str, Slab] = {}
    levels: dict[int, list[Face]] = {}
    for face in floors:
        levels.setdefault(round(float(face.loops[0][:, 2].mean()) / LEVEL_M), []).append(face)
    low = np.array([_lowest(f) for f in feet])
    for group in levels.values():
        level = float(np.mean([f.loops[0][:, 2].mean() for f in group]))
        outlines = [
            Polygon(f.loops[0][:, :2], [h[:, :2] for h in f.loops[1:]]).buffer(ACROSS_WALLS_M / 2, join_style="mitre") for f in group
        ]
        parts = shapely.get_parts(shapely.union_all(outlines))
        part_of = [next(k for k, p in enumerate(parts) if p.intersects(o)) for o in outlines]
        at_foot = [f for f, z in zip(feet, low, strict=True) if abs(z - level) < LEVEL_M]
        for k in set(part_of):
            mine = [f for f, p in zip(group, part_of, strict=True) if p == k]
            zones = {f.zone for f in mine}
            perimeter = sum(_length(f) for f in at_foot if f.zone in zones)
            one = Slab(sum(f.area for f in mine), perimeter, max(ground_level - level, 0.0))
            found |= {f.id: one for f in mine}
    return found


def _lowest(face: Face) -> float:
    return float(face.loops[0][:, 2].min())


def _length(face: Face) -> float:
    if face.size[0] > 0:
        return face.size[0]
    flat = face.loops[0] @ np.cross([0.0, 0.0, 1.0], face.normal)
    return float(np.ptp(flat))


def couplings(building: Building, ground_level: float, wall: float, resistance: dict[str, float]) -> dict[str, Coupling]:
    """Return the coupling of every face on the ground, by id.

    Parameters
    ----------
    wall : thickness of the walls around slabs, m
    resistance : of each such face's layers, m2K/W, by id
    """
    of_slab = slabs(building, ground_level)
    under: dict[str, float] = {}
    found = {}
    for face in building.faces:
        if face.id in of_slab:
            one = of_slab[face.id]
            found[face.id] = slab(one.area, max(one.perimeter, 1.0), wall, resistance[face.id], one.depth)
            under[face.zone] = wall + CONDUCTIVITY * (INSIDE["floor"] + resistance[face.id] + OUTSIDE)
    deepest = max(under.values()) if under else np.inf
    for face in building.faces:
        if face.boundary != "ground" or face.id in found:
            continue
        bottom = max(ground_level - _lowest(face), 0.1)
        top = max(ground_level - float(face.loops[0][:, 2].max()), 0.0)
        if face.kind == "wall":
            found[face.id] = basement_wall(min(top, bottom - 0.05), bottom, resistance[face.id], under.get(face.zone, deepest))
        elif face.kind == "ceiling":
            found[face.id] = buried_roof(max(bottom, 0.0), resistance[face.id])
        else:  # a floor that a stated boundary puts on the ground
            found[face.id] = slab(face.area, max(4 * face.area**0.5, 1.0), wall, resistance[face.id], bottom)
    return found


def virtual_layer(coupling: Coupling, kind: str, resistance: float) -> float:
    """Resistance of the virtual layer beyond the soil, m2K/W; never below nothing."""
    return max(1 / coupling.u - INSIDE[kind] - resistance - SOIL_M / CONDUCTIVITY, LEAST_VIRTUAL)


SOIL = (SOIL_M / CONDUCTIVITY, SOIL_M * CAPACITY)
"""Half a metre of soil as a layer: m2K/W, J/m2K."""


TO_HARMONIC = np.exp(-2j * np.pi * (np.arange(12) + 0.5) / 12) / 6
"""What twelve monthly differences from their mean are weighted with for the complex amplitude of their first harmonic."""


@lru_cache(maxsize=32)
def _first_harmonic(months: tuple[float, ...]) -> tuple[float, complex]:
    """Mean of twelve months and the complex amplitude of their first harmonic, by the middles of the months."""
    mean = float(np.mean(months))
    return mean, complex((np.array(months) - mean) @ TO_HARMONIC)


LATE = np.exp(-2j * np.pi / 12)
"""The ground follows the outdoor year a month late."""


def outdoor_mean(climate: ClimateYear) -> float:
    """Return the year's mean outdoor temperature by months, °C."""
    return _first_harmonic(climate.monthly_air_c)[0]


def ground_swing(climate: ClimateYear) -> Series:
    """Return the outdoor year's first harmonic about its mean, a month late, K, (8760,): faces on the ground have their share of it."""
    return _swing(climate.monthly_air_c)


@lru_cache(maxsize=32)
def _swing(months: tuple[float, ...]) -> Series:
    angle = 2 * np.pi * (np.arange(HOURS) + 0.5) / HOURS
    course: Series = np.ascontiguousarray(np.real(_first_harmonic(months)[1] * LATE * np.exp(1j * angle)))
    return course


def periodic_starts(
    layers: Layers, beyond_h: Series, ratio: Series, climate: ClimateYear, inside_months: Series, hour: int, refine: int = 1
) -> Series:
    """Return node temperatures of faces on the ground in their yearly periodic state at an hour of the year, (K, nodes) °C.

    Parameters
    ----------
    layers : of the faces with their soil, from outside
    beyond_h : film of each one's virtual layer, (K,) W/m2K
    ratio : share of the outdoor swing that its virtual temperature has, (K,)
    inside_months : mean temperature inside by month, (K, 12) °C
    """
    mean = inside_months.mean(axis=1)
    steady, swinging = _responses(layers, tuple(beyond_h.tolist()), tuple(ratio.tolist()), _first_harmonic(climate.monthly_air_c), refine)
    swing = (inside_months - mean[:, None]) @ TO_HARMONIC
    turned = (swinging[..., 0] + swinging[..., 1] * swing[:, None]) * np.exp(2j * np.pi * hour / HOURS)
    state: Series = steady[..., 0] + steady[..., 1] * mean[:, None] + np.real(turned)
    return state


@lru_cache(maxsize=64)
def _responses(
    layers: Layers, beyond_h: tuple[float, ...], ratio: tuple[float, ...], outdoor: tuple[float, complex], refine: int
) -> tuple[Series, NDArray[np.complex128]]:
    """Temperatures of the nodes in the mean of the year, and the amplitude of their swing, (K, nodes, 2) each: what the outdoor year
    makes of them, and what a kelvin inside does. Kept, since most cases share their ground.
    """
    between, capacity = slab_nodes(layers, refine)
    film, beyond = 1 / INSIDE["floor"], np.array(beyond_h)
    matrix = np.diag(np.append(between, film) + np.append(0.0, between)) - np.diag(between, 1) - np.diag(between, -1)
    count, nodes = len(beyond), len(capacity)
    systems = np.zeros((2, count, nodes, nodes), dtype=complex)  # the mean, and the swing about it
    systems[:] = matrix
    systems[:, :, 0, 0] += beyond
    systems[1] += 2j * np.pi / YEAR_S * np.diag(capacity)
    drive = np.zeros((2, count, nodes, 2), dtype=complex)
    drive[:, :, 0, 0] = beyond * np.stack([np.full(count, outdoor[0]), np.array(ratio) * outdoor[1] * LATE])
    drive[:, :, -1, 1] += film
    steady, swinging = np.linalg.solve(systems, drive)
    return steady.real, swinging
