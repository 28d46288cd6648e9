"""Constructions as a table, a row for each layer from outside to inside: CSV or XLSX in SI or inch-pound, in and out."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, get_args

from eurythm.exchange.grid import Column, Finding, Row, id_for, read_rows, to_csv, to_xlsx
from eurythm.fabric.opaque import u_value
from eurythm.fabric.usual import questions
from eurythm.model.errors import EurythmError
from eurythm.model.field import notes
from eurythm.model.ids import fresh_id
from eurythm.model.library import Construction, Element, Inlay, Layer
from eurythm.model.reading import read_document

OF_ALL = ("name", "element", "set_name", "u_value", "mass", "capacity_kj_m2k", "whole_m", "solar_absorptance", "emissivity", "source")
"""What stands in the first row of a construction."""
INLAY = {
    "inlay_name": "name", "inlay_share": "share", "inlay_conductivity": "conductivity", "inlay_density": "density",
    "inlay_heat": "specific_heat", "inlay_carbon": "carbon_kg_kg",
}  # fmt: skip
LAYER = ("thickness_m", "conductivity", "density", "specific_heat", "vapour_resistance", "carbon_kg_kg", "air")
FLAG = {"yes": True, "no": False}


def _number(field: str, model: type[Layer] | type[Construction] | type[Inlay], head: str = "", name: str = "") -> Column:
    note = notes(model, name or field)
    return Column(field, head or str(note["title"]), str(note.get("unit", "")))


COLUMNS = (
    Column("name", "Construction"),
    Column("element", "Element"),
    Column("set_name", "Set"),
    _number("u_value", Construction, "U-value"),
    Column("mass", "Mass lies"),
    _number("capacity_kj_m2k", Construction),
    _number("whole_m", Construction, "Thickness of all", "thickness_m"),
    _number("solar_absorptance", Construction),
    _number("emissivity", Construction),
    Column("layer", "Layer"),
    _number("thickness_m", Layer),
    _number("conductivity", Layer),
    _number("density", Layer),
    _number("specific_heat", Layer),
    _number("vapour_resistance", Layer),
    _number("carbon_kg_kg", Layer),
    Column("air", "Air layer"),
    Column("insulation", "Insulation"),
    Column("inlay_name", "Interrupted by"),
    _number("inlay_share", Inlay, "Interrupting share", "share"),
    _number("inlay_conductivity", Inlay, "Interrupting conductivity", "conductivity"),
    _number("inlay_density", Inlay, "Interrupting density", "density"),
    _number("inlay_heat", Inlay, "Interrupting specific heat", "specific_heat"),
    _number("inlay_carbon", Inlay, "Interrupting carbon", "carbon_kg_kg"),
    Column("source", "Source"),
)


@dataclass(frozen=True)
class ConstructionTable:
    """What a file holds: whole constructions, findings for those that are left out, and what is unusual about the others."""

    constructions: tuple[Construction, ...]
    findings: tuple[Finding, ...]
    questions: tuple[Finding, ...] = ()


def read_constructions(body: bytes, name: str, taken: Iterable[str], sheet: str | None = None, ip: bool = False) -> ConstructionTable:
    """Read a table; a row without a construction's name, or with that of the row before, adds a layer to it.

    A construction with a bad cell in any of its rows is left out whole and told; the others are taken.

    Parameters
    ----------
    taken : ids that constructions may not have
    sheet : of a workbook; the first one that has the columns unless named
    ip : whether what is unusual is told in inch-pound units

    Raises
    ------
    EurythmError
        As `eurythm.exchange.grid.read_rows`; ``missing-column`` also where no column names constructions.
    """
    used = set(taken)
    out: list[Construction] = []
    findings: list[Finding] = []
    unusual: list[Finding] = []
    for group in _groups(read_rows(body, name, COLUMNS, sheet), name):
        wrong = [f for row in group for f in row.findings] or _taken(group, used, out)
        findings += wrong
        if not wrong:
            unusual += _unusual(group, out[-1], ip)
    return ConstructionTable(tuple(out), tuple(findings), tuple(unusual))


def _unusual(group: list[Row], made: Construction, ip: bool) -> list[Finding]:
    """What would be asked if it were typed, at the row of its layer."""
    layers = [row for row in group if row.values.keys() & {"layer", "thickness_m", "conductivity"}]
    found = []
    for q in questions(made, u_value(made)):
        _, number, field = q.field.split("/") if q.field.startswith("layers/") else ("", "", q.field)
        found.append((layers[int(number)] if number else group[0]).wrong(field, q.sentence(ip)))
    return found


def _groups(rows: Iterator[Row], name: str) -> Iterator[list[Row]]:
    group: list[Row] = []
    for row in rows:
        if "name" not in row.heads:
            raise EurythmError("missing-column", f"“{name}” has no column “Construction”.", name)
        called = row.values.get("name")
        begins = called not in (None, group[0].values.get("name")) if group else False
        if begins or (group and row.values.get("element") not in (None, group[0].values.get("element"))):
            yield group
            group = []
        group.append(row)
    if group:
        yield group


def _taken(group: list[Row], used: set[str], out: list[Construction]) -> list[Finding]:
    """Add the construction of some rows, or tell why not."""
    first = group[0]
    if "name" not in first.values:
        return [first.wrong("name", "is empty")]
    values: dict[str, Any] = {"source": "from a table of the user's"} | {k: v for k, v in first.values.items() if k in OF_ALL}
    if "whole_m" in values:
        values["thickness_m"] = values.pop("whole_m")
    element = str(values.get("element", "wall")).strip().casefold().replace(" ", "_")
    if element not in get_args(Element):
        return [first.wrong("element", f"“{values['element'][:40]}” is none of {', '.join(get_args(Element))}")]
    layers = []
    for row in group:
        if not row.values.keys() & {"layer", "thickness_m", "conductivity"}:
            continue
        layer, wrong = _layer(row)
        if wrong:
            return wrong
        layers.append(layer)
    stem = id_for(values["name"], "construction")
    values |= {"element": element, "id": stem if stem not in used else fresh_id(stem, used)}
    try:
        made = read_document(Construction, values | ({"layers": layers} if layers else {}))
    except EurythmError as fault:
        return [first.refused(fault)]
    used.add(made.id)
    out.append(made)
    return []


def _layer(row: Row) -> tuple[dict[str, Any], list[Finding]]:
    """One row's layer as it stands in a document, or what is wrong with it."""
    given = row.values
    layer: dict[str, Any] = {k: given[k] for k in LAYER if k in given}
    layer["name"] = given.get("layer", "")
    if "insulation" in given:
        flag = str(given["insulation"]).casefold()
        if flag not in FLAG:
            return {}, [row.wrong("insulation", "is yes or no")]
        layer["insulation"] = FLAG[flag]
    inlay = {to: given[k] for k, to in INLAY.items() if k in given}
    if inlay:
        layer["inlay"] = inlay
    try:
        read_document(Layer, layer)
    except EurythmError as fault:
        field = fault.path.rpartition("/")[2]
        of_inlay = {to: k for k, to in INLAY.items()} if fault.path.startswith("inlay") else {}
        return {}, [row.wrong(of_inlay.get(field, field), fault.message.partition(": ")[2] or fault.message)]
    return layer, []


