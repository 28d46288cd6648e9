"""Shares of a difference, and two cases part by part."""

from __future__ import annotations

import json
from itertools import permutations
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from eurythm.climate.standin import standin_year
from eurythm.exchange.demo import demo_project, write_examples
from eurythm.explain.case import Case
from eurythm.explain.shares import FIGURES, GROUP_NAMES, changed_groups, mixed, shares_of_difference
from eurythm.explain.sides import hours_in_a_sentence, side_by_side
from eurythm.model.library import Library
from eurythm.model.part import part_of
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.scheme import Scheme
from eurythm.simulate import simulate
from eurythm.thermal.parts import SOURCES
from tests.conftest import make_scheme, volume


def case(place: str = "merrowhaven", **scheme: Any) -> Case:
    parts = {"volumes": [volume()], "method": {"run_in_days": 3}} | scheme
    return Case(Place(), Library(), make_scheme(**parts), Factors(), standin_year(place))


BASE = case()
OTHER = case(
    turn_deg=30,
    skin={"glazing_ratio": {"south": 0.6}, "wall_insulation_m": 0.3},
    use={"heating_c": 22.0},
    plant={"heating": {"efficiency": 4.0}, "ventilation": {"heat_recovery": 0.5}},
)


def test_only_what_changed_is_a_group() -> None:
    assert changed_groups(BASE, BASE) == []
    assert changed_groups(BASE, OTHER) == ["turn", "glass", "fabric", "use", "plant"]
    assert changed_groups(BASE, case("karsk-basin")) == ["place"]
    assert changed_groups(BASE, case(volumes=[volume(form={"length": 30})])) == ["form"]


def test_shares_add_up_to_the_difference_of_what_is_simulated() -> None:
    shares = shares_of_difference(BASE, OTHER)
    assert shares.runs == 2**5
    ends = [simulate(c.place, c.library, c.scheme, c.factors, c.climate) for c in (BASE, OTHER)]
    for told in (f for f in FIGURES if f.share_as):
        figure = shares.figures[told.share_as]
        assert figure["unit"] == told.unit
        assert figure["base"] == pytest.approx(told.of(ends[0]), rel=1e-6)
        assert figure["other"] == pytest.approx(told.of(ends[1]), rel=1e-6)
        assert sum(figure["shares"].values()) == pytest.approx(figure["other"] - figure["base"], abs=1e-9 * max(1, abs(figure["base"])))
    assert shares.figures["energy"]["shares"]["use"] > 0  # a warmer room costs
    assert shares.figures["peak_heating"]["shares"]["fabric"] < 0  # and insulation keeps in
    assert shares.figures["peak_heating"]["shares"]["plant"] > 0  # less heat is recovered


def test_two_groups_share_by_the_mean_of_both_orders() -> None:
    other = case(skin={"wall_insulation_m": 0.4}, use={"heating_c": 23.0})
    shares = shares_of_difference(BASE, other)

    def energy(*taken: str) -> float:
        made = mixed(BASE, other, taken)
        return float(simulate(made.place, made.library, made.scheme, made.factors, made.climate).totals["eui_kwh_per_m2"])

    first = 0.5 * (energy("fabric") - energy() + energy("fabric", "use") - energy("use"))
    assert shares.figures["energy"]["shares"]["fabric"] == pytest.approx(first, rel=1e-6)


