"""Air, plant and thermal bridges of each zone: what of it holds all year, as the kernel wants it.

Flows are heat capacity flows, W/K; what wind and temperature drive is kept as the square of its coefficients
(`elements.driven`), since single-sided openings and cracks follow the root of their driving pressures.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from eurythm.brief.resolve import Brief, ZoneBrief
from eurythm.climate.air import humidity_ratio
from eurythm.geometry.building import Building, Face
from eurythm.model.errors import EurythmError
from eurythm.thermal.elements import AIR_HEAT

Series = NDArray[np.float64]
FURNITURE_J_M2K = 10_000.0
"""Heat capacity of air and furniture per floor area, as in ISO 52016-1 (unverified); boxes given outright have air only."""
NO_LIMIT = 1e30
BY_WIND, BY_STACK = 0.001, 0.0035
"""EN 16798-7, single-sided airing: q = A/2 sqrt(max(0.001 v², 0.0035 h |dT|)), m³/s (constants unverified)."""
ACROSS = 0.6**2 * 0.75
"""Openings on two sides: discharge 0.6 and a difference of wind pressure coefficients of 0.75 (unverified), squared."""
LEAKS_WIND, LEAKS_STACK_PER_M = 0.0174, 0.0058
"""Of a leakage area at 4 Pa: (m/s)² per (m/s)² of met wind, and per K and metre of height; Sherman and Grimsrud (1980) with
the coefficients of common handbooks for ordinary shelter (unverified)."""
LEAK_EXPONENT = 0.667
DOOR = 0.6 / 3.0
"""Discharge over three: exchange through a tall opening, Brown and Solvason (1962)."""
LITRES_PER_M3 = 1000.0
SUPPLY_FAN = 0.5
"""Part of the fans' power that the supply fan takes, all of which warms the air: our own assumption."""
VAPOUR_BUFFER = 5.0
"""Furnishings hold moisture like this many times the room's air: our own assumption."""


MAST_M, MAST_TERRAIN = 10.0, "open"
TERRAINS = {"open": (270.0, 0.14), "suburb": (370.0, 0.22), "city": (460.0, 0.33)}
"""Depth of the boundary layer, m, and exponent of the wind's profile by terrain (ASHRAE Fundamentals, unverified)."""
LEAST_HEIGHT_M = 2.0


def wind_share(terrain: str, height_m: float) -> float:
    """Wind speed at a height over some terrain, per that of the weather station's mast of 10 m in open country."""
    depth, exponent = TERRAINS[terrain]
    mast_depth, mast_exponent = TERRAINS[MAST_TERRAIN]
    return float((mast_depth / MAST_M) ** mast_exponent * (max(height_m, LEAST_HEIGHT_M) / depth) ** exponent)


def zone_arrays(
    brief: Brief, building: Building, zones: tuple[ZoneBrief, ...], floor_area: Series, air_volume: Series
) -> dict[str, Series]:
    """Return what each zone has all year, (Z,) by the kernel's names."""
    climate, scheme = brief.climate, brief.scheme
    count = len(building.zones)
    index = {z.id: i for i, z in enumerate(building.zones)}
    heat_per_m3 = climate.air_density * AIR_HEAT
    outdoor: list[list[Face]] = [[] for _ in range(count)]
    for face in building.faces:
        if face.boundary == "outdoors":
            outdoor[index[face.zone]].append(face)
    on_ground = {index[f.zone] for f in building.faces if f.kind == "floor" and f.boundary in ("ground", "outdoors")}
    roofed = {index[f.zone] for f in building.faces if f.kind == "ceiling" and f.boundary == "outdoors"}
    furnished = np.array([z.furnished for z in building.zones])
    conditioned = np.array([z.conditioned for z in zones])
    leak_wind, leak_stack = _cracks(brief, building, zones, outdoor)
    openings = np.array([_openings(z, faces) for z, faces in zip(zones, outdoor, strict=True)]) * heat_per_m3**2
    place = brief.place
    gusts = np.array([wind_share(place.terrain, (z.level + z.top) / 2 - place.ground_level_m) for z in building.zones]) ** 2
    pressure = float(climate["pressure_pa"].mean())
    least, most = scheme.use.humidity_least_pct, scheme.use.humidity_most_pct
    everywhere = np.ones(count)
    return {
        "capacity": air_volume * heat_per_m3 + np.where(furnished, floor_area * FURNITURE_J_M2K, 0.0),
        "bridge": np.array([bridges(brief, faces, z in roofed, z in on_ground) for z, faces in enumerate(outdoor)]),
        "recovery": np.array([z.air.heat_recovery for z in zones]),
        "economy": np.array([z.air.economiser for z in zones]),
        "leak_wind": leak_wind * heat_per_m3**2,
        "leak_stack": leak_stack * heat_per_m3**2,
        "fan_k": np.array([z.air.fan_w_ls for z in zones]) * LITRES_PER_M3 * SUPPLY_FAN / heat_per_m3,
        "open_wind": openings[:, 0] * gusts,
        "open_stack": openings[:, 1],
        "mixed": everywhere * float(scheme.use.airing.beside_cooling),
        "heat_most": _limits([z.heating_most_w_m2 for z in zones], floor_area),
        "cool_most": _limits([z.cooling_most_w_m2 for z in zones], floor_area),
        "by_air": everywhere * (0.5 if scheme.use.control == "operative" else 1.0),
        "vapour_mass": np.maximum(air_volume, 1e-3) * climate.air_density * VAPOUR_BUFFER,
        "driest": np.where(conditioned & (least is not None), (least or 0.0) / 100.0, 0.0),
        "coil_c": np.array([z.air.coil_c for z in zones]),
        "coil_vapour": np.array([humidity_ratio(z.air.coil_c, pressure) for z in zones]),
        "wettest": np.where(conditioned & (most is not None), (most or 100.0) / 100.0, 1.0),
    }


