"""Project and bundle: what holds place, library, factors and schemes together."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from eurythm.model.field import OWN, Described, quantity, text
from eurythm.model.ids import Id
from eurythm.model.library import Library
from eurythm.model.part import Part, part_at
from eurythm.model.place import Place
from eurythm.model.remark import Stage
from eurythm.model.scheme import Scheme

FACTOR = f"{OWN}, to be replaced by the project's own"


def _price(value: float) -> Any:
    return quantity(value, "Price", "€/kWh", digits=3, ge=-1, le=5, usual=(0.03, 0.6), source=FACTOR)


def _carbon(value: float) -> Any:
    return quantity(value, "Carbon", "kg/kWh", digits=3, ge=-1, le=5, usual=(0.0, 0.9), source=FACTOR)


class CarrierFactors(Described):
    """Price and carbon of one energy carrier; those of electricity."""

    price: float = _price(0.28)
    carbon: float = _carbon(0.25)


class GasFactors(CarrierFactors):
    """Price and carbon of gas."""

    price: float = _price(0.11)
    carbon: float = _carbon(0.20)


class DistrictHeatFactors(CarrierFactors):
    """Price and carbon of district heat."""

    price: float = _price(0.12)
    carbon: float = _carbon(0.15)


class DistrictColdFactors(CarrierFactors):
    """Price and carbon of district cold."""

    price: float = _price(0.10)
    carbon: float = _carbon(0.08)


class BiomassFactors(CarrierFactors):
    """Price and carbon of biomass."""

    price: float = _price(0.08)
    carbon: float = _carbon(0.03)


class Factors(Described):
    """Prices, emission factors and comfort limits: common to all schemes, so that comparisons are fair."""

    PART: ClassVar[Part] = Part("assessment", "none", "plant")

    electricity: CarrierFactors = CarrierFactors()
    gas: GasFactors = GasFactors()
    district_heat: DistrictHeatFactors = DistrictHeatFactors()
    district_cold: DistrictColdFactors = DistrictColdFactors()
    biomass: BiomassFactors = BiomassFactors()
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


class LeverSpec(Described):
    """A lever and the steps that it takes; what a step may be depends on the kind."""

    kind: Annotated[str, Field(min_length=1, max_length=80)]
    path: str | None = Field(None, max_length=200, description="For kind 'field': path of the field in the scheme")
    steps: Annotated[tuple[Any, ...], Field(min_length=1, max_length=200)]


class StudySpec(Described):
    """A question asked of one scheme (or of several, when the scheme itself is a lever)."""

    format: Literal["eurythm.study"] = "eurythm.study"
    version: Literal[1] = 1
    name: str = text("Study", "Study", max_length=120)
    scheme: Id | None = None
    levers: Annotated[tuple[LeverSpec, ...], Field(min_length=1, max_length=20)]


class StudyFile(Described):
    """A study as a file: the question and the bundles that it is asked of (by path beside the file)."""

    format: Literal["eurythm.study-file"] = "eurythm.study-file"
    version: Literal[1] = 1
    study: StudySpec
    bundles: Annotated[tuple[str, ...], Field(min_length=1, max_length=50)]