@settings(max_examples=6, deadline=None)
@given(
    changes=st.sets(st.sampled_from(["turn", "glass", "fabric", "use", "plant", "form", "place"]), min_size=1, max_size=3),
    figure=st.sampled_from(sorted(f.share_as for f in FIGURES if f.share_as)),
)
def test_shares_add_up_whatever_was_changed(changes: set[str], figure: str) -> None:
    parts: dict[str, Any] = {"skin": {}}
    if "turn" in changes:
        parts["turn_deg"] = 40
    if "glass" in changes:
        parts["skin"]["glazing"] = "triple-clear"
    if "fabric" in changes:
        parts["skin"]["roof_insulation_m"] = 0.4
    if "use" in changes:
        parts["use"] = {"lighting_w_m2": 4.0}
    if "plant" in changes:
        parts["plant"] = {"photovoltaics": {"roof_share": 0.4}}
    if "form" in changes:
        parts["volumes"] = [volume(storeys=2)]
    other = case("karsk-basin" if "place" in changes else "merrowhaven", **parts)
    shares = shares_of_difference(BASE, other)
    assert {g[0] for g in shares.groups} == changes
    found = shares.figures[figure]
    assert sum(found["shares"].values()) == pytest.approx(found["other"] - found["base"], abs=1e-7 * max(1, abs(found["base"])))


def test_more_than_six_groups_join_form_and_turn() -> None:
    other = case(
        "karsk-basin", volumes=[volume(storeys=2)], turn_deg=20, skin={"glazing": "triple-clear", "wall_insulation_m": 0.3},
        use={"heating_c": 21.0}, plant={"heating": {"efficiency": 4.0}},
    )  # fmt: skip
    assert len(changed_groups(BASE, other)) == 7
    shares = shares_of_difference(BASE, other)
    assert ("form", "turn") in shares.groups
    assert len(shares.groups) == 6
    assert "more than 6" in shares.joined[0]


def test_what_cannot_be_mixed_shares_one_bar_and_says_so() -> None:
    """A heating setpoint that crosses the other case's cooling setpoint, which is carried by another group (a profile of the library
    belongs to use; a construction that the other library alone holds belongs to fabric), cannot be built apart."""
    box = [{"id": "r", "box": {"length": 8, "depth": 6, "height": 3}, "faces": [{"id": "s", "side": "south", "construction": "own"}]}]
    layer = {"name": "block", "thickness_m": 0.2, "conductivity": 0.2, "density": 800, "specific_heat": 1000}
    own = Library(constructions=[{"id": "own", "name": "Own", "element": "wall", "layers": [layer]}])
    other = Case(Place(), own, make_scheme(zones=box, method={"run_in_days": 3}), Factors(), standin_year("merrowhaven"))
    shares = shares_of_difference(BASE, other)
    assert len(shares.groups) == 1
    assert set(shares.groups[0]) == {"form", "fabric"}
    assert "cannot be built" in shares.joined[0]
    figure = shares.figures["energy"]
    assert sum(figure["shares"].values()) == pytest.approx(figure["other"] - figure["base"])


def test_order_of_cases_turns_the_sign() -> None:
    there, back = shares_of_difference(BASE, OTHER), shares_of_difference(OTHER, BASE)
    for group, share in there.figures["energy"]["shares"].items():
        assert back.figures["energy"]["shares"][group] == pytest.approx(-share, rel=1e-6, abs=1e-9)


def test_cases_stand_side_by_side_at_both_hours() -> None:
    found = side_by_side(BASE, OTHER)
    for use in ("heating", "cooling"):
        base, other = found[use]["base"], found[use]["other"]
        for side in (base, other):
            assert sum(side["parts_kwh"].values()) == pytest.approx(side["load_kwh"], rel=1e-6)
            for at in ("own", "at_other"):
                assert sum(side[at]["parts_w"].values()) == pytest.approx(side[at]["load_w"], rel=1e-6, abs=1e-3)
        assert base["own"]["hour"] == other["at_other"]["hour"]
        assert other["own"]["hour"] == base["at_other"]["hour"]
        assert base["own"]["load_w"] >= base["at_other"]["load_w"]
        assert found[use]["sentence"]


def at(hour: str | None, watts: float, **parts: float) -> dict[str, Any]:
    return {"at": hour, "load_w": watts, "parts_w": dict.fromkeys(SOURCES, 0.0) | parts}


