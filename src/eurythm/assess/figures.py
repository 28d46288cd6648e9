"""Figures of a year, each described once: of the whole building, of its zones, carriers and arrays.

Columns of cases, their CSV, ranges and charts of the page, the readout, rows and words of Findings, colours of zones, shares
of a difference and the register's ranking read this table: a new figure is one entry.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal, get_args

from eurythm.assess.outcome import Outcome, Summary
from eurythm.model.plant import Carrier
from eurythm.plant.delivered import END_USES
from eurythm.plant.system import EndUse

OF_ZONE = "@"
"""Between a zone's figure and the zone, in the id of an outcome."""
WORST = "*"
"""In place of a zone: the one where a figure is highest, of those that are conditioned."""
Scope = Literal["building", "use", "zone", "carrier", "array"]
Sense = Literal["", "less", "more"]


@dataclass(frozen=True)
class Figure:
    """One figure.

    Attributes
    ----------
    id, title, unit : its name in files and in words, and its unit there
    path : where it stands in an outcome; of a zone's figure in what is told of the zone; of a carrier's or an array's without the
        last step, which is the thing that it is asked of
    digits : decimals that people read
    how : how it is got
    scope : what it is a figure of, a use being the building's energy for one end; arrays are one as yet, the panels on the roof, and stand among the building's
    sense : whether less or more of it is better; "" where that cannot be said
    shown_unit, per : how people read it: `per` of its unit are one of the unit that is shown
    per_area : a zone's figure is shown for each m² of its floor
    hour : path of the hour on which it falls; empty for none
    needs : the figure without which it says nothing new
    compared, first, ranked : whether cases are compared by it, whether it stands among the first of these, whether the register is ranked by it
    share_as : its name among the figures whose difference is shared out; "" where it is not
    readout : whether the readout shows it, always or where there is room
    findings : whether it is a row of Findings
    painted : whether zones are coloured by it
    absent : what it is where it does not stand in an outcome, such as of a carrier that is not bought; None where that is an error
    """

    id: str
    title: str
    unit: str
    path: tuple[str, ...]
    digits: int
    how: str
    scope: Scope = "building"
    sense: Sense = "less"
    shown_unit: str = ""
    per: float = 1.0
    per_area: bool = False
    hour: tuple[str, ...] = ()
    needs: str = ""
    compared: bool = False
    first: bool = False
    ranked: bool = False
    share_as: str = ""
    readout: Literal["", "always", "wide"] = ""
    findings: bool = False
    painted: bool = False
    absent: float | None = None

    def of(self, told: Summary | Mapping[str, Any]) -> float:
        """Return the figure of an outcome, of what a table of cases keeps of one, or, of a zone's figure, of what is told of a zone.

        Raises
        ------
        KeyError
            Where it does not stand there, or was not judged.
        """
        try:
            found = _at(told, self.path)
        except KeyError:
            if self.absent is None:
                raise
            found = self.absent
        if found is None:
            raise KeyError(self.id)
        value = float(found)
        if not self.per_area:
            return value
        area = float(_at(told, ("floor_area_m2",)))
        return value / area if area > 0 else 0.0

    def known(self, told: Summary | Mapping[str, Any]) -> float | None:
        """Return the figure, None where it does not stand there or was not judged."""
        try:
            return self.of(told)
        except KeyError:
            return None

    def at(self, zone: str, name: str = "") -> Figure:
        """Return a zone's figure as that of one zone of a case, called by its name, or of the one where it is highest (`WORST`)."""
        where = (name or zone) if zone != WORST else "worst zone" if self.sense else "highest zone"
        id, title = f"{self.id}{OF_ZONE}{zone}", f"{self.title.removesuffix(' by zone')}, {where}"
        return replace(self, id=id, title=title, path=("by_zone", id), per_area=False, painted=False)

    def each(self, outcome: Outcome) -> dict[str, float]:
        """Return the figure of each zone, or of each carrier that is bought, by its id; of the building and its array by ""."""
        if self.scope == "zone":
            return {zone["id"]: self.of(zone) for zone in outcome.zones}
        if self.scope == "carrier":
            return {name: float(value) for name, value in _at(outcome, self.path).items()}
        return {"": self.of(outcome)}

    def hour_of(self, outcome: Summary | Mapping[str, Any]) -> str | None:
        """Return the hour on which it falls, None where it is nothing."""
        found: str | None = _at(outcome, self.hour)
        return found

    def as_dict(self) -> dict[str, Any]:
        """Return its description as plain data for the page."""
        return {k: v for k, v in asdict(self).items() if k not in ("shown_unit", "share_as", "absent")} | {
            "unit": self.shown_unit or self.unit
        }


def _at(told: Any, path: tuple[str, ...]) -> Any:
    for step in path:
        told = told[step] if isinstance(told, (dict, Mapping)) else getattr(told, step)  # a dict is known at once
    return told


def _totals(id: str, title: str, unit: str, digits: int, how: str, **more: Any) -> Figure:
    return Figure(id, title, unit, ("totals", id), digits, how, **more)


