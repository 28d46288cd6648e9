"""Kinds of photovoltaic modules: what data sheets say of them, in order of size (unverified)."""

from __future__ import annotations

from dataclasses import dataclass

from eurythm.model.renewables import Array, Module


@dataclass(frozen=True)
class Kind:
    """Modules of a kind: efficiency at 25 °C and 1,000 W/m², and the share of it that each kelvin above takes."""

    name: str
    efficiency: float
    loss_per_k: float


KINDS: dict[Module, Kind] = {
    "mono": Kind("crystalline", 0.21, 0.0035),
    "mono_high": Kind("crystalline, high yield", 0.23, 0.0029),
    "poly": Kind("polycrystalline, older", 0.17, 0.0040),
    "thin_film": Kind("thin film", 0.14, 0.0025),
}
OVERSIZED = 1.1
"""Peak of modules over the rated power of an inverter that nobody gave: our own assumption."""


def kind_of(array: Array) -> Kind:
    """Return what an array's modules are, with what was given for them."""
    usual = KINDS[array.module]
    return Kind(
        usual.name,
        usual.efficiency if array.efficiency is None else array.efficiency,
        usual.loss_per_k if array.loss_per_k is None else array.loss_per_k,
    )