def test_the_sentence_speaks_of_what_nobody_touched() -> None:
    before, after = at("07-21T17", 5000, walls=500, roofs=900, windows=100), at("08-09T15", 5200, walls=200, roofs=300, windows=900)
    said = hours_in_a_sentence("cooling", before, after, {"glass"})
    assert said == (
        "The cooling peak moved from 21 July 17:00 to 9 August 15:00, so the parts by walls and roofs differ although nobody touched them."
    )
    assert hours_in_a_sentence("cooling", before, after, {"form"}) == "The cooling peak moved from 21 July 17:00 to 9 August 15:00."
    assert hours_in_a_sentence("cooling", before, before, set()) == "Both cooling peaks fall on 21 July 17:00."
    assert "No cooling is needed in one" in hours_in_a_sentence("cooling", before, at(None, 0), set())
    assert "in either case" in hours_in_a_sentence("heating", at(None, 0), at(None, 0), set())
    later = hours_in_a_sentence("cooling", before, at("07-21T17", 5000, walls=500, roofs=500), {"glass"})
    assert later.endswith(
        "the part by roofs differs although nobody touched it, since parts carry what rooms gained and lost before that hour."
    )
    one = hours_in_a_sentence("cooling", before, at("08-09T15", 5200, walls=480, roofs=890), {"glass", "use"})
    assert one.endswith("9 August 15:00.")


def test_groups_cover_the_whole_scheme() -> None:
    """Taking every group turns one case into the other, in all that a result depends on."""
    project = demo_project()
    first, second = project.schemes[0], project.schemes[1]
    climate = standin_year("merrowhaven")
    a, b = (Case(project.place, project.library, s, project.factors, climate) for s in (first, second))
    made = mixed(a, b, list(GROUP_NAMES)).scheme
    idle = {name for name in Scheme.model_fields if part_of(Scheme, name).group == "none"}
    assert made.model_dump(exclude=idle) == second.model_dump(exclude=idle)
    assert mixed(a, b, []).scheme.model_dump() == first.model_dump()


def test_explain_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch) -> None:
    from eurythm.cli.main import main

    write_examples(tmp_path)
    bundles = sorted(tmp_path.glob("*.eurythm.json"))[:2]
    monkeypatch.setattr("sys.argv", ["eurythm", "explain", str(bundles[0]), "--against", str(bundles[1])])
    with pytest.raises(SystemExit) as ended:
        main()
    assert ended.value.code == 0
    said = json.loads(capsys.readouterr().out)
    for use in ("heating", "cooling"):
        of_use = said["building"][use]
        assert sum(of_use["parts_kwh"].values()) == pytest.approx(of_use["load_kwh"], rel=1e-6)
        assert sum(of_use["peak"]["parts_w"].values()) == pytest.approx(of_use["peak"]["load_w"], rel=1e-6)
        for zone in said["zones"]:
            assert sum(zone[use]["parts_kwh"].values()) == pytest.approx(zone[use]["load_kwh"], rel=1e-6, abs=1e-6)
        assert said["against"][use]["sentence"]
    energy = said["shares"]["figures"]["energy"]
    assert sum(energy["shares"].values()) == pytest.approx(energy["other"] - energy["base"])


def test_every_order_of_change_has_the_same_mean() -> None:
    """Shapley by its definition: the mean over all orders, for three groups, of what each adds."""
    other = case(turn_deg=45, skin={"wall_insulation_m": 0.4}, use={"heating_c": 23.0})
    shares = shares_of_difference(BASE, other).figures["energy"]["shares"]
    kept: dict[frozenset[str], float] = {}

    def energy(taken: tuple[str, ...]) -> float:
        key = frozenset(taken)
        if key not in kept:
            made = mixed(BASE, other, taken)
            kept[key] = float(simulate(made.place, made.library, made.scheme, made.factors, made.climate).totals["eui_kwh_per_m2"])
        return kept[key]

    groups = ("turn", "fabric", "use")
    for group in groups:
        added = [energy(o[: o.index(group) + 1]) - energy(o[: o.index(group)]) for o in permutations(groups)]
        assert shares[group] == pytest.approx(sum(added) / len(added), rel=1e-5, abs=1e-6)