def _share(id: str, title: str, how: str) -> Figure:
    return _totals(
        id, title, "", 0, f"{how}; where floors are judged", sense="more", shown_unit="%", per=0.01, needs=id, compared=True, findings=True
    )


def _covered(id: str, title: str, how: str) -> Figure:
    return _totals(
        id, title, "", 0, how, sense="more", shown_unit="%", per=0.01, needs="generation_used_kwh", compared=True, findings=True,
        readout="wide" if id == "covered_power_share" else "",
    )  # fmt: skip


def _peak(kind: str, title: str, **more: Any) -> Figure:
    return Figure(
        f"peak_{kind}_w", title, "W", ("peaks", f"{kind}_w"), 1, "highest hour of all zones together", shown_unit="kW", per=1000.0,
        hour=("peaks", f"{kind}_at"), share_as=f"peak_{kind}", readout="always", findings=True, compared=True, **more,
    )  # fmt: skip


def _use(use: EndUse) -> Figure:
    title = f"Energy for {use.replace('_', ' ')}"
    return Figure(f"energy_{use}_kwh", title, "kWh", ("totals", "energy_kwh", use), 0, "delivered in the year", "use")


def _bought(carrier: Carrier) -> Figure:
    title = f"Bought {carrier.replace('_', ' ')}"
    return Figure(f"bought_{carrier}_kwh", title, "kWh", ("totals", "carrier_kwh", carrier), 0, "bought after own use", "use", absent=0.0)


def _zone(id: str, title: str, unit: str, digits: int, how: str, *path: str, **more: Any) -> Figure:
    return Figure(f"zone_{id}", title, unit, path or (id,), digits, how, "zone", painted=True, **more)


FIGURES: tuple[Figure, ...] = (
    _totals("eui_kwh_per_m2", "Energy", "kWh/m²", 1, "all end uses per conditioned floor area, before own generation", compared=True, first=True, ranked=True, share_as="energy", findings=True),
    _totals("eui_net_kwh_per_m2", "Net energy", "kWh/m²", 1, "the same less the generation that is used at once", compared=True, share_as="net_energy", findings=True, needs="generation_used_kwh"),
    _totals("lighting_kwh_per_m2", "Lighting", "kWh/m²", 1, "energy of lights per conditioned floor area", compared=True, needs="lighting_saved_kwh_per_m2"),
    _totals("lighting_saved_kwh_per_m2", "Lighting saved by daylight", "kWh/m²", 1, "what lights that follow daylight leave out, per conditioned floor area", sense="more", compared=True, findings=True, needs="lighting_saved_kwh_per_m2"),
    _share("daylit_share", "Floor with enough daylight", "share of all floors with enough daylight in half of the occupied hours"),
    _share("useful_daylight_share", "Hours of useful daylight", "mean over all floors of the occupied hours with 100 to 3,000 lx"),
    _totals("conditioned_floor_area_m2", "Conditioned floor", "m²", 0, "between the inner faces of conditioned zones' walls", sense=""),
    _totals("heating_demand_kwh", "Heating demand", "kWh", 0, "sensible heat delivered to zones"),
    _totals("cooling_demand_kwh", "Cooling demand", "kWh", 0, "sensible heat taken from zones"),
    _totals("carbon_kg", "Carbon, all", "kg", 0, "what is bought of each carrier by its factor"),
    _totals("cost", "Running cost, all", "€", 0, "what is bought of each carrier by its price, less what is sold"),
    _peak("heating", "Peak heating"),
    _peak("cooling", "Peak cooling", first=True),
    _totals("cost_per_m2", "Running cost", "€/m²", 2, "running cost per conditioned floor area", compared=True, first=True, ranked=True, share_as="cost", readout="wide", findings=True),
    _totals("carbon_kg_per_m2", "Carbon", "kg/m²", 1, "carbon of operation per conditioned floor area", compared=True, ranked=True, share_as="carbon", readout="always", findings=True),
    _totals("primary_kwh_per_m2", "Primary energy", "kWh/m²", 1, "what is bought of each carrier by its factor of total primary energy, per conditioned floor area", compared=True, findings=True),
    _totals("primary_nonrenewable_kwh_per_m2", "Primary energy, non-renewable", "kWh/m²", 1, "the same by the non-renewable factor", compared=True, findings=True),
    _totals("investment", "Investment", "€", 0, "what the enclosure, glass, shades, plant and panels cost, by the cost table", compared=True),
    _totals("global_cost_per_m2", "Global cost", "€/m²", 0, "investment, replacements, upkeep and energy less what is left, over all years at their present value, per conditioned floor area", compared=True, findings=True),
    _totals("embodied_kg", "Embodied carbon", "kg", 0, "carbon of products (A1 to A3)"),
    _totals("whole_life_kg_per_m2_a", "Whole-life carbon", "kg/m²", 1, "products, replacements and operation, per conditioned floor area and year", compared=True, findings=True),
    _covered("covered_power_share", "Electricity covered", "share of the electricity used in the year that own generation covers, at once or by way of the battery"),
    _covered("covered_share", "Energy covered", "the same as a share of all energy used, of every carrier"),
    _covered("own_use_share", "Own generation used here", "share of own generation that is not sold, what the battery loses among it"),
    Figure("peak_kwp", "Peak of arrays", "kWp", ("totals", "peak_kwp"), 1, "of all photovoltaic arrays, at 1,000 W/m² and 25 °C", sense=""),
    Figure("solar_heat_kwh", "Sun in hot water", "kWh", ("totals", "solar_heat_kwh"), 0, "heat of collectors in the water drawn", sense="more", needs="solar_heat_kwh"),
    Figure("too_warm_h", "Too warm", "h", ("comfort", "too_warm_h"), 0, "occupied hours above the limit, by floor area", compared=True, readout="wide", findings=True),
    Figure("too_cold_h", "Too cold", "h", ("comfort", "too_cold_h"), 0, "occupied hours below the limit, by floor area", findings=True),
    *(_use(use) for use in END_USES),
    *(_bought(carrier) for carrier in get_args(Carrier)),
    Figure("generation_used_kwh", "Own generation used", "kWh", ("totals", "generation_kwh", "used"), 0, "what panels make while it is needed", "array", "more"),
    Figure("generation_exported_kwh", "Own generation sold", "kWh", ("totals", "generation_kwh", "exported"), 0, "what panels make while it is not needed", "array", "more"),
    Figure("generation_lost_kwh", "Own generation lost", "kWh", ("totals", "generation_kwh", "lost"), 0, "what the battery loses of it", "array"),
    Figure("module_area_m2", "Modules", "m²", ("totals", "module_area_m2"), 0, "area of the panels", "array", ""),
    Figure("carrier_kwh", "Bought", "kWh", ("totals", "carrier_kwh"), 0, "energy that is bought after own use", "carrier"),
    Figure("carrier_peak_kw", "Highest hour", "kW", ("totals", "carrier_peak_kw"), 1, "highest hourly mean that is bought", "carrier"),
    Figure("carrier_cost", "Cost of the carrier", "€", ("totals", "carrier_cost"), 0, "energy by its prices, standing and demand charge", "carrier"),
    _zone("heating_demand_kwh", "Heating demand by zone", "kWh/m²", 1, "sensible heat delivered to the zone, by its floor", "heating_demand_kwh", per_area=True),
    _zone("cooling_demand_kwh", "Cooling demand by zone", "kWh/m²", 1, "sensible heat taken from the zone, by its floor", "cooling_demand_kwh", per_area=True),
    _zone("peak_heating_w", "Peak heating by zone", "W/m²", 0, "the zone's own highest hour, by its floor", "peak_heating_w", per_area=True),
    _zone("peak_cooling_w", "Peak cooling by zone", "W/m²", 0, "the zone's own highest hour, by its floor", "peak_cooling_w", per_area=True),
    _zone("solar_kwh", "Sun through glass by zone", "kWh/m²", 1, "what enters the zone through its windows, by its floor", "solar_kwh", per_area=True, sense=""),
    _zone("mean_air_c", "Mean temperature by zone", "°C", 1, "mean of the air over the year", "air_c", "mean", sense=""),
    _zone("too_warm_h", "Hours too warm by zone", "h", 0, "occupied hours above the limit", "too_warm_h"),
    _zone("too_cold_h", "Hours too cold by zone", "h", 0, "occupied hours below the limit", "too_cold_h"),
)  # fmt: skip


