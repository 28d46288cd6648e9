"""The heat balance written plainly: every node of every element and both nodes of every zone in one dense matrix, solved
by numpy hour by hour. Slow, and made from the same prepared arrays as the kernel, so that the two can be compared.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from eurythm.thermal.chains import factored
from eurythm.thermal.elements import BAND_K, FILM_NEAR, FILM_RAMP, GROUND, LOOKS_DOWN, OUTDOORS, UPRIGHT, ZONE
from eurythm.thermal.kernel import MOST_FILMS
from eurythm.thermal.prepare import Arrays

Series = NDArray[np.float64]
HOURS = 8760
SIGMA = 5.670374e-8


def _convection(side: int, surface: float, air: float) -> float:
    if side == UPRIGHT:
        return 2.5
    rising = min(max((surface - air) / BAND_K + 0.5, 0.0), 1.0)
    return 0.7 + 4.3 * (1 - rising if side == LOOKS_DOWN else rising)


def _corrected(used: float, wanted: float) -> float:
    off = wanted - used
    return used + off * min(max((abs(off) - FILM_NEAR) / FILM_RAMP, 0.0), 1.0)


class Dense:
    """The network of a case with its state; `step` goes one hour on and returns air temperatures and loads.

    Windows are opened and plants limited by bisection and by trial, not by the kernel's closed forms.
    """

    def __init__(self, arrays: Arrays) -> None:
        self.case, self.a, self.zone, self.series, self.weather = arrays, arrays.element, arrays.zone, arrays.series, arrays.weather
        chains = [factored(s.layers, 3600.0, arrays.refine) for s in arrays.elements]
        self.capacity = [c[0] for c in chains]
        self.between = [-c[3] for c in chains]
        self.nodes = [len(c) for c in self.capacity]
        self.first = np.concatenate([[0], np.cumsum(self.nodes)[:-1]]).astype(int)
        self.zones = len(arrays.zone_ids)
        self.air_at = sum(self.nodes) + np.arange(self.zones)
        self.star_at = self.air_at + self.zones
        self.size = sum(self.nodes) + 2 * self.zones
        self.state = np.full(self.size, 20.0)
        for at, n, start in zip(self.first, self.nodes, arrays.start_c, strict=True):
            self.state[at : at + n] = start
        self.shut = np.zeros(self.zones)
        self.conduction = self._conduction()
        self.films = np.zeros((2, len(self.nodes)))

    def _conduction(self) -> Series:
        """What does not change: conduction and storage of all elements, per area."""
        matrix = np.zeros((self.size, self.size))
        for e, (at, n) in enumerate(zip(self.first, self.nodes, strict=True)):
            for i in range(n):
                matrix[at + i, at + i] += self.capacity[e][i] / 3600.0
            for i in range(n - 1):
                g = self.between[e][i]
                matrix[at + i, at + i] += g
                matrix[at + i + 1, at + i + 1] += g
                matrix[at + i, at + i + 1] -= g
                matrix[at + i + 1, at + i] -= g
        return matrix

    def wanted_films(self, state: Series) -> Series:
        """Convective coefficients inside and outside that some temperatures ask for, (2, E) W/m²K."""
        a, found = self.a, np.zeros((2, len(self.nodes)))
        for e, (at, n) in enumerate(zip(self.first, self.nodes, strict=True)):
            inner = state[self.air_at[int(a["zone_in"][e])]]
            found[0, e] = a["standard_in"][e] if self.case.standard else _convection(int(a["side_in"][e]), state[at + n - 1], inner)
            if a["kind"][e] == ZONE:
                outer = state[self.air_at[int(a["zone_out"][e])]]
                found[1, e] = a["standard_out"][e] if self.case.standard else _convection(int(a["side_out"][e]), state[at], outer)
        return found

    def assemble(self, hour: int, films: Series | None = None) -> tuple[Series, Series]:
        """Return matrix and right-hand side of an hour, the zones floating and their windows shut."""
        a, old, w, short = self.a, self.state, self.weather, self.zone["short"]
        films = self.wanted_films(old) if films is None else films
        matrix, right = self.conduction.copy(), np.zeros(self.size)
        t_out, t_sky = w["outdoor_c"][hour], w["sky_c"][hour]
        to_air = 4 * SIGMA * (t_out + 273.15) ** 3
        for e, (at, n) in enumerate(zip(self.first, self.nodes, strict=True)):
            right[at : at + n] += self.capacity[e] / 3600.0 * old[at : at + n]
            inner, outer = at + n - 1, at
            zone, area = int(a["zone_in"][e]), a["area"][e]
            right[inner] += a["share_in"][e] * short[zone] * self.case.solar[zone, hour]
            self._couple(matrix, inner, zone, area, films[0, e], a["radiant_in"][e])
            matrix[outer, outer] += a["fixed_h"][e]
            right[outer] += a["fixed_e"][e]
            if a["kind"][e] == OUTDOORS:
                sun = self.case.sun_outside[a["sun_row"][e]][hour]
                if self.case.standard:
                    matrix[outer, outer] += 25.0
                    right[outer] += 25.0 * t_out + sun
                else:
                    wind, view = w["wind_h"][hour], a["emissivity"][e] * a["sky_view"][e]
                    rest = a["emissivity"][e] * (1 - a["sky_view"][e]) * to_air
                    matrix[outer, outer] += wind + rest + view * w["sky_h"][hour]
                    right[outer] += (wind + rest) * t_out + view * w["sky_h"][hour] * t_sky + sun
            elif a["kind"][e] == GROUND:
                matrix[outer, outer] += a["ground_h"][e]
                right[outer] += a["ground_swing"][e] * self.case.ground_k[hour]
            elif a["kind"][e] == ZONE:
                other = int(a["zone_out"][e])
                right[outer] += a["share_out"][e] * short[other] * self.case.solar[other, hour]
                self._couple(matrix, outer, other, area, films[1, e], a["radiant_out"][e])
        for z in range(self.zones):
            self._air(matrix, right, z, hour, t_out)
        for one, two, flow, door in self.case.paths:
            i, j = self.air_at[one], self.air_at[two]
            exchange = np.sqrt(flow + door * abs(old[i] - old[j]))
            for p, q in ((i, j), (j, i)):
                matrix[p, p] += exchange
                matrix[p, q] -= exchange
        return matrix, right

    def _couple(self, matrix: Series, node: int, zone: int, area: float, hc: float, hr: float) -> None:
        """A surface exchanges heat with its zone's air and radiant node."""
        for at, h in ((self.air_at[zone], hc), (self.star_at[zone], hr)):
            matrix[node, node] += h
            matrix[node, at] -= h
            matrix[at, at] += area * h
            matrix[at, node] -= area * h

    def _air(self, matrix: Series, right: Series, z: int, hour: int, t_out: float) -> None:
        given, series, at = self.zone, self.series, self.air_at[z]
        air, gusts = self.state[at], self.weather["wind_squared"][hour]
        need = min(max(series["bypass"][z, hour] + 0.5 - air, 0.0), 1.0)
        need = 1 - need if t_out > air else need
        more = min(max(air - series["cool"][z, hour] + 1.5, 0.0), 1.0) * min(max((air - t_out) / 2, 0.0), 1.0)
        supply = series["fresh"][z, hour] * (1 + (given["economy"][z] - 1) * more)
        cracks = np.sqrt(given["leak_wind"][z] * gusts + given["leak_stack"][z] * abs(air - t_out))
        flow = series["leak"][z, hour] + cracks + supply * (1 - given["recovery"][z] * need) + given["bridge"][z]
        matrix[at, at] += given["capacity"][z] / 3600.0 + flow
        pane = 0.5 * (1 - given["short"][z]) * self.case.solar[z, hour]
        right[at] += given["capacity"][z] / 3600.0 * air + flow * t_out + series["convective"][z, hour] + pane + supply * given["fan_k"][z]
        right[self.star_at[z]] += series["radiant"][z, hour] + pane

    def widest(self, hour: int) -> Series:
        """Flow through all windows that may open, W/K, were none shut for cooling."""
        given, gusts, apart = self.zone, self.weather["wind_squared"][hour], self.state[self.air_at] - self.weather["outdoor_c"][hour]
        flow = np.sqrt(np.maximum(given["open_wind"] * gusts, given["open_stack"] * np.abs(apart)))
        out: Series = flow * np.clip(apart, 0, 1)
        return out

    def step(self, hour: int) -> tuple[Series, Series]:
        """Go one hour on: with the films of the last hour, then with those that the new temperatures ask for."""
        films = self.wanted_films(self.state)
        for _ in range(MOST_FILMS):
            state, load, shut = self.solve(hour, films)
            new = np.vectorize(_corrected)(films, self.wanted_films(state))
            if np.array_equal(new, films):
                break
            films = new
        self.state, self.shut = state, shut
        return state[self.air_at], load

    def solve(self, hour: int, films: Series) -> tuple[Series, Series, Series]:
        """The hour with some films: windows first, then the plants, each as far as its zone needs; state, loads, how far windows stay shut."""
        matrix, right = self.assemble(hour, films)
        n = self.size - 2 * self.zones
        answers = np.linalg.solve(matrix[:n, :n], np.column_stack([right[:n], matrix[:n, n:]]))
        rooms = Rooms(matrix[n:, n:] - matrix[n:, :n] @ answers[:, 1:], right[n:] - matrix[n:, :n] @ answers[:, 0], self.zone["by_air"])
        rooms.t_out = float(self.weather["outdoor_c"][hour])
        widest = self.widest(hour)
        most = widest * (1 - self.shut * (1 - self.zone["mixed"]))
        low, high, ajar = (self.series[name][:, hour] for name in ("heat", "cool", "open_c"))
        opened, load = np.zeros(self.zones), np.zeros(self.zones)
        for _ in range(400):
            before = np.concatenate([opened, load])
            for z in range(self.zones):
                opened[z], load[z] = rooms.alone(z, opened, load, most[z], ajar[z])
                idle, per_watt = rooms.felt(z, opened, load, load_z=0.0), 0.0
                per_watt = rooms.felt(z, opened, load, load_z=1.0) - idle
                wanted = (min(max(idle, low[z]), high[z]) - idle) / per_watt
                load[z] = min(max(wanted, -self.zone["cool_most"][z]), self.zone["heat_most"][z])
            now = np.concatenate([opened, load])
            if np.abs(now - before).max() < 1e-10 * max(float(np.abs(now).max()), 10.0):
                break
        x = rooms.solve(opened, load)
        shut = np.array(
            [min(max(rooms.with_others_still(z, x, widest[z]) - rooms.air_at(z, x, high[z]), 0.0), 1.0) for z in range(self.zones)]
        )
        return np.concatenate([answers[:, 0] - answers[:, 1:] @ x, x]), load, shut


