"""What photovoltaic arrays make of the light on them, hour by hour, and what inverters hand on of that."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import pvlib
from numpy.typing import NDArray
from typing_extensions import TypedDict

from eurythm.brief.modules import KINDS, OVERSIZED, Kind, kind_of
from eurythm.climate.year import HOURS, ClimateYear, Location
from eurythm.geometry.loops import area_vector
from eurythm.model.errors import EurythmError
from eurythm.model.place import Place
from eurythm.model.plant import Plant
from eurythm.model.renewables import Inverter, Photovoltaics
from eurythm.plant.panels import ROW_M, Panel
from eurythm.sun.caster import Points, cast
from eurythm.sun.obstacles import Obstacles, triangles_of
from eurythm.sun.radiation import FaceLight, light_in_the_open, sun_in_drawing

Series = NDArray[np.float64]
ROW_POINTS, ROWS_AHEAD, ROW_LENGTH_M = 12, 4, 400.0
"""Points up a row, rows before it, and their length."""
FLAT_SINE = 0.01
"""Panels flatter than this shade nothing."""
FARTHEST_M = 1000.0
"""Rows so far apart shade nothing."""
OWN_EFFICIENCY: float = Inverter.model_fields["efficiency"].default
"""Of an inverter that nobody gave."""
LAID_FLAT = 1e-3
"""Panels as steep as their roof stand in no rows."""
ENDLESS = 10**6
"""So many rows that the first one, which nothing shades, weighs nothing."""
SHARE = ""
"""Id of the share of all roofs among arrays."""
SHARE_NAME = "Share of roof"


@dataclass(frozen=True, eq=False)
class Rows:
    """What rows of tilted panels leave each other: of the sun by the hour, (8760,), and of the light from everywhere else."""

    sun: Series
    diffuse: float


@lru_cache(maxsize=32)
def rows_shading(normal: tuple[float, float, float], pitch_m: float, north_deg: float, at: Location) -> Rows:
    """Return how endless rows of panels on a flat roof shade each other, cast from points up the slope of one of them.

    Parameters
    ----------
    normal : of the panels, in the drawing's axes
    pitch_m : from row to row; never so close that they would overlap in plan
    north_deg : of the drawing
    """
    facing = np.array(normal)
    flat = np.hypot(facing[0], facing[1])
    hours, toward = sun_in_drawing(north_deg, at)
    sun = np.ones(HOURS)
    if flat < FLAT_SINE or pitch_m > FARTHEST_M:
        return Rows(sun, 1.0)
    ahead = np.array([facing[0], facing[1], 0.0]) / flat
    along = np.array([-ahead[1], ahead[0], 0.0]) * ROW_LENGTH_M / 2
    uphill = np.cross(facing, np.cross(facing, [0.0, 0.0, -1.0]))
    uphill = uphill / np.linalg.norm(uphill) * (1.0 if uphill[2] > 0 else -1.0)
    pitch = max(pitch_m, ROW_M * float(facing[2]))
    places = (np.arange(ROW_POINTS) + 0.5) / ROW_POINTS * ROW_M
    points = Points(np.outer(places, uphill), facing)
    feet = [ahead * pitch * k for k in range(1, ROWS_AHEAD + 1)]
    rows = [triangles_of((np.array([f - along, f + along, f + along + uphill * ROW_M, f - along + uphill * ROW_M]),)) for f in feet]
    none = np.zeros((0, 3, 3))
    seen = cast(Obstacles(none, np.concatenate(rows), none), points, toward)
    sun[hours] = np.unpackbits(seen.sun, axis=1, count=len(toward)).mean(axis=0)
    return Rows(sun, float(seen.sky.sum() / (seen.sky + seen.blocked).sum()))


@lru_cache(maxsize=64)
def _diffuse_taken_in(tilt_deg: float) -> tuple[float, float]:
    """Shares of even light from the sky, and from the ground before a panel, that its glass takes in."""
    taken_in = pvlib.iam.marion_diffuse("physical", min(tilt_deg, 180.0))
    return float(taken_in["sky"]), float(np.nan_to_num(taken_in["ground"]))


@dataclass(frozen=True, eq=False)
class Lit:
    """Light on panels of one array, (8760,) W/m²: in the open, shaded, and what passes their glass."""

    area: float
    in_the_open: Series
    shaded: Series
    taken_in: Series


def light_on_panel(panel: Panel, light: FaceLight, place: Place, climate: ClimateYear, pitch_m: float) -> Lit:
    """Return the light that a panel takes in.

    Losses by the angle of incidence after De Soto et al. (2006) for the sun and Marion (2017) for the rest, that from the ground told apart as far as
    open ground would give it, through pvlib. Rows on flat
    roofs shade each other, all but the first; what a shadow does within a module is left out.
    """
    beam, rest = light.wall_beam, light.wall - light.wall_beam
    if pitch_m > 0:
        normal = (float(panel.face.normal[0]), float(panel.face.normal[1]), float(panel.face.normal[2]))
        rows = rows_shading(normal, round(pitch_m, 6), place.north_deg, climate.location)
        behind = (panel.rows - 1) / panel.rows if panel.rows > 1 else 0.0
        beam, rest = beam * (1 - (1 - rows.sun) * behind), rest * (1 - (1 - rows.diffuse) * behind)
    by_angle = np.nan_to_num(pvlib.iam.physical(np.degrees(np.arccos(np.clip(light.cos_incidence, 0.0, 1.0)))))
    sky, ground = _diffuse_taken_in(round(panel.face.tilt_deg, 3))
    in_the_open, from_ground = light_in_the_open(panel.face.normal, place, climate)
    from_ground = np.minimum(from_ground, rest)
    taken_in = beam * by_angle + (rest - from_ground) * sky + from_ground * ground
    return Lit(panel.area, in_the_open, beam + rest, taken_in)


class ArrayTold(TypedDict):
    """An array's year: m² of modules, kWp, kWh behind its inverter, that per kWp, and what is lost on the way as shares of what its
    modules would make of the light in the open at 25 °C; heat can be a gain in cold places.
    """

    id: str
    name: str
    on: str
    inverter: str
    area_m2: float
    peak_kwp: float
    kwh: float
    kwh_per_kwp: float
    ideal_kwh: float
    shade_share: float
    reflection_share: float
    heat_share: float
    losses_share: float
    inverter_share: float
    clipped_share: float


class InverterTold(TypedDict):
    """An inverter's year: rated kW, kWp of its arrays, kWh in and out, kWh clipped and in how many hours."""

    id: str
    name: str
    rated_kw: float
    peak_kwp: float
    in_kwh: float
    out_kwh: float
    clipped_kwh: float
    clipped_h: int