OF_CASES: tuple[Scope, ...] = ("building", "use", "array")
"""Scopes of the figures that every case of a study has."""


def figures_of(*scopes: Scope) -> tuple[Figure, ...]:
    """Return the figures of some scopes, in their order."""
    return tuple(f for f in FIGURES if f.scope in scopes)


def figure_by(id: str, zones: Mapping[str, str] | None = None) -> Figure:
    """Return a figure by its id, or that of one zone (``zone_too_warm_h@hall``), called by its name among `zones`. Raises KeyError."""
    whole, at, zone = id.partition(OF_ZONE)
    figure = _known()[whole]
    if not at:
        return figure
    if figure.scope != "zone" or not zone:
        raise KeyError(id)
    return figure.at(zone, (zones or {}).get(zone, ""))


def _known() -> dict[str, Figure]:
    return {f.id: f for f in FIGURES}


def by_zone(zones: Sequence[Mapping[str, Any]], ids: Iterable[str]) -> dict[str, float]:
    """Return figures of single zones by their ids, of those zones that are told of; other figures are passed over."""
    found, known = {}, _known()
    for id in ids:
        whole, _, zone = id.partition(OF_ZONE)
        values = [known[whole].of(told) for told in zones if zone == told["id"] or (zone == WORST and told["conditioned"])] if zone else []
        if values:
            found[id] = max(values)
    return found


def flat(told: Summary | Mapping[str, Any] | None, ids: Iterable[str] = ()) -> dict[str, float | None]:
    """Return the figures that a case has, by their ids: those of every case, or those that are named; nothing of a case that failed."""
    if told is None:
        return {}
    known = _known()
    wanted = [known.get(id) or figure_by(id) for id in ids] or figures_of(*OF_CASES)
    return {f.id: f.known(told) for f in wanted}
