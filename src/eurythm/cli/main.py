"""`eurythm`: standard output is JSON only; errors are JSON on standard error, exit 2 for bad input, 1 for a fault of ours."""

from __future__ import annotations

import json
import logging
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer
from pydantic import BaseModel

from eurythm.model import amount
from eurythm.model.errors import EurythmError

if TYPE_CHECKING:
    from eurythm.model.scheme import LightPicture, SunPicture

app = typer.Typer(
    add_completion=False, no_args_is_help=True, help="From massing to a compared energy study.", pretty_exceptions_enable=False
)

Picture = TypeVar("Picture", bound="SunPicture | LightPicture")


def _print(data: Any) -> None:
    sys.stdout.write(amount.said(json.dumps(data, ensure_ascii=False, allow_nan=False)) + "\n")


@app.command()
def schema(document: Annotated[str, typer.Argument(help="place, library, scheme, bundle, project or study")]) -> None:
    """Print the JSON Schema of a document."""
    from eurythm.model.library import Library
    from eurythm.model.place import Place
    from eurythm.model.project import Bundle, Project
    from eurythm.model.scheme import Scheme
    from eurythm.model.study import StudyFile

    models: dict[str, type[BaseModel]] = {
        "place": Place,
        "library": Library,
        "scheme": Scheme,
        "bundle": Bundle,
        "project": Project,
        "study": StudyFile,
    }
    if document not in models:
        raise EurythmError("no-such-document", f"There is no document “{document}”; there are {', '.join(models)}.", "document")
    _print({"$schema": "https://json-schema.org/draft/2020-12/schema", **models[document].model_json_schema()})


@app.command()
def examples(folder: Annotated[Path, typer.Argument(help="Folder to write to")]) -> None:
    """Write the demo's schemes, climates and studies as files."""
    from eurythm.exchange.demo import write_examples

    _print({"folder": str(folder), "written": write_examples(folder)})


@app.command()
def simulate(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    climate: Annotated[Path | None, typer.Option(help="An EPW instead of the bundle's climate")] = None,
    substeps: Annotated[int, typer.Option(min=1, max=12, help="Steps an hour")] = 1,
    hourly: Annotated[Path | None, typer.Option(help="Write every hour to this CSV")] = None,
    design_days: Annotated[bool, typer.Option("--design-days", help="Add the loads on the climate's design days")] = False,
) -> None:
    """Simulate a year and print the outcome."""
    from eurythm.exchange.bundle import open_bundle
    from eurythm.report.hourly import write_hourly
    from eurythm.simulate import run, size

    opened = open_bundle(bundle, climate)
    held = opened.bundle
    made = run(held.place, held.library, held.scheme, held.factors, opened.climate, substeps)
    if hourly is not None:
        write_hourly(hourly, made)
    said = made.outcome.as_dict()
    if design_days:
        said["design_days"] = size(held.place, held.library, held.scheme, held.factors, opened.climate)
    _print(said)


@app.command()
def explain(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    against: Annotated[Path | None, typer.Option(help="Another bundle: parts side by side, and shares of the difference")] = None,
    climate: Annotated[Path | None, typer.Option(help="An EPW instead of the bundles' climates")] = None,
    substeps: Annotated[int, typer.Option(min=1, max=12, help="Steps an hour")] = 1,
) -> None:
    """Take heating and cooling apart by what they come from; with another case, share the difference out."""
    from eurythm.assess.attribution import attribution
    from eurythm.exchange.bundle import open_bundle
    from eurythm.explain.case import Case
    from eurythm.explain.shares import shares_of_difference
    from eurythm.explain.sides import side_by_side

    def case_of(path: Path) -> Case:
        opened = open_bundle(path, climate)
        held = opened.bundle
        return Case(held.place, held.library, held.scheme, held.factors, opened.climate)

    mine = case_of(bundle)
    taken = mine.taken_apart(substeps)
    said: dict[str, Any] = {"case": mine.scheme.name, **attribution(taken.prepared.building, taken.prepared.arrays, taken.parts)}
    if against is not None:
        base = case_of(against)
        said["against"] = {"case": base.scheme.name, **side_by_side(base, mine, substeps)}
        said["shares"] = shares_of_difference(base, mine, substeps).as_dict()
    _print(said)