def moisture_counts(zone: dict[str, Series]) -> bool:
    """Whether a zone's moisture costs something: it is cooled, and so dried by its coil, or humidified, or dried to a limit."""
    return bool((zone["cool_most"] > 0).any() or (zone["driest"] > 0).any() or (zone["wettest"] < 1).any())


def _limits(most_w_m2: list[float], floor_area: Series) -> Series:
    limits: Series = np.minimum(np.array(most_w_m2) * floor_area, NO_LIMIT)
    return limits


def bridges(brief: Brief, outdoor: list[Face], roofed: bool, footed: bool) -> float:
    """Thermal bridges of a zone, W/K: the surcharge over all outdoor faces, rims of windows, and edges of roof and floor."""
    given = brief.scheme.skin.thermal_bridges
    area = sum(f.area for f in outdoor)
    rims = sum(2 * (w.width + w.height) for f in outdoor for w in f.windows)
    edges = sum(f.size[0] for f in outdoor if f.kind == "wall") * (roofed + footed)
    return max(given.surcharge_w_m2k * area + given.rims_w_mk * rims + given.edges_w_mk * edges, 0.0)


def _cracks(brief: Brief, building: Building, zones: tuple[ZoneBrief, ...], outdoor: list[list[Face]]) -> tuple[Series, Series]:
    """Infiltration by permeability: coefficients of wind² and of temperature difference, (m³/s)², (Z,)."""
    given = brief.scheme.use.permeability_m3_hm2
    areas = np.array([sum(f.area for f in faces) * zone.by_cracks for zone, faces in zip(zones, outdoor, strict=True)])
    if given is None:
        return np.zeros(len(areas)), np.zeros(len(areas))
    at_four = given * areas / 3600.0 * (4.0 / 50.0) ** LEAK_EXPONENT
    leakage = at_four / np.sqrt(2 * 4.0 / brief.climate.air_density)
    height = max(z.top for z in building.zones) - min(z.level for z in building.zones)
    return LEAKS_WIND * leakage**2, LEAKS_STACK_PER_M * max(height, 2.5) * leakage**2


def _openings(zone: ZoneBrief, outdoor: list[Face]) -> tuple[float, float]:
    """Airing of a zone: part of wind², part of temperature difference, (m³/s)² (EN 16798-7)."""
    by_face = [sum(w.area for w in f.windows) * zone.openable_share for f in outdoor if f.kind == "wall"]
    area = sum(by_face)
    if area <= 0:
        return 0.0, 0.0
    heights = [w.height for f in outdoor for w in f.windows]
    half = (0.5 * area) ** 2
    wind = BY_WIND * half
    if zone.two_sided:
        path = (0.5 * area) ** 2 / 2  # half the openings in series with the other half
        wind = max(wind, ACROSS * path)
    return wind, BY_STACK * max(heights) * half


def air_paths(brief: Brief, index: dict[str, int], heat_per_m3: float) -> tuple[tuple[int, int, float, float], ...]:
    """Return the paths between zones: two zones, the squared flow, and its part per kelvin, (W/K)².

    Paths whose zones are gone are passed over; `readiness` remarks on them.

    Raises
    ------
    EurythmError
        ``air-path-to-itself``.
    """
    found = []
    for path in brief.scheme.air_paths:
        if path.zone_a == path.zone_b:
            raise EurythmError("air-path-to-itself", "An air path joins two different zones.", f"scheme/air_paths/{path.id}/zone_b")
        if path.zone_a not in index or path.zone_b not in index:
            continue
        flow = path.flow_m3_h / 3600.0 * heat_per_m3
        door = DOOR * path.opening_m2 * np.sqrt(9.81 * path.height_m / 293.15) * heat_per_m3
        found.append((index[path.zone_a], index[path.zone_b], flow**2, float(door) ** 2))
    return tuple(found)
