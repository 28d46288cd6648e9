"""Opaque constructions: resistance, U-value, areal heat capacity (ISO 6946)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from math import prod
from typing import Literal

import numpy as np

from eurythm.model.amount import amount
from eurythm.model.errors import EurythmError
from eurythm.model.known import Known
from eurythm.model.library import Construction, Element, Layer

Flow = Literal["up", "horizontal", "down"]

STANDARD_FILMS: dict[Element, tuple[float, float]] = {
    "wall": (0.04, 0.13),
    "party_wall": (0.13, 0.13),
    "basement_wall": (0.0, 0.13),
    "roof": (0.04, 0.10),
    "ground_floor": (0.0, 0.17),
    "exposed_floor": (0.04, 0.17),
    "partition": (0.13, 0.13),
    "intermediate_floor": (0.10, 0.10),
}
"""Outside and inside surface resistances by element, m2K/W (ISO 6946, table 7; checked by common use)."""

STATED_U_FILMS: dict[Element, float] = {
    "wall": 0.17,
    "party_wall": 0.26,
    "basement_wall": 0.17,
    "roof": 0.14,
    "ground_floor": 0.21,
    "exposed_floor": 0.21,
    "partition": 0.26,
    "intermediate_floor": 0.20,
}
"""What is taken off the resistance of a construction given by its U-value, m2K/W."""

FLOW: dict[Element, Flow] = {
    "wall": "horizontal",
    "party_wall": "horizontal",
    "basement_wall": "horizontal",
    "roof": "up",
    "ground_floor": "down",
    "exposed_floor": "down",
    "partition": "horizontal",
    "intermediate_floor": "up",
}
"""Which way heat leaves a warm room through each element."""

AIR_THICKNESS_M = (0.0, 0.005, 0.007, 0.010, 0.015, 0.025, 0.050, 0.100, 0.300)
AIR_RESISTANCE: dict[Flow, tuple[float, ...]] = {
    "up": (0.0, 0.11, 0.13, 0.15, 0.16, 0.16, 0.16, 0.16, 0.16),
    "horizontal": (0.0, 0.11, 0.13, 0.15, 0.17, 0.18, 0.18, 0.18, 0.18),
    "down": (0.0, 0.11, 0.13, 0.15, 0.17, 0.19, 0.21, 0.22, 0.23),
}
"""Still air layers between surfaces of high emissivity, m2K/W by thickness (ISO 6946, table 8, unverified)."""

AIR_KG_M3 = 1.2
AIR_J_KGK = 1005.0


@dataclass(frozen=True)
class BuildUp:
    """A construction ready for computation: layers from outside to inside.

    Attributes
    ----------
    layers : tuple of (resistance m2K/W, areal heat capacity J/m2K)
    thickness : m
    """

    layers: tuple[tuple[float, float], ...]
    thickness: float
    solar_absorptance: float
    emissivity: float

    @property
    def resistance(self) -> float:
        """Resistance from surface to surface, m2K/W."""
        return sum(r for r, _ in self.layers)

    @property
    def capacity(self) -> float:
        """Areal heat capacity of all layers, J/m2K."""
        return sum(c for _, c in self.layers)


@dataclass(frozen=True)
class Limits:
    """Upper and lower limit of a construction's resistance with films, m2K/W (ISO 6946, combined method)."""

    upper: float
    lower: float

    @property
    def resistance(self) -> float:
        """The mean of both, which counts."""
        return (self.upper + self.lower) / 2

    @property
    def error(self) -> float:
        """How far the true value may lie from the mean, as a share of it."""
        return (self.upper - self.lower) / (2 * self.resistance)


def air_resistance(thickness_m: float, flow: Flow) -> float:
    """Resistance of a still air layer, m2K/W (ISO 6946, table 8); thicker ones than 0.3 m count as 0.3 m."""
    return float(np.interp(thickness_m, AIR_THICKNESS_M, AIR_RESISTANCE[flow]))


def within(layers: Sequence[Layer]) -> tuple[Layer, ...]:
    """Return the layers that count: those on the room's side of the innermost ventilated air layer."""
    open_to = [i for i, layer in enumerate(layers) if layer.air == "ventilated"]
    return tuple(layers[open_to[-1] + 1 :] if open_to else layers)