@dataclass(frozen=True, eq=False)
class Generation:
    """Alternating-current output, W, (8760,), together and by array; the module area, m²; and a year of each array and inverter."""

    output_w: Series
    module_area_m2: float
    by_array: Mapping[str, Series]
    arrays: tuple[ArrayTold, ...] = ()
    inverters: tuple[InverterTold, ...] = ()


@dataclass(frozen=True, eq=False)
class _Made:
    """Direct current of an array, (8760,) W, and sums of the year on the way to it, kWh."""

    id: str
    name: str
    on: str
    inverter: str
    area: float
    peak_w: float
    dc_w: Series
    ideal: float
    shaded: float
    taken_in: float
    hot: float


def _kwh(series: Series) -> float:
    return float(series.sum()) / 1000.0


def _direct(id: str, name: str, on: str, inverter: str, lit: Sequence[Lit], kind: Kind, left: float, climate: ClimateYear) -> _Made:
    """Direct current of modules: their temperature after Faiman (2008), through pvlib, and what is left after named losses."""
    dc = np.zeros(HOURS)
    ideal = shaded = taken_in = 0.0
    area = sum(one.area for one in lit)
    for one in lit:
        module_c = np.asarray(pvlib.temperature.faiman(one.taken_in, climate.air_c, climate["wind_speed_m_s"]))
        made = one.taken_in * (kind.efficiency * one.area) * np.maximum(1 - kind.loss_per_k * (module_c - 25.0), 0.0)
        dc += made
        ideal += _kwh(one.in_the_open) * kind.efficiency * one.area
        shaded += _kwh(one.shaded) * kind.efficiency * one.area
        taken_in += _kwh(one.taken_in) * kind.efficiency * one.area
    return _Made(id, name, on, inverter, area, area * kind.efficiency * 1000.0, dc * left, ideal, shaded, taken_in, _kwh(dc))


def handed_on(dc_w: Series, rated_w: float, efficiency: float) -> tuple[Series, Series]:
    """Return what an inverter gives and what it clips, W, by the curve of PVWatts version 5 (Dobos 2014, through pvlib).

    Parameters
    ----------
    rated_w : alternating current at most; what would pass it at the rated efficiency is clipped
    efficiency : at rated power
    """
    given = np.asarray(pvlib.inverter.pvwatts(dc_w, rated_w / efficiency, eta_inv_nom=efficiency), dtype=float)
    return given, np.maximum(dc_w * efficiency - rated_w, 0.0)


