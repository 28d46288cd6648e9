"""Differences between cases against the finest setting of our own engine: many points, places, nodes and steps."""

from __future__ import annotations

from functools import partial

import pytest

from eurythm import simulate as pipeline
from eurythm import steps
from eurythm.climate.standin import standin_year
from eurythm.memo import Memo
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.scheme import Scheme
from eurythm.sun import bounce, samples
from tests.conftest import make_scheme, volume

SIDES = ("north", "east", "south", "west")


def case(turn: float = 0.0, use: dict | None = None, **skin: object) -> Scheme:
    glass = {"glazing_ratio": dict.fromkeys(SIDES, 0.3)}
    return make_scheme(volumes=[volume(form={"length": 12, "depth": 8})], turn_deg=turn, skin={**glass, **skin}, use=use or {})


CASES = {
    "turned": case(turn=90),
    "glass": case(glazing_ratio=dict.fromkeys(SIDES, 0.5)),
    "insulation": case(wall_insulation_m=0.35, roof_insulation_m=0.4),
    "glazing": case(glazing="double-solar"),
    "overhang": case(overhang_depth_m=dict.fromkeys(SIDES, 0.5)),
    "fins": case(fin_depth_m=dict.fromkeys(SIDES, 1.0)),
    "leaks": case(use={"infiltration_ach": 0.5}),
}


def demands(monkeypatch: pytest.MonkeyPatch, substeps: int) -> dict[str, tuple[float, float]]:
    """Heating and cooling of the base and all cases, kWh."""
    found = {}
    for name, scheme in {"base": case(), **CASES}.items():
        monkeypatch.setattr(pipeline, "MEMO", Memo())
        totals = pipeline.simulate(Place(), Library(), scheme, Factors(), standin_year("merrowhaven"), substeps).totals
        found[name] = totals["heating_demand_kwh"], totals["cooling_demand_kwh"]
    return found


def test_differences_are_those_of_the_finest_setting(monkeypatch: pytest.MonkeyPatch) -> None:
    """Within 5%, or a thousandth of the base where the difference is next to nothing."""
    plain = demands(monkeypatch, 1)
    for name, fine in (("PLACES", 24), ("SHADED_PLACES", 20)):
        monkeypatch.setattr(samples, name, tuple((fine, 40) for _ in range(5)))
    for name, value in (("MOST_LOOKED", 72), ("LOOKED_IN_ALL", 4000), ("NEAR_M", 3.0), ("MOST_GROUPS", 1000)):
        monkeypatch.setattr(bounce, name, value)
    monkeypatch.setattr(steps, "prepare", partial(steps.prepare, refine=2))
    for kept in (bounce, samples):
        kept.forget()
    try:
        fine = demands(monkeypatch, 6)
    finally:
        for kept in (bounce, samples):
            kept.forget()
    for name in CASES:
        for kind in (0, 1):
            ours, theirs = (made[name][kind] - made["base"][kind] for made in (plain, fine))
            assert ours == pytest.approx(theirs, rel=0.05, abs=1e-3 * fine["base"][kind]), (name, kind)