def films(construction: Construction, element: Element) -> tuple[float, float]:
    """Outside and inside surface resistance, m2K/W; behind a ventilated air layer the outside one is that of still air."""
    outside, inside = STANDARD_FILMS[element]
    sheltered = any(layer.air == "ventilated" for layer in construction.layers)
    return (inside if sheltered else outside), inside


def layer_limits(layers: Sequence[Layer], outside: float, inside: float, flow: Flow) -> Limits:
    """Upper and lower limit of the resistance of layers with these films, m2K/W.

    Upper: heat flows straight through every section; sections of several interrupted layers cross each other. Lower: every
    layer's surfaces are at one temperature (ISO 6946, 6.7.2).
    """
    parts = [_parts(layer, flow) for layer in layers]
    through = sum(prod(share for share, _ in path) / (outside + sum(r for _, r in path) + inside) for path in product(*(p for p in parts)))
    lower = outside + sum(1 / sum(share / r for share, r in p) for p in parts) + inside
    return Limits(1 / through, lower)


def limits_of(construction: Construction, element: Element | None = None) -> Limits:
    """Upper and lower limit of a construction's resistance with standard films, m2K/W; equal where it is given by its U-value."""
    if construction.u_value is not None:
        return Limits(1 / construction.u_value, 1 / construction.u_value)
    which = element or construction.element
    outside, inside = films(construction, which)
    return layer_limits(within(construction.layers), outside, inside, FLOW[which])


def u_value(construction: Construction, element: Element | None = None) -> float:
    """U-value with standard films, W/m2K (ISO 6946, also with interrupted and air layers)."""
    if construction.u_value is not None:
        return construction.u_value
    return 1.0 / limits_of(construction, element).resistance


def layer_capacity(layer: Layer) -> float:
    """Areal heat capacity of a layer, what interrupts it included, J/m2K."""
    if layer.air != "none":
        return layer.thickness_m * AIR_KG_M3 * AIR_J_KGK
    own = layer.density * layer.specific_heat
    if layer.inlay is not None:
        own += layer.inlay.share * (layer.inlay.density * layer.inlay.specific_heat - own)
    return layer.thickness_m * own


def heat_capacity(construction: Construction) -> float:
    """Areal heat capacity of all layers, kJ/m2K."""
    if construction.u_value is not None:
        return construction.capacity_kj_m2k if construction.mass != "none" else 0.0
    return sum(layer_capacity(layer) for layer in construction.layers if layer.air == "none") / 1000.0


def thickness(construction: Construction) -> float:
    """Thickness of all layers, m."""
    return sum(layer.thickness_m for layer in construction.layers) if construction.layers else construction.thickness_m


def layer_resistances(construction: Construction, element: Element) -> list[float]:
    """Resistance of each layer that counts, m2K/W; what ISO 6946 adds to the lower limit lies with the interrupted layers."""
    flow = FLOW[element]
    layers = within(construction.layers)
    plain = [1 / sum(share / r for share, r in _parts(layer, flow)) for layer in layers]
    limits = limits_of(construction, element)
    weak = sum(r for r, layer in zip(plain, layers, strict=True) if layer.inlay is not None)
    if weak <= 0:
        return plain
    more = 1 + (limits.resistance - limits.lower) / weak
    return [r * more if layer.inlay is not None else r for r, layer in zip(plain, layers, strict=True)]


def conductivity_of(layer: Layer, flow: Flow) -> float:
    """Conductivity of a layer as if it were of one material, W/mK; air and what interrupts the layer included."""
    return layer.thickness_m * sum(share / r for share, r in _parts(layer, flow))


def _parts(layer: Layer, flow: Flow) -> list[tuple[float, float]]:
    """A layer's sections: share of the area and resistance, m2K/W."""
    if layer.air != "none":
        return [(1.0, max(air_resistance(layer.thickness_m, flow), 1e-6))]
    assert layer.conductivity is not None
    own = layer.thickness_m / layer.conductivity
    if layer.inlay is None:
        return [(1.0, own)]
    return [(1 - layer.inlay.share, own), (layer.inlay.share, layer.thickness_m / layer.inlay.conductivity)]


