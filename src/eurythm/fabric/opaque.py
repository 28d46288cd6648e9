"""Opaque constructions: resistance, U-value, areal heat capacity."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eurythm.model.errors import EurythmError
from eurythm.model.library import Construction, Element, Layer

STANDARD_FILMS: dict[Element, tuple[float, float]] = {
    "wall": (0.04, 0.13),
    "roof": (0.04, 0.10),
    "ground_floor": (0.0, 0.17),
    "exposed_floor": (0.04, 0.17),
    "partition": (0.13, 0.13),
    "intermediate_floor": (0.10, 0.10),
}
"""Outside and inside surface resistances by element, m2K/W (ISO 6946, table 7; checked by common use)."""

STATED_U_FILMS: dict[Element, float] = {
    "wall": 0.17,
    "roof": 0.14,
    "ground_floor": 0.21,
    "exposed_floor": 0.21,
    "partition": 0.26,
    "intermediate_floor": 0.20,
}
"""What is taken off the resistance of a construction given by its U-value, m2K/W."""


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


def u_value(construction: Construction, element: Element | None = None) -> float:
    """U-value with standard films, W/m2K (ISO 6946, homogeneous layers)."""
    if construction.u_value is not None:
        return construction.u_value
    outside, inside = STANDARD_FILMS[element or construction.element]
    return 1.0 / (outside + sum(layer.thickness_m / layer.conductivity for layer in construction.layers) + inside)


def heat_capacity(construction: Construction) -> float:
    """Areal heat capacity of all layers, kJ/m2K."""
    return sum(layer.thickness_m * layer.density * layer.specific_heat for layer in construction.layers) / 1000.0


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


def build_up(construction: Construction, element: Element, path: str = "") -> BuildUp:
    """Prepare a construction for the heat balance.

    Raises
    ------
    EurythmError
        ``u-value-too-high`` where the standard films alone resist more than the stated U-value.
    """
    if construction.u_value is not None:
        left = 1.0 / construction.u_value - STATED_U_FILMS[element]
        if left <= 1e-4:
            limit = 1.0 / STATED_U_FILMS[element]
            raise EurythmError(
                "u-value-too-high",
                f"U {construction.u_value:g} W/m²K leaves nothing after the standard films; stay below {limit:.2f}.",
                path or f"library/constructions/{construction.id}/u_value",
            )
        return BuildUp(((left, 0.0),), 0.0, construction.solar_absorptance, construction.emissivity)
    layers = tuple((_r(layer), layer.thickness_m * layer.density * layer.specific_heat) for layer in construction.layers)
    return BuildUp(layers, sum(layer.thickness_m for layer in construction.layers), construction.solar_absorptance, construction.emissivity)


def _r(layer: Layer) -> float:
    return layer.thickness_m / layer.conductivity


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