def _picture(kept: tuple[Picture, ...], id: str) -> Picture:
    for picture in kept:
        if picture.id == id:
            return picture
    raise EurythmError(
        "unknown-picture", f"The scheme keeps no such picture “{id}”; it has {', '.join(p.id for p in kept) or 'none'}.", "picture"
    )


@app.command()
def daylight(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    climate: Annotated[Path | None, typer.Option(help="An EPW instead of the bundle's climate")] = None,
    target: Annotated[float, typer.Option(help="Illuminance that is wanted, lx")] = 300.0,
    grid: Annotated[float | None, typer.Option(help="Also all over the floors, at points so far apart, m")] = None,
    out: Annotated[Path | None, typer.Option(help="Write the figures of all these points to this CSV")] = None,
    hourly: Annotated[Path | None, typer.Option(help="Write the illuminance of every hour, lx, to this CSV, a column a sensor")] = None,
    picture: Annotated[
        str, typer.Option(help="Floors as a picture kept in the scheme shows them, by its id, instead of target and grid")
    ] = "",
) -> None:
    """Work out daylight at the sensors of each zone with windows, and all over floors: daylight factor, and illuminance over the year."""
    from dataclasses import asdict

    import pandas as pd

    from eurythm.daylight.floors import zones_at
    from eurythm.exchange.bundle import open_bundle
    from eurythm.report.daylight import LightAsk, points_csv, sensor_figures, zone_figures
    from eurythm.simulate import building_of, daylit_floors, light_asks
    from eurythm.simulate import daylight as light_at_sensors

    opened = open_bundle(bundle, climate)
    held = opened.bundle
    documents = held.place, held.library, held.scheme, opened.climate
    levels: tuple[float, ...] = ()
    hour = None
    if picture:
        kept = _picture(held.scheme.light_pictures, picture)
        target, grid, levels, hour = kept.target_lx, kept.spacing_m, kept.levels, kept.hour if kept.measure == "hour" else None
    found, asked = light_at_sensors(*documents), light_asks(*documents)
    asks = {zone: LightAsk(of.occupied, of.lighting, of.lights) for zone, of in asked.items()}
    if out is not None and grid is None:
        grid = 0.5
    names = [f"{sensor.zone} {sum(other.zone == sensor.zone for other in found.sensors[:k]) + 1}" for k, sensor in enumerate(found.sensors)]
    if hourly is not None:
        pd.DataFrame(dict(zip(names, found.lux.round(1), strict=True))).to_csv(hourly, index_label="hour")

    def rounded(figures: dict[str, Any]) -> dict[str, Any]:
        return {name: round(value, 5) if isinstance(value, float) else value for name, value in figures.items()}

    said: dict[str, Any] = {
        "efficacy": found.source,
        "target_lx": target,
        "sensors": [
            {"zone": sensor.zone, "at_m": [round(float(x), 3) for x in sensor.at], "share": sensor.share, **rounded(asdict(told))}
            for sensor, told in zip(found.sensors, sensor_figures(found, asks, target), strict=True)
        ],
        "without_windows": [zone for zone in asked if zone not in {sensor.zone for sensor in found.sensors}],
    }
    if grid is not None:
        floors = daylit_floors(*documents, zones_at(building_of(held.place, held.scheme), levels), grid)
        said["floors"] = [rounded(asdict(zone)) for zone in zone_figures(floors, asks, target)]
        if out is not None:
            out.write_text(points_csv(floors, asks, target, hour), encoding="utf-8")
    _print(said)