def _rows(constructions: Iterable[Construction]) -> Iterator[dict[str, Any]]:
    for made in constructions:
        whole = {k: getattr(made, k) for k in OF_ALL if k in Construction.model_fields}
        if made.layers:
            whole |= dict.fromkeys(("mass", "capacity_kj_m2k"))
        else:
            whole["whole_m"] = made.thickness_m
        if not made.layers:
            yield whole
        for k, layer in enumerate(made.layers):
            own = layer.model_dump(exclude={"inlay", "name"})
            own |= {
                "layer": layer.name,
                "insulation": "yes" if layer.insulation else None,
                "air": layer.air if layer.air != "none" else None,
            }
            if layer.inlay is not None:
                own |= {to: getattr(layer.inlay, name) for to, name in INLAY.items()}
            yield (whole if k == 0 else {"name": made.name}) | own


def constructions_csv(constructions: Iterable[Construction], ip: bool = False) -> str:
    """Return constructions as CSV that `read_constructions` reads again."""
    return to_csv(COLUMNS, _rows(constructions), ip)


def constructions_xlsx(constructions: Iterable[Construction], ip: bool = False) -> bytes:
    """Return constructions as a workbook that `read_constructions` reads again."""
    return to_xlsx("Constructions", COLUMNS, _rows(constructions), ip)