def generate(panels: Sequence[Panel], light: Mapping[str, FaceLight], plant: Plant, place: Place, climate: ClimateYear) -> Generation:
    """Return what all arrays of a plant make.

    Raises
    ------
    EurythmError
        ``no-such-inverter`` where an array names one that there is not.
    """
    share = [panel for panel in panels if panel.array == SHARE]
    made = [_of_share(share, light, plant.photovoltaics, place, climate)] if share and plant.photovoltaics.roof_share > 0 else []
    names = {inverter.id for inverter in plant.inverters}
    for array in plant.arrays:
        if array.inverter is not None and array.inverter not in names:
            raise EurythmError("no-such-inverter", f"There is no inverter “{array.inverter}”.", f"scheme/plant/arrays/{array.id}/inverter")
        lit = [light_on_panel(panel, light[panel.face.id], place, climate, panel.pitch) for panel in panels if panel.of(array)]
        left = (1 - array.soiling) * (1 - array.wiring) * (1 - array.mismatch)
        made.append(_direct(array.id, array.name or array.id, array.on, array.inverter or "", lit, kind_of(array), left, climate))
    return _together(made, plant)


def _of_share(panels: Sequence[Panel], light: Mapping[str, FaceLight], pv: Photovoltaics, place: Place, climate: ClimateYear) -> _Made:
    """Direct current of a share of all roofs: endless rows where panels are set up on their roof, none where they lie in it."""
    lit = []
    for panel in panels:
        set_up = abs(float(panel.face.normal[2]) - _roof_normal(panel)) > LAID_FLAT
        pitch = min(ROW_M / pv.roof_share, 10 * FARTHEST_M) if set_up else 0.0
        rows = replace(panel, area=min(panel.held * pv.roof_share, panel.area), rows=ENDLESS)
        lit.append(light_on_panel(rows, light[panel.face.id], place, climate, pitch))
    kind = Kind("", pv.module_efficiency, KINDS["mono"].loss_per_k)
    return _direct(SHARE, SHARE_NAME, "roof", "", lit, kind, 1 - pv.losses, climate)


def _together(made: Sequence[_Made], plant: Plant) -> Generation:
    """Arrays through their inverters: those that name one share it, the share of roofs has a plain efficiency, others have their own."""
    output = np.zeros(HOURS)
    by_array: dict[str, Series] = {}
    told: dict[str, ArrayTold] = {}
    inverters: list[InverterTold] = []
    for one in made:
        if one.id == SHARE:
            given, clipped = one.dc_w * plant.photovoltaics.inverter_efficiency, np.zeros(HOURS)
        elif not one.inverter:
            given, clipped = handed_on(one.dc_w, max(one.peak_w, 1.0) / OVERSIZED, OWN_EFFICIENCY)
        else:
            continue
        by_array[one.id], told[one.id] = given, _told(one, given, clipped)
    for inverter in plant.inverters:
        held = [one for one in made if one.inverter == inverter.id]
        dc = sum((one.dc_w for one in held), np.zeros(HOURS))
        given, clipped = handed_on(dc, inverter.rated_kw * 1000.0, inverter.efficiency)
        name, peak = inverter.name or inverter.id, sum(one.peak_w for one in held)
        inverters.append(
            {
                "id": inverter.id, "name": name, "rated_kw": inverter.rated_kw, "peak_kwp": peak / 1000.0, "in_kwh": _kwh(dc),
                "out_kwh": _kwh(given), "clipped_kwh": _kwh(clipped), "clipped_h": int((clipped > 1e-6).sum()),
            }
        )  # fmt: skip
        for one in held:
            part = np.divide(one.dc_w, dc, out=np.zeros(HOURS), where=dc > 0)
            by_array[one.id], told[one.id] = given * part, _told(one, given * part, clipped * part)
    for series in by_array.values():
        output += series
    arrays = tuple(told[one.id] for one in made)
    return Generation(output, sum(a["area_m2"] for a in arrays), {one.id: by_array[one.id] for one in made}, arrays, tuple(inverters))


def _roof_normal(panel: Panel) -> float:
    """Upward part of the normal of the roof that a panel lies on."""
    vector = area_vector(panel.face.loops[0])
    return float(vector[2] / np.linalg.norm(vector))


def _told(one: _Made, given: Series, clipped: Series) -> ArrayTold:
    ideal = one.ideal if one.ideal > 0 else 1.0
    kwh, cut, direct = _kwh(given), _kwh(clipped), _kwh(one.dc_w)
    return {
        "id": one.id,
        "name": one.name,
        "on": one.on,
        "inverter": one.inverter,
        "area_m2": one.area,
        "peak_kwp": one.peak_w / 1000.0,
        "kwh": kwh,
        "kwh_per_kwp": kwh / (one.peak_w / 1000.0) if one.peak_w > 0 else 0.0,
        "ideal_kwh": one.ideal,
        "shade_share": (one.ideal - one.shaded) / ideal,
        "reflection_share": (one.shaded - one.taken_in) / ideal,
        "heat_share": (one.taken_in - one.hot) / ideal,
        "losses_share": (one.hot - direct) / ideal,
        "inverter_share": (direct - kwh - cut) / ideal,
        "clipped_share": cut / ideal,
    }