@app.command()
def schedule(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    out: Annotated[Path, typer.Option(help="*.xlsx, or *.html for a page to print")],
    ip: Annotated[bool, typer.Option("--ip", help="Inch-pound units")] = False,
) -> None:
    """Write the schedule of constructions, and of areas by element and orientation, with costs and carbon."""
    from eurythm.exchange.bundle import open_bundle
    from eurythm.report.schedule import page, schedule_of, workbook
    from eurythm.simulate import run

    opened = open_bundle(bundle, None)
    held = opened.bundle
    made = run(held.place, held.library, held.scheme, held.factors, opened.climate)
    told = schedule_of(made.brief, made.building, made.outcome.worth)
    if out.suffix.lower() not in (".xlsx", ".html"):
        raise EurythmError("unknown-format", f"“{out.name}” should end in .xlsx or .html.", "out")
    out.write_bytes(workbook(told, ip) if out.suffix.lower() == ".xlsx" else page(told, ip).encode())
    _print({"written": str(out), "constructions": len(told.opaque), "windows": len(told.windows), "mean_u_w_m2k": round(told.mean_u, 4)})


@app.command()
def library(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    group: Annotated[str, typer.Argument(help="materials or constructions")],
    out: Annotated[Path | None, typer.Option(help="Write all of them to this *.csv or *.xlsx")] = None,
    take: Annotated[Path | None, typer.Option(help="Read a table, *.csv or *.xlsx, and add what it holds")] = None,
    into: Annotated[Path | None, typer.Option(help="Write the bundle with what was added here")] = None,
    ip: Annotated[bool, typer.Option("--ip", help="Write inch-pound units")] = False,
    climate: Annotated[Path | None, typer.Option(help="An EPW instead of the bundle's climate")] = None,
    sheet: Annotated[str | None, typer.Option(help="Sheet of the workbook; the first that has the columns unless named")] = None,
) -> None:
    """Write a bundle's materials or constructions as a table, or add those of one; rows with a bad cell are listed and left out."""
    from eurythm.brief.resolve import Shelf
    from eurythm.exchange.bundle import open_bundle, read_bytes, write_bundle
    from eurythm.exchange.constructions import constructions_csv, constructions_xlsx, read_constructions
    from eurythm.exchange.materials import materials_csv, materials_xlsx, read_materials

    if group not in ("materials", "constructions"):
        raise EurythmError("unknown-group", "Say materials or constructions.", "group")
    held = open_bundle(bundle, climate).bundle
    said: dict[str, Any] = {}
    if take is not None:
        shelf, body = Shelf(held.library), read_bytes(take)
        if group == "materials":
            materials = read_materials(body, take.name, shelf.materials, sheet)
            added: tuple[BaseModel, ...] = materials.materials
            findings, unusual = materials.findings, materials.questions
        else:
            constructions = read_constructions(body, take.name, shelf.constructions, sheet)
            added, findings, unusual = constructions.constructions, constructions.findings, constructions.questions
        whole = held.library.model_copy(update={group: (*getattr(held.library, group), *added)})
        held = held.model_copy(update={"library": whole})
        said |= {
            "taken": [getattr(a, "id", "") for a in added],
            "left_out": [vars(f) for f in findings],
            "unusual": [vars(f) for f in unusual],
        }
        if into is not None:
            write_bundle(into, held)
            said["written"] = str(into)
    if out is not None:
        if out.suffix.lower() not in (".csv", ".xlsx"):
            raise EurythmError("unknown-format", f"“{out.name}” should end in .csv or .xlsx.", "out")
        book, shelf = out.suffix.lower() == ".xlsx", Shelf(held.library)
        if group == "materials":
            things = shelf.materials.values()
            out.write_bytes(materials_xlsx(things, ip) if book else materials_csv(things, ip).encode())
        else:
            built = shelf.constructions.values()
            out.write_bytes(constructions_xlsx(built, ip) if book else constructions_csv(built, ip).encode())
        said["table"] = str(out)
    _print(said)


