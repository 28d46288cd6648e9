"""Glass built up of panes and gaps: U-value (EN 673), solar factor and light (EN 410), and the window with its frame (ISO 10077-1)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eurythm.model.library import Gap, Gas, GlazingBuild, Pane

OUTSIDE_H, INSIDE_H = 25.0, 7.7
"""Films of both standards, W/m2K (EN 673, clause 5.3; unverified)."""
GLASS_MK_W = 1.0
MEAN_K, ACROSS_K = 283.0, 15.0
STEFAN = 5.67e-8
NUSSELT = (0.035, 0.38)
"""Upright gaps (EN 673, clause 5.2.2; unverified)."""


@dataclass(frozen=True)
class _GasAt10C:
    conductivity: float
    density: float
    viscosity: float
    heat: float


GASES: dict[Gas, _GasAt10C] = {
    "air": _GasAt10C(0.02496, 1.232, 1.761e-5, 1008.0),
    "argon": _GasAt10C(0.01684, 1.699, 2.164e-5, 519.0),
    "krypton": _GasAt10C(0.00900, 3.560, 2.400e-5, 245.0),
}
"""At 10 °C: W/mK, kg/m3, kg/ms, J/kgK (EN 673, table 1; unverified)."""


@dataclass(frozen=True)
class GlassAccount:
    """What a build-up comes to.

    Attributes
    ----------
    glass_u, window_u : middle of the glass, and the window with frame and edge, W/m2K
    g, direct : solar factor and direct solar transmittance of the glass
    visible, reflected : light let through, and thrown back outward
    """

    glass_u: float
    window_u: float
    g: float
    direct: float
    visible: float
    reflected: float


def gap_conductance(gap: Gap, emissivities: tuple[float, float], across_k: float) -> float:
    """Conductance of a gap between two panes, W/m2K: radiation and the gas (EN 673, 5.2)."""
    radiation = 4 * STEFAN * MEAN_K**3 / (1 / emissivities[0] + 1 / emissivities[1] - 1)
    gas = GASES[gap.gas]
    width = gap.thickness_m
    grashof = 9.81 * width**3 * across_k * gas.density**2 / (MEAN_K * gas.viscosity**2)
    prandtl = gas.viscosity * gas.heat / gas.conductivity
    nusselt = max(1.0, NUSSELT[0] * (grashof * prandtl) ** NUSSELT[1])
    return float(radiation + nusselt * gas.conductivity / width)


def _resistances(build: GlazingBuild) -> tuple[list[float], list[float]]:
    """Resistances of panes and of gaps, m2K/W; the temperature across all gaps is shared out by their resistance, which is iterated."""
    panes = [p.thickness_m * GLASS_MK_W for p in build.panes]
    if not build.gaps:
        return panes, []
    across = [ACROSS_K / len(build.gaps)] * len(build.gaps)
    gaps: list[float] = []
    for _ in range(12):
        gaps = [
            1 / gap_conductance(gap, (build.panes[k].emissivity_in, build.panes[k + 1].emissivity_out), dt)
            for k, (gap, dt) in enumerate(zip(build.gaps, across, strict=True))
        ]
        across = [ACROSS_K * r / sum(gaps) for r in gaps]
    return panes, gaps


def through_and_absorbed(through: list[float], outward: list[float], inward: list[float]) -> tuple[float, float, list[float]]:
    """Light on a stack of panes, each seen once and for all by its transmittance and its reflectance on either side.

    Returns
    -------
    transmitted, reflected : of the whole, from outside
    absorbed : in each pane
    """
    n = len(through)
    # unknown: light going in before each pane and behind the last (n + 1), light going out before each pane and behind the last (n + 1)
    matrix, right = np.eye(2 * (n + 1)), np.zeros(2 * (n + 1))
    right[0] = 1.0
    for k in range(n):
        matrix[k + 1, k] -= through[k]
        matrix[k + 1, n + 1 + k + 1] -= inward[k]
        matrix[n + 1 + k, k] -= outward[k]
        matrix[n + 1 + k, n + 1 + k + 1] -= through[k]
    flows = np.linalg.solve(matrix, right)
    goes_in, goes_out = flows[: n + 1], flows[n + 1 :]
    absorbed = [float(goes_in[k] * (1 - through[k] - outward[k]) + goes_out[k + 1] * (1 - through[k] - inward[k])) for k in range(n)]
    return float(goes_in[n]), float(goes_out[0]), absorbed


def glass_account(build: GlazingBuild) -> GlassAccount:
    """Return U-values, solar factor and light of a build-up, panes from outside to inside."""
    panes, gaps = _resistances(build)
    total = 1 / OUTSIDE_H + sum(panes) + sum(gaps) + 1 / INSIDE_H
    direct, _, absorbed = through_and_absorbed(*_three(build.panes, "solar"))
    inward = 0.0
    before = 1 / OUTSIDE_H
    for k, share in enumerate(absorbed):
        inward += share * (before + panes[k] / 2) / total
        before += panes[k] + (gaps[k] if k < len(gaps) else 0.0)
    visible, reflected, _ = through_and_absorbed(*_three(build.panes, "visible"))
    glass_u = 1 / total
    glass = 1 - build.frame_share
    window = glass * glass_u + build.frame_share * build.frame_u + build.edge_m_m2 * build.edge_w_mk
    return GlassAccount(glass_u, window, direct + inward, direct, visible, reflected)


def _three(panes: tuple[Pane, ...], of: str) -> tuple[list[float], list[float], list[float]]:
    return tuple([getattr(p, f"{of}_{part}") for p in panes] for part in ("through", "out", "in"))  # type: ignore[return-value]


def _pane(
    name: str,
    mm: float,
    solar: tuple[float, float, float],
    visible: tuple[float, float, float],
    inside: float = 0.837,
    outside: float = 0.837,
) -> Pane:
    return Pane(
        name=name, thickness_m=mm / 1000, solar_through=solar[0], solar_out=solar[1], solar_in=solar[2], visible_through=visible[0],
        visible_out=visible[1], visible_in=visible[2], emissivity_out=outside, emissivity_in=inside,
    )  # fmt: skip


PANES: dict[str, Pane] = {
    "clear": _pane("clear", 4, (0.83, 0.075, 0.075), (0.90, 0.08, 0.08)),
    "low-iron": _pane("low-iron", 4, (0.90, 0.08, 0.08), (0.91, 0.08, 0.08)),
    "lowe-in": _pane("low-emissive, coated inside", 4, (0.57, 0.24, 0.29), (0.87, 0.055, 0.05), inside=0.03),
    "lowe-out": _pane("low-emissive, coated outside", 4, (0.57, 0.29, 0.24), (0.87, 0.05, 0.055), outside=0.03),
    "solar-in": _pane("solar control, coated inside", 6, (0.29, 0.29, 0.40), (0.66, 0.11, 0.09), inside=0.02),
}
"""Generic panes from outside to inside; orders of size of common products, our own (unverified)."""
