"""The heat balance written plainly: every node of every element and both nodes of every zone in one dense matrix, solved
by numpy hour by hour. Slow, and made from the same prepared arrays as the kernel, so that the two can be compared.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from eurythm.thermal.kernel import BAND_K, GROUND, LOOKS_DOWN, OUTDOORS, RADIANT_H, UPRIGHT, ZONE
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
HOURS = 8760
SIGMA = 5.670374e-8


def _convection(side: int, surface: float, air: float) -> float:
    if side == UPRIGHT:
        return 2.5
    rising = min(max((surface - air) / BAND_K + 0.5, 0.0), 1.0)
    return 0.7 + 4.3 * (1 - rising if side == LOOKS_DOWN else rising)


class Dense:
    """The network of a case with its state; `step` goes one hour on and returns air temperatures and loads."""

    def __init__(self, arrays: Arrays) -> None:
        self.a = arrays.named
        self.nodes = [int(n) + 1 for n in self.a["last"]]
        self.first = np.concatenate([[0], np.cumsum(self.nodes)[:-1]]).astype(int)
        self.zones = len(self.a["air_capacity"])
        self.air_at = sum(self.nodes) + np.arange(self.zones)
        self.star_at = self.air_at + self.zones
        self.size = sum(self.nodes) + 2 * self.zones
        self.state = np.full(self.size, 20.0)
        for e, (at, n) in enumerate(zip(self.first, self.nodes, strict=True)):
            self.state[at : at + n] = self.a["start_c"][:n, e]
        self.conduction = self._conduction()

    def _conduction(self) -> Series:
        """What does not change: conduction and storage of all elements, per area."""
        matrix = np.zeros((self.size, self.size))
        for e, (at, n) in enumerate(zip(self.first, self.nodes, strict=True)):
            for i in range(n):
                matrix[at + i, at + i] += self.a["capacity"][i, e] / 3600.0
            for i in range(n - 1):
                g = -self.a["upper"][i, e]
                matrix[at + i, at + i] += g
                matrix[at + i + 1, at + i + 1] += g
                matrix[at + i, at + i + 1] -= g
                matrix[at + i + 1, at + i] -= g
        return matrix

    def assemble(self, hour: int) -> tuple[Series, Series]:
        """Return matrix and right-hand side of an hour, the zones floating."""
        a, old = self.a, self.state
        matrix, right = self.conduction.copy(), np.zeros(self.size)
        t_out, t_sky = a["outdoor_c"][hour], a["sky_c"][hour]
        to_air = 4 * SIGMA * (t_out + 273.15) ** 3
        for e, (at, n) in enumerate(zip(self.first, self.nodes, strict=True)):
            right[at : at + n] += a["capacity"][:n, e] / 3600.0 * old[at : at + n]
            inner, outer = at + n - 1, at
            zone, area, hr = int(a["zone_in"][e]), a["area"][e], a["emissivity"][e] * RADIANT_H
            hc = a["standard_in"][e] if a["standard"] else _convection(int(a["side_in"][e]), old[inner], old[self.air_at[zone]])
            right[inner] += a["share_in"][e] * a["short"] * a["solar"][zone, hour]
            self._couple(matrix, inner, zone, area, hc, hr)
            if a["kind"][e] == OUTDOORS:
                sun = a["sun_outside"][a["sun_row"][e], hour]
                if a["standard"]:
                    matrix[outer, outer] += 25.0
                    right[outer] += 25.0 * t_out + sun
                else:
                    wind, view = a["wind_h"][hour], a["emissivity"][e] * a["sky_view"][e]
                    rest = a["emissivity"][e] * (1 - a["sky_view"][e]) * to_air
                    matrix[outer, outer] += wind + rest + view * a["sky_h"][hour]
                    right[outer] += (wind + rest) * t_out + view * a["sky_h"][hour] * t_sky + sun
            elif a["kind"][e] == GROUND:
                matrix[outer, outer] += a["ground_h"][e]
                right[outer] += a["ground_h"][e] * a["ground_c"][hour]
            elif a["kind"][e] == ZONE:
                other = int(a["zone_out"][e])
                there = old[self.air_at[other]]
                far = a["standard_out"][e] if a["standard"] else _convection(int(a["side_out"][e]), old[outer], there)
                right[outer] += a["share_out"][e] * a["short"] * a["solar"][other, hour]
                self._couple(matrix, outer, other, area, far, hr)
        for z in range(self.zones):
            self._air(matrix, right, z, hour, t_out)
        return matrix, right

    def _couple(self, matrix: Series, node: int, zone: int, area: float, hc: float, hr: float) -> None:
        """A surface exchanges heat with its zone's air and radiant node."""
        for at, h in ((self.air_at[zone], hc), (self.star_at[zone], hr)):
            matrix[node, node] += h
            matrix[node, at] -= h
            matrix[at, at] += area * h
            matrix[at, node] -= area * h

    def _air(self, matrix: Series, right: Series, z: int, hour: int, t_out: float) -> None:
        a, at = self.a, self.air_at[z]
        air = self.state[at]
        need = min(max(a["bypass_c"][z, hour] + 0.5 - air, 0.0), 1.0)
        need = 1 - need if t_out > air else need
        flow = a["leak"][z, hour] + a["fresh"][z, hour] * (1 - a["recovery"][z] * need)
        matrix[at, at] += a["air_capacity"][z] / 3600.0 + flow
        pane = 0.5 * (1 - a["short"]) * a["solar"][z, hour]
        right[at] += a["air_capacity"][z] / 3600.0 * air + flow * t_out + a["convective"][z, hour] + pane
        right[self.star_at[z]] += a["radiant"][z, hour] + pane

    def step(self, hour: int) -> tuple[Series, Series]:
        """Go one hour on. Zones outside their setpoints are held there, and let go where the load has the wrong sign."""
        matrix, right = self.assemble(hour)
        low, high = self.a["heat_c"][:, hour], self.a["cool_c"][:, hour]
        held: dict[int, float] = {}
        for _ in range(40):
            changed, wanted = matrix.copy(), right.copy()
            for z, setpoint in held.items():
                changed[self.air_at[z]] = 0.0
                changed[self.air_at[z], self.air_at[z]] = 1.0
                wanted[self.air_at[z]] = setpoint
            x = np.linalg.solve(changed, wanted)
            load = matrix[self.air_at] @ x - right[self.air_at]
            air = x[self.air_at]
            now = {z: t for z, t in held.items() if (load[z] > 0) == (t == low[z])}
            now |= {z: low[z] for z in range(self.zones) if air[z] < low[z] - 1e-9}
            now |= {z: high[z] for z in range(self.zones) if air[z] > high[z] + 1e-9}
            if now == held:
                break
            held = now
        self.state = x
        return air, np.where([z in held for z in range(self.zones)], load, 0.0)


def dense_hours(arrays: Arrays, hours: int) -> tuple[Series, Series]:
    """Run the run-in and the first hours of the year at hourly steps; returns air °C and load W, (Z, hours)."""
    network = Dense(arrays)
    run_in = int(network.a["run_in_h"])
    for hour in range(HOURS - run_in, HOURS):
        network.step(hour)
    rows = [network.step(hour) for hour in range(hours)]
    return np.stack([r[0] for r in rows], axis=1), np.stack([r[1] for r in rows], axis=1)