@app.command()
def register(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    rank: Annotated[bool, typer.Option("--rank", help="Try the ends of each usual range")] = False,
) -> None:
    """Print every assumed value with its source; ranked by how far the year moves with it."""
    from dataclasses import asdict

    from eurythm.brief.assumed import assumed_values
    from eurythm.exchange.bundle import open_bundle
    from eurythm.explain import ranking
    from eurythm.model.project import Project

    opened = open_bundle(bundle, None)
    held = opened.bundle
    project = Project(
        name=held.scheme.name,
        place=held.place,
        library=held.library,
        factors=held.factors,
        schemes=(held.scheme,),
        reference=held.scheme.id,
    )
    found = {a.path: asdict(a) for a in assumed_values(project, held.scheme)}
    if rank:
        for rays in (False, True):
            for one in ranking.rank(project, held.scheme, opened.climate, rays):
                found[one.assumed.path] |= {"moves": [asdict(m) for m in one.moves], "span": one.span}
    _print({"values": sorted(found.values(), key=lambda v: -v.get("span", {}).get("eui_kwh_per_m2", -1.0))})


@app.command()
def irradiation(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    measure: Annotated[str, typer.Option(help="sum, mean, strongest or direct_hours")] = "sum",
    first_day: Annotated[int, typer.Option(min=0, max=364, help="Day of the year, 0 is 1 January")] = 0,
    last_day: Annotated[int, typer.Option(min=0, max=364)] = 364,
    first_hour: Annotated[int, typer.Option(min=0, max=23)] = 0,
    last_hour: Annotated[int, typer.Option(min=0, max=23)] = 23,
    grid: Annotated[float, typer.Option(min=0.1, max=20, help="Spacing of the points, m")] = 1.0,
    picture: Annotated[str, typer.Option(help="A picture kept in the scheme, by its id, instead of the other options")] = "",
) -> None:
    """Print what falls on every face under the open sky: kWh/m², or W/m² for a mean and for the strongest hour; hours of direct sun."""
    from eurythm.climate.statistics import hour_name
    from eurythm.exchange.bundle import open_bundle
    from eurythm.model.reading import read_document
    from eurythm.model.scheme import SunPicture
    from eurythm.simulate import prepare_case
    from eurythm.sun import irradiation as sun

    opened = open_bundle(bundle, None)
    held = opened.bundle
    given = {"first_day": first_day, "last_day": last_day, "first_hour": first_hour, "last_hour": last_hour, "spacing_m": grid}
    asked = _picture(held.scheme.sun_pictures, picture) if picture else read_document(
        SunPicture, {"id": "asked", "name": "asked", "kinds": ["wall", "roof", "floor"], "measure": measure, **given}
    )  # fmt: skip
    made = prepare_case(held.place, held.library, held.scheme, held.factors, opened.climate)
    climate = made.brief.climate
    seen = sun.see(made.building, held.place, climate, sun.faces_of(made.building, asked, held.place.north_deg), asked.spacing_m)
    told = sun.taken(asked, made.building, held.place, climate, seen)
    _print({"faces": [
        {"id": t.grid.face.id, "area_m2": t.grid.face.area, "mean": t.mean, "low": float(t.values.min()), "high": float(t.values.max()),
         "hour": None if t.hour is None else hour_name(t.hour)}
        for t in told
    ]})  # fmt: skip