class Rooms:
    """Air and star of all zones in one hour, everything else eliminated: [airs, stars]."""

    t_out = 0.0

    def __init__(self, matrix: Series, right: Series, by_air: Series) -> None:
        self.matrix, self.right, self.by_air = matrix, right, by_air
        self.zones = len(by_air)

    def solve(self, opened: Series, load: Series) -> Series:
        matrix, right, at = self.matrix.copy(), self.right.copy(), np.arange(self.zones)
        matrix[at, at] += opened
        right[at] += opened * self.t_out + load
        out: Series = np.linalg.solve(matrix, right)
        return out

    def felt(self, z: int, opened: Series, load: Series, load_z: float) -> float:
        """What the setpoints of a zone hold for, with its load changed."""
        load = load.copy()
        load[z] = load_z
        x = self.solve(opened, load)
        return float(self.by_air[z] * x[z] + (1 - self.by_air[z]) * x[self.zones + z])

    def alone(self, z: int, opened: Series, load: Series, most: float, ajar: float) -> tuple[float, float]:
        """How far the windows of a zone open that is neither heated nor cooled."""
        if most <= 0:
            return 0.0, 0.0
        opened, load = opened.copy(), load.copy()
        opened[z] = load[z] = 0.0
        shut, answer = self.solve(opened, load), self.answer(z, opened)

        def felt(flow: float) -> float:
            """As `felt`, with a flow through the windows of this zone, which answers to it in proportion."""
            air = (shut[z] + flow * answer[z] * self.t_out) / (1 + flow * answer[z])
            star = shut[self.zones + z] + answer[self.zones + z] * flow * (self.t_out - air)
            return float(self.by_air[z] * air + (1 - self.by_air[z]) * star)

        if felt(0.0) <= ajar:
            return 0.0, 0.0
        if felt(most) >= ajar:
            return most, 0.0
        least, flow = 0.0, most
        for _ in range(80):
            middle = 0.5 * (least + flow)
            least, flow = (middle, flow) if felt(middle) > ajar else (least, middle)
        return flow, 0.0

    def answer(self, z: int, opened: Series) -> Series:
        """How far all nodes warm up for each watt given to the air of a zone."""
        matrix, one = self.matrix.copy(), np.zeros(2 * self.zones)
        at = np.arange(self.zones)
        matrix[at, at] += opened
        one[z] = 1.0
        out: Series = np.linalg.solve(matrix, one)
        return out

    def _own(self, z: int, x: Series) -> tuple[Series, Series]:
        """A zone's two equations with all other zones as they are."""
        mine = [z, self.zones + z]
        others = [i for i in range(2 * self.zones) if i not in mine]
        return self.matrix[np.ix_(mine, mine)], self.right[mine] - self.matrix[np.ix_(mine, others)] @ x[others]

    def with_others_still(self, z: int, x: Series, widest: float) -> float:
        """Air temperature with all windows open and no plant, the other zones as they are."""
        matrix, right = self._own(z, x)
        return float(np.linalg.solve(matrix + np.diag([widest, 0.0]), right + [widest * self.t_out, 0.0])[0])

    def air_at(self, z: int, x: Series, felt_c: float) -> float:
        """Air temperature at which a setpoint is felt, the other zones as they are."""
        matrix, right = self._own(z, x)
        by_air = self.by_air[z]
        # star = (right1 - m10 air) / m11
        offset, slope = right[1] / matrix[1, 1], -matrix[1, 0] / matrix[1, 1]
        return float((felt_c - (1 - by_air) * offset) / (by_air + (1 - by_air) * slope))


def dense_hours(arrays: Arrays, hours: int) -> tuple[Series, Series]:
    """Run the run-in and the first hours of the year at hourly steps; returns air °C and load W, (Z, hours)."""
    network = Dense(arrays)
    run_in = arrays.run_in_h
    for hour in range(HOURS - run_in, HOURS):
        network.step(hour)
    rows = [network.step(hour) for hour in range(hours)]
    return np.stack([r[0] for r in rows], axis=1), np.stack([r[1] for r in rows], axis=1)