def with_insulation(construction: Construction, thickness_m: float) -> Construction:
    """Return the construction with its insulation layer at another thickness.

    Raises
    ------
    EurythmError
        ``no-insulation-layer`` where no layer is marked as insulation.
    """
    marked = [i for i, layer in enumerate(construction.layers) if layer.insulation]
    if not marked:
        raise EurythmError(
            "no-insulation-layer",
            f"“{construction.name}” has no layer marked as insulation to vary.",
            f"library/constructions/{construction.id}",
        )
    thickest = max(marked, key=lambda i: construction.layers[i].thickness_m)
    layers = tuple(
        layer.model_copy(update={"thickness_m": thickness_m}) if i == thickest else layer for i, layer in enumerate(construction.layers)
    )
    return construction.model_copy(update={"layers": layers})


_KNOWN = Known()


def build_up(construction: Construction, element: Element, path: str = "") -> BuildUp:
    """Prepare a construction for the heat balance; worked out once for each that many cases share.

    Raises
    ------
    EurythmError
        ``u-value-too-high`` where the standard films alone resist more than the stated U-value.
    """
    known = _KNOWN.of(construction)
    if element not in known:
        known[element] = _build_up(construction, element, path)
    made: BuildUp = known[element]
    return made


def _build_up(construction: Construction, element: Element, path: str) -> BuildUp:
    looks = (construction.solar_absorptance, construction.emissivity)
    if construction.u_value is not None:
        left = 1.0 / construction.u_value - STATED_U_FILMS[element]
        if left <= 1e-4:
            limit = 1.0 / STATED_U_FILMS[element]
            raise EurythmError(
                "u-value-too-high",
                f"U {amount(construction.u_value, 'W/m²K')} leaves nothing after the standard films; stay below {amount(limit, 'W/m²K', 2)}.",
                path or f"library/constructions/{construction.id}/u_value",
            )
        return BuildUp(_massive(construction, left), construction.thickness_m, *looks)
    resistances = layer_resistances(construction, element)
    layers = [(r, layer_capacity(layer)) for r, layer in zip(resistances, within(construction.layers), strict=True)]
    sheltered = films(construction, element)[0] - STANDARD_FILMS[element][0]
    if sheltered > 0:
        layers.insert(0, (sheltered, 0.0))
    return BuildUp(tuple(layers), thickness(construction), *looks)


SKIN_OF_MASS = 1e-4


def _massive(construction: Construction, resistance: float) -> tuple[tuple[float, float], ...]:
    """Layers of a construction given by its U-value, its mass placed as in the classes of ISO 52016-1 (tables B.13, B.14; unverified)."""
    heat = construction.capacity_kj_m2k * 1000.0
    thin = min(SKIN_OF_MASS, resistance / 10)
    placed: dict[str, tuple[tuple[float, float], ...]] = {
        "none": ((resistance, 0.0),),
        "inside": ((resistance - thin, 0.0), (thin, heat)),
        "outside": ((thin, heat), (resistance - thin, 0.0)),
        "divided": ((thin, heat / 2), (resistance - 2 * thin, 0.0), (thin, heat / 2)),
        "distributed": ((resistance, heat),),
    }
    return placed[construction.mass]


def slab_nodes(layers: tuple[tuple[float, float], ...], refine: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """Cut layers into finite volumes with nodes on both surfaces and at layer borders.

    Each massive layer gets as many cells as its time constant over the step asks for, one to six; layers below 10 kJ/m2K
    get one. Half of a cell's capacity sits on each of its ends.

    Returns
    -------
    conductance : (n-1,) W/m2K between neighbouring nodes
    capacity : (n,) J/m2K at the nodes
    """
    conductance: list[float] = []
    capacity: list[float] = [0.0]
    for resistance, heat in layers:
        resistance = max(resistance, 1e-5)
        cells = refine * (int(np.clip(np.ceil(np.sqrt(resistance * heat / (0.75 * 3600.0))), 1, 6)) if heat > 10_000.0 else 1)
        for _ in range(cells):
            conductance.append(cells / resistance)
            capacity[-1] += heat / cells / 2
            capacity.append(heat / cells / 2)
    return np.array(conductance), np.array(capacity)