@app.command()
def study(
    file: Annotated[Path, typer.Argument(help="A study file, *.study.json")],
    out: Annotated[Path, typer.Option(help="Write cases to this CSV")],
    jobs: Annotated[int, typer.Option(min=1, max=64, help="Processes")] = 2,
    cluster: Annotated[str, typer.Option(help="Address of a Dask scheduler, to run over its workers instead")] = "",
) -> None:
    """Run every case of a study and write one row a case."""
    import time
    from dataclasses import asdict

    from eurythm.exchange.bundle import csv_lines, open_study
    from eurythm.study.answers import answer
    from eurythm.study.cluster import Cluster
    from eurythm.study.outcomes import of_zones
    from eurythm.study.plan import check
    from eurythm.study.pool import Pool
    from eurythm.study.runner import InProcess, Job, Runner
    from eurythm.study.whole import run_study

    opened, inputs, files = open_study(file)
    views = check(opened.study, inputs)
    runner: Runner = Cluster(cluster) if cluster else Pool(jobs) if jobs > 1 else InProcess()
    started = time.perf_counter()
    try:
        ran = run_study(runner, Job(opened.study, inputs, files, "cli"))
    finally:
        runner.close()
    with out.open("w", encoding="utf-8", newline="") as kept:
        kept.writelines(csv_lines(views, ran.cases(), of_zones(opened.study)))
    _print(
        {
            "cases": len(ran.results),
            "failed": sum(r.status == "failed" for r in ran.results),
            "seconds": round(time.perf_counter() - started, 2),
            **asdict(answer(opened.study, ran.table(), "eui_kwh_per_m2", "cost_per_m2")),
            "out": str(out),
        }
    )


@app.command()
def worker(
    address: Annotated[str, typer.Argument(help="Address of a Dask scheduler, such as tcp://10.0.0.5:8786")],
    processes: Annotated[int, typer.Option(min=1, max=256, help="How many processes of this machine serve it")] = 1,
) -> None:
    """Serve a cluster with this machine, until told to end; see docs/wide.md."""
    from eurythm.study.cluster import work

    work(address, processes)


@app.command()
def report(
    project: Annotated[Path, typer.Argument(help="A project file, or a bundle")],
    out: Annotated[Path, typer.Option(help="Write the report here: .pdf, .html or .xlsx")],
    cases: Annotated[str, typer.Option(help="Ids of schemes, the reference first, with commas between; all where not given")] = "",
    units: Annotated[str, typer.Option(help="SI or IP")] = "SI",
    title: Annotated[str, typer.Option(help="What the report is called")] = "",
    ranked: Annotated[
        bool, typer.Option(help="Find out how far each assumed value moves the energy of the reference: half a minute")
    ] = True,
) -> None:
    """Hold schemes of a project against each other, as paper, page or workbook."""
    from eurythm.exchange.project_file import open_cases
    from eurythm.explain.ranking import rank
    from eurythm.report.compared.assumptions import still_assumed
    from eurythm.report.compared.content import Asked, content
    from eurythm.report.compared.paper import pdf_of
    from eurythm.report.compared.sheets import xlsx_of
    from eurythm.report.compared.web import html_of

    if units not in ("SI", "IP"):
        raise EurythmError("wrong-units", f"Units are SI or IP, not “{units}”.", "units")
    writers: dict[str, Any] = {".pdf": pdf_of, ".html": html_of, ".xlsx": xlsx_of}
    if out.suffix not in writers:
        raise EurythmError("wrong-form", f"A report is written as .pdf, .html or .xlsx, not “{out.suffix}”.", "out")
    opened, found = open_cases(project, [c.strip() for c in cases.split(",") if c.strip()])
    asked = [Asked(one.scheme.name, "reference" if k == 0 else "as it stands", one) for k, one in enumerate(found)]
    first = found[0]
    moved = [one for rays in (False, True) for one in rank(opened, first.scheme, first.climate, rays)] if ranked else None
    told = content(opened.name, asked, units, assumed=still_assumed(opened, first.scheme, moved), title=title)  # type: ignore[arg-type]
    made = writers[out.suffix](told)
    out.write_bytes(made if isinstance(made, bytes) else made.encode())
    _print({"cases": [one.scheme.id for one in found], "out": str(out)})


