"""Figures described once: a new one is one entry, and is told wherever figures are."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

import pytest

from eurythm.api import describe
from eurythm.assess import figures as table
from eurythm.assess.figures import FIGURES, Figure, by_zone, figure_by, flat
from eurythm.climate.standin import standin_year
from eurythm.exchange import bundle
from eurythm.explain import ranking, shares
from eurythm.explain.case import Case
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.simulate import simulate
from eurythm.study.runner import CaseResult
from tests.conftest import make_scheme, volume

NEW = Figure(
    "glass_share", "Glass in walls", "m²", ("totals", "window_m2"), 0, "windows in outside walls", compared=True, ranked=True,
    share_as="glass",
)  # fmt: skip
OF_ZONES = Figure(
    "zone_volume", "Air by zone", "m", ("air_volume_m3",), 1, "air of a zone by its floor", "zone", per_area=True, painted=True
)


def test_a_new_figure_is_one_entry(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    for module in (table, shares, describe):
        monkeypatch.setattr(module, "FIGURES", (*FIGURES, NEW, OF_ZONES))
    monkeypatch.setattr(ranking, "RANKED", (*ranking.RANKED, NEW))
    climate = standin_year("merrowhaven")
    small, large = (make_scheme(volumes=[volume()], skin={"glazing_ratio": {"south": ratio}}) for ratio in (0.2, 0.5))
    outcomes = [simulate(Place(), Library(), scheme, Factors(), climate) for scheme in (small, large)]
    figures = outcomes[0].as_dict() | {"remarks": [], "said": []}
    # a table of cases on the page, and as a file
    assert flat(figures)["glass_share"] == figures["totals"]["window_m2"] > 0
    written = list(csv.DictReader(io.StringIO(bundle.cases_csv([], [((), CaseResult(0, "done", figures, "", 0.0))]))))
    assert float(written[0]["glass_share"]) == pytest.approx(figures["totals"]["window_m2"])
    # shares of a difference
    found = shares.shares_of_difference(*(Case(Place(), Library(), scheme, Factors(), climate) for scheme in (small, large)))
    assert found.figures["glass"]["unit"] == "m²"
    assert sum(found.figures["glass"]["shares"].values()) == pytest.approx(NEW.of(outcomes[1]) - NEW.of(outcomes[0]))
    # the register's ranking
    assert ranking.figures_of(outcomes[0])["glass_share"] == NEW.of(outcomes[0])
    # what the page is made from
    describe.write(tmp_path)
    told = json.loads((tmp_path / "figures.json").read_text(encoding="utf-8"))
    assert [(f["id"], f["scope"], f["unit"], f["path"], f["painted"]) for f in told[-2:]] == [
        ("glass_share", "building", "m²", ["totals", "window_m2"], False),
        ("zone_volume", "zone", "m", ["air_volume_m3"], True),
    ]
    # of each zone by itself
    of_zones = OF_ZONES.each(outcomes[0])
    assert of_zones == {z["id"]: pytest.approx(z["air_volume_m3"] / z["floor_area_m2"]) for z in outcomes[0].zones}


def test_every_figure_is_one_of_an_outcome_and_says_how_it_is_got() -> None:
    judged = make_scheme(volumes=[volume()], use={"lights": {"floors": True}})
    outcome = simulate(Place(), Library(), judged, Factors(), standin_year("merrowhaven"))
    assert len({f.id for f in FIGURES}) == len({f.title for f in FIGURES}) == len(FIGURES)
    for figure in FIGURES:
        each = figure.each(outcome)
        assert each
        assert figure.how
        if figure.scope in ("building", "array"):
            assert figure.of(outcome) == figure.of(outcome.as_dict()) == each[""]
        if figure.scope == "zone":
            assert set(each) == {z["id"] for z in outcome.zones}
        assert not figure.hour or figure.hour_of(outcome.as_dict())
        assert not figure.needs or figure_by(figure.needs)
    assert figure_by("peak_heating_w").as_dict()["unit"] == "kW"


def test_a_zones_figure_can_be_that_of_one_zone_or_of_the_worst() -> None:
    hall, attic = (
        {"id": id, "conditioned": id == "hall", "floor_area_m2": 50.0, "too_warm_h": hours, "heating_demand_kwh": 1000.0}
        for id, hours in (("hall", 12), ("attic", 90))
    )
    asked = (
        "zone_too_warm_h@hall",
        "zone_too_warm_h@attic",
        "zone_too_warm_h@*",
        "zone_heating_demand_kwh@hall",
        "zone_too_warm_h@gone",
        "cost",
    )
    told = by_zone([hall, attic], asked)
    assert told == {asked[0]: 12.0, asked[1]: 90.0, asked[2]: 12.0, asked[3]: 20.0}  # an unheated attic is nobody's worst room
    assert flat({"by_zone": told}, asked[:2]) == {asked[0]: 12.0, asked[1]: 90.0}
    assert flat({"by_zone": told}, [asked[4]]) == {asked[4]: None}
    worst = figure_by(asked[2])
    assert (worst.title, worst.unit, worst.sense) == ("Hours too warm, worst zone", "h", "less")
    assert figure_by("zone_solar_kwh@*").title == "Sun through glass, highest zone"
    for wrong in ("cost@hall", "zone_too_warm_h@", "noise@hall"):
        with pytest.raises(KeyError):
            figure_by(wrong)
