"""Project and bundle: what holds place, library, factors and schemes together."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator

from eurythm.model.costs import CostItem, Money
from eurythm.model.field import OWN, Described, choice, quantity, text
from eurythm.model.ids import Id
from eurythm.model.library import Library
from eurythm.model.part import Part, part_at
from eurythm.model.place import Place
from eurythm.model.remark import Stage
from eurythm.model.schedule import Schedule
from eurythm.model.scheme import Scheme

FACTOR = f"{OWN}, to be replaced by the project's own"


LEAST_FACTOR, MOST_FACTOR = -1.0, 5.0
"""Limits of prices and carbon factors, a kWh."""


def _price(value: float) -> Any:
    return quantity(value, "Price", "€/kWh", digits=3, ge=LEAST_FACTOR, le=MOST_FACTOR, usual=(0.03, 0.6), source=FACTOR)


def _carbon(value: float) -> Any:
    return quantity(value, "Carbon", "kg/kWh", digits=3, ge=LEAST_FACTOR, le=MOST_FACTOR, usual=(0.0, 0.9), source=FACTOR)


def _primary(total: float) -> Any:
    return quantity(total, "Primary energy", ge=0, le=10, usual=(0.2, 3), source=FACTOR, help="Per energy bought, all of it")


def _nonrenewable(value: float) -> Any:
    return quantity(value, "Primary energy, non-renewable", ge=0, le=10, usual=(0, 2.8), source=FACTOR, help="Per energy bought")


class CarrierFactors(Described):
    """What one energy carrier costs, emits and takes of primary energy; those of electricity."""

    price: float = _price(0.28)
    price_hours: Schedule | None = choice(
        None, "Price by the hour", help="In place of the one price, by days and rules: bands of the day and the season"
    )
    standing_charge: float = quantity(
        0.0, "Standing charge", "€/a", digits=0, ge=0, le=1e7, usual=(0, 5000), source="none unless given", help="Where any of it is bought"
    )
    demand_charge: float = quantity(
        0.0,
        "Demand charge",
        "€/kW",
        digits=2,
        ge=0,
        le=1000,
        usual=(0, 20),
        source="none unless given",
        help="For each month, on its highest hour",
    )
    growth: float = quantity(
        0.0,
        "Price grows a year",
        ge=-0.2,
        le=0.3,
        usual=(-0.02, 0.05),
        share=True,
        digits=3,
        source=FACTOR,
        help="Above inflation; counts in costs over years",
    )
    carbon: float = _carbon(0.25)
    carbon_hours: Schedule | None = choice(None, "Carbon by the hour", help="In place of the one factor, by days and rules")
    primary: float = _primary(2.1)
    primary_nonrenewable: float = _nonrenewable(1.5)

    @model_validator(mode="after")
    def _within(self) -> CarrierFactors:
        for name in ("price_hours", "carbon_hours"):
            hours: Schedule | None = getattr(self, name)
            if hours is not None and not (min(hours.values) >= LEAST_FACTOR and max(hours.values) <= MOST_FACTOR):
                raise ValueError(f"values by the hour lie between {LEAST_FACTOR:g} and {MOST_FACTOR:g}, as the one value does")
        return self


class GasFactors(CarrierFactors):
    """Those of gas."""

    price: float = _price(0.11)
    carbon: float = _carbon(0.20)
    primary: float = _primary(1.1)
    primary_nonrenewable: float = _nonrenewable(1.1)


class DistrictHeatFactors(CarrierFactors):
    """Those of district heat."""

    price: float = _price(0.12)
    carbon: float = _carbon(0.15)
    primary: float = _primary(1.0)
    primary_nonrenewable: float = _nonrenewable(0.6)


class DistrictColdFactors(CarrierFactors):
    """Those of district cold."""

    price: float = _price(0.10)
    carbon: float = _carbon(0.08)
    primary: float = _primary(0.7)
    primary_nonrenewable: float = _nonrenewable(0.4)


class BiomassFactors(CarrierFactors):
    """Those of biomass."""

    price: float = _price(0.08)
    carbon: float = _carbon(0.03)
    primary: float = _primary(1.2)
    primary_nonrenewable: float = _nonrenewable(0.2)


class Factors(Described):
    """Prices, emission factors and comfort limits: common to all schemes, so that comparisons are fair."""

    PART: ClassVar[Part] = Part("assessment", "none", "plant")

    electricity: CarrierFactors = CarrierFactors()
    gas: GasFactors = GasFactors()
    district_heat: DistrictHeatFactors = DistrictHeatFactors()
    district_cold: DistrictColdFactors = DistrictColdFactors()
    biomass: BiomassFactors = BiomassFactors()
    money: Money = Money()
    costs: Annotated[tuple[CostItem, ...], Field(max_length=200)] = ()
    export_price: float = quantity(0.08, "Price of export", "€/kWh", digits=3, ge=-1, le=5, usual=(0.0, 0.3), source=FACTOR)
    too_warm_c: float = quantity(
        27.0, "Too warm above", "°C", digits=1, ge=0, le=60, usual=(25, 28), source="EN 16798-1 category III, order of size (unverified)"
    )
    too_cold_c: float = quantity(
        19.0, "Too cold below", "°C", digits=1, ge=-20, le=40, usual=(18, 20), source="EN 16798-1 category III, order of size (unverified)"
    )


class Project(Described):
    """One building question at one place."""

    format: Literal["eurythm.project"] = "eurythm.project"
    version: Literal[1] = 1
    name: str = text(..., "Project", max_length=120)
    place: Place = Place()
    library: Library = Library()
    factors: Factors = Factors()
    schemes: Annotated[tuple[Scheme, ...], Field(min_length=1, max_length=50)]
    reference: Id

    def scheme(self, scheme_id: str) -> Scheme:
        """Return a scheme by its id. Raises KeyError where there is none."""
        for scheme in self.schemes:
            if scheme.id == scheme_id:
                return scheme
        raise KeyError(scheme_id)


class BundleClimate(Described):
    """The climate year of a bundle: a stand-in by name, a file beside the bundle, or the EPW's own text."""

    stand_in: str | None = None
    file: str | None = None
    epw: str | None = Field(None, max_length=8_000_000)


def stage_at(path: str) -> Stage | None:
    """Return the stage at which what a path names is changed; None where it names no field.

    Paths are those of a project (``schemes/quay/skin/head_m``, ``place/north_deg``) or of a bundle (``scheme/skin/head_m``).
    """
    head, _, rest = path.partition("/")
    if head == "schemes":
        head, _, rest = "scheme", "", rest.partition("/")[2]
    document = {"scheme": Scheme, "place": Place, "library": Library, "factors": Factors}.get(head)
    try:
        return part_at(document, rest).stage if document is not None and rest else None
    except KeyError:
        return None


class Bundle(Described):
    """One scheme with everything that it needs, as one file."""

    format: Literal["eurythm.bundle"] = "eurythm.bundle"
    version: Literal[1] = 1
    place: Place = Place()
    library: Library = Library()
    factors: Factors = Factors()
    scheme: Scheme
    climate: BundleClimate | None = None