@app.command("import")
def import_(
    file: Annotated[Path, typer.Argument(help="IFC, gbXML, OBJ, STL, glTF, or GeoJSON surroundings")],
    out: Annotated[Path, typer.Option(help="Write the bundle here")],
    report: Annotated[Path | None, typer.Option(help="Write the account of the import here, as JSON")] = None,
    into: Annotated[Path | None, typer.Option(help="A bundle whose place, library, use and plant are kept")] = None,
    sift: Annotated[Path | None, typer.Option(help="Decisions and mends to apply, *.sift.json")] = None,
    gap: Annotated[float | None, typer.Option(help="Contact bridges gaps up to so many metres")] = None,
    unit: Annotated[str | None, typer.Option(help="Unit of a mesh: m, cm, mm, ft, in")] = None,
    up: Annotated[str | None, typer.Option(help="Upward axis of a mesh: y or z")] = None,
    storey_height: Annotated[float | None, typer.Option(help="Height that a mesh is cut into storeys at, m")] = None,
    seconds: Annotated[float, typer.Option(min=1, help="Time that reading may take")] = 600.0,
) -> None:
    """Read a model into a bundle and give an account of what was found, mended and left out."""
    from eurythm.exchange.bundle import read_bytes, write_bundle, write_json
    from eurythm.exchange.importing import import_file
    from eurythm.exchange.intake.process import Limits
    from eurythm.exchange.intake.sift import Sift
    from eurythm.model.project import Bundle
    from eurythm.model.reading import parse_json, read_document

    if not file.is_file():
        raise EurythmError("no-such-file", f"There is no file {file}.", str(file))
    base = read_document(Bundle, parse_json(read_bytes(into), str(into))) if into is not None else None
    decided = read_document(Sift, parse_json(read_bytes(sift), str(sift))) if sift is not None else Sift()
    if gap is not None:
        decided = read_document(Sift, {**decided.model_dump(mode="json", exclude_unset=True), "gap_m": gap})
    ask = {k: str(v) for k, v in (("unit", unit), ("up", up), ("storey_height", storey_height)) if v is not None}
    bundle, said = import_file(file, base, decided, ask, Limits(seconds=seconds))
    write_bundle(out, bundle)
    if report is not None:
        write_json(report, said)
    spaces = said.get("spaces", [])
    _print({
        "out": str(out), "format": said["format"], "rooms_kept": sum(s["kept"] for s in spaces), "rooms_left_out": sum(not s["kept"] for s in spaces),
        "remarks": len(said["remarks"]),
    })  # fmt: skip


@app.command()
def export(
    bundle: Annotated[Path, typer.Argument(help="A bundle, *.eurythm.json")],
    format: Annotated[str, typer.Option(help="gbxml, gbxml-ip, ifc, gltf, glb or csv")],
    out: Annotated[
        Path | None, typer.Option(help="Write here; else beside the bundle. Of glTF the ending decides: .gltf text, .glb binary")
    ] = None,
    climate: Annotated[Path | None, typer.Option(help="An EPW instead of the bundle's climate")] = None,
) -> None:
    """Write a scheme for other programs."""
    from eurythm.exchange.bundle import open_bundle
    from eurythm.exchange.exporting import ENDINGS, by_ending
    from eurythm.exchange.exporting import export as exported

    opened = open_bundle(bundle, climate)
    held = opened.bundle
    format = by_ending(format, out.name) if out is not None else format
    body = exported(held.place, held.library, held.scheme, held.factors, opened.climate, format)
    name = bundle.name.removesuffix(".json").removesuffix(".eurythm")
    target = out or bundle.with_name(f"{name}.{ENDINGS[format]}")
    target.write_bytes(body)
    _print({"out": str(target), "format": format, "bytes": len(body)})


checks = typer.Typer(no_args_is_help=True, help="Proofs that anyone can run.")
app.add_typer(checks, name="check")


@checks.callback()
def _checks() -> None:
    """Keep `check` a group, though it has one command."""


@checks.command()
def envelope(
    climate: Annotated[Path, typer.Option(help="An EPW to run the cases on")],
    as_json: Annotated[bool, typer.Option("--json", help="Print figures as JSON instead of the table")] = False,
) -> None:
    """Run the envelope cases of ANSI/ASHRAE Standard 140 and print them beside the published ranges."""
    from eurythm.climate.epw import read_epw
    from eurythm.exchange.bundle import read_epw_text
    from eurythm.exchange.envelope import check_envelope, envelope_table

    year = read_epw(read_epw_text(climate))
    found = check_envelope(year)
    if as_json:
        _print(found)
    else:
        print(envelope_table(found, year))


