"""Everything that is told about one construction: resistance, mass, swing, moisture, carbon, and what is unusual."""

from __future__ import annotations

from dataclasses import dataclass

from eurythm.fabric.moisture import Climate, Moisture, moisture
from eurythm.fabric.opaque import build_up, films, heat_capacity, layer_capacity, layer_resistances, limits_of, thickness, u_value, within
from eurythm.fabric.periodic import Periodic, periodic
from eurythm.fabric.usual import Question, questions
from eurythm.model.library import Construction, Layer


@dataclass(frozen=True)
class LayerAccount:
    """One layer: resistance in m2K/W, mass in kg/m2, areal heat capacity in kJ/m2K, sd in m; `counts` is False beyond a ventilated layer."""

    resistance: float
    mass_kg_m2: float
    capacity_kj_m2k: float
    sd_m: float | None
    counts: bool


@dataclass(frozen=True)
class Account:
    """A construction with standard films.

    Attributes
    ----------
    u_value : W/m2K; `error` how far it may be off by the method's two limits, a share
    upper, lower : limits of the resistance with films, m2K/W (ISO 6946)
    outside_film, inside_film : m2K/W
    capacity_kj_m2k : of all layers
    carbon_kg_m2 : CO2 equivalent of all layers, None where a layer's is unknown
    moisture : None for a construction given by its U-value, or where one side is not outdoors
    """

    u_value: float
    error: float
    upper: float
    lower: float
    outside_film: float
    inside_film: float
    thickness_m: float
    mass_kg_m2: float
    capacity_kj_m2k: float
    swing: Periodic
    carbon_kg_m2: float | None
    carbon_unknown: tuple[str, ...]
    layers: tuple[LayerAccount, ...]
    moisture: Moisture | None
    questions: tuple[Question, ...]


OUTDOORS = ("wall", "roof", "exposed_floor")
"""Elements with the weather on one side, whose moisture is followed."""


def account_of(construction: Construction, climate: Climate | None = None) -> Account:
    """Return what is told about a construction; its moisture only where the months are given.

    Raises
    ------
    EurythmError
        ``u-value-too-high`` where a stated U-value leaves nothing after the films.
    """
    element = construction.element
    limits = limits_of(construction, element)
    u = u_value(construction, element)
    built = build_up(construction, element)
    outside, inside = films(construction, element)
    carbon = [layer_carbon(layer) for layer in construction.layers]
    unknown = tuple(dict.fromkeys(layer.name for layer, c in zip(construction.layers, carbon, strict=True) if c is None))
    wet = moisture(construction, element, climate) if climate is not None and construction.layers and element in OUTDOORS else None
    return Account(
        u_value=u,
        error=limits.error,
        upper=limits.upper,
        lower=limits.lower,
        outside_film=outside,
        inside_film=inside,
        thickness_m=thickness(construction),
        mass_kg_m2=sum(_mass(layer) for layer in construction.layers),
        capacity_kj_m2k=heat_capacity(construction),
        swing=periodic(built, element),
        carbon_kg_m2=None if unknown or not carbon else sum(c for c in carbon if c is not None),
        carbon_unknown=unknown,
        layers=_layers(construction),
        moisture=wet,
        questions=questions(construction, u),
    )


def _layers(construction: Construction) -> tuple[LayerAccount, ...]:
    if not construction.layers:
        return ()
    counted = within(construction.layers)
    beyond = len(construction.layers) - len(counted)
    resistances = [0.0] * beyond + layer_resistances(construction, construction.element)
    return tuple(
        LayerAccount(r, _mass(layer), layer_capacity(layer) / 1000, _sd(layer), i >= beyond)
        for i, (r, layer) in enumerate(zip(resistances, construction.layers, strict=True))
    )


def _mass(layer: Layer) -> float:
    if layer.air != "none":
        return 0.0
    density = layer.density
    if layer.inlay is not None:
        density += layer.inlay.share * (layer.inlay.density - layer.density)
    return layer.thickness_m * density


def _sd(layer: Layer) -> float | None:
    return None if layer.vapour_resistance is None else layer.thickness_m * layer.vapour_resistance


def layer_carbon(layer: Layer) -> float | None:
    """CO2 equivalent of a layer, kg/m2."""
    if layer.air != "none":
        return 0.0
    own = None if layer.carbon_kg_kg is None else layer.thickness_m * layer.density * layer.carbon_kg_kg
    if layer.inlay is None or own is None:
        return own
    other = layer.inlay.carbon_kg_kg
    return None if other is None else own * (1 - layer.inlay.share) + layer.inlay.share * layer.thickness_m * layer.inlay.density * other