@app.command()
def serve(
    port: Annotated[int, typer.Option(min=0, max=65535)] = 8710,
    data: Annotated[Path, typer.Option(help="Folder of the database")] = Path(".eurythm-data"),
    host: Annotated[str, typer.Option(help="Address to listen on; beyond this computer it needs --allow-host")] = "127.0.0.1",
    allow_host: Annotated[
        list[str] | None, typer.Option(help="Name that others call it by, also behind a proxy; they are asked for a token")
    ] = None,
    cluster: Annotated[str, typer.Option(help="Address of a Dask scheduler over which studies run", envvar="EURYTHM_CLUSTER")] = "",
) -> None:
    """Serve the application."""
    _serve(host, port, data, demo=False, names=allow_host or (), cluster=cluster)


@app.command()
def demo(
    port: Annotated[int, typer.Option(min=0, max=65535)] = 8710,
    data: Annotated[Path, typer.Option(help="Folder of the database")] = Path(".eurythm-data"),
) -> None:
    """Serve the application with the demo project in it."""
    _serve("127.0.0.1", port, data, demo=True)


def _serve(host: str, port: int, data: Path, demo: bool, names: Sequence[str] = (), cluster: str = "") -> None:
    from eurythm.api.door import taken_up

    with taken_up(host, port, data, names) as door:
        from eurythm.study.compiled import compile_once

        compile_once(lambda line: print(line, flush=True))
        from eurythm.study.nursery import start

        start()  # workers get ready while this process imports what they need as well
        from eurythm.api.serve import serve

        serve(door, demo, cluster)


@app.command()
def token(data: Annotated[Path, typer.Option(help="Folder of the database")] = Path(".eurythm-data")) -> None:
    """Make a new token for those who call the server from elsewhere; the old one ends at the next start."""
    from eurythm.api.access import new_token

    data.mkdir(parents=True, exist_ok=True)
    _print({"token": new_token(data)})


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(help="Write the backup here, a zip file")],
    data: Annotated[Path, typer.Option(help="Folder of the database")] = Path(".eurythm-data"),
) -> None:
    """Write all projects, studies and imported files into one file, also while the server runs."""
    from eurythm.store.folder import backup as write

    _print({"out": str(file), **write(data, file)})


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="What `eurythm backup` wrote")],
    data: Annotated[Path, typer.Option(help="A new or empty folder")] = Path(".eurythm-data"),
) -> None:
    """Bring a backup into a new folder, to be served from there."""
    from eurythm.store.folder import restore as read

    read(file, data)
    _print({"data": str(data)})


def main() -> None:
    """Run the command line; see the module for how errors are told."""
    logging.basicConfig(level=logging.WARNING, stream=sys.stderr, format="%(message)s")
    try:
        code = app(standalone_mode=False)
    except EurythmError as fault:
        _fail(fault.as_dict(), 2)
    except (typer.Abort, KeyboardInterrupt):
        sys.exit(130)
    except Exception as fault:
        if hasattr(fault, "format_message"):  # how Typer tells of wrong options and arguments
            _fail({"code": "wrong-command", "path": "command", "message": fault.format_message()}, 2)
        logging.getLogger("eurythm").debug("fault", exc_info=True)
        _fail({"code": "our-fault", "path": "", "message": f"A fault of ours: {type(fault).__name__}: {fault}"}, 1)
    sys.exit(code if isinstance(code, int) else 0)


def _fail(error: dict[str, Any], code: int) -> None:
    sys.stderr.write(amount.said(json.dumps(error, ensure_ascii=False)) + "\n")
    sys.exit(code)


if __name__ == "__main__":
    main()
