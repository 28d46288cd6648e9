"""Speeds that users wait for, printed with ratios: `python -m tests.bench.run [year] [zones] [visibility] [cases] [study] [edits] [sliders] [shape] [imports] [canvas] [sun] [daylight] [plant] [register] [large] [tables] [search] [workers] [report]`.

Nothing is asserted here: absolute times depend on the machine and on what else it is doing.
"""

from __future__ import annotations

import os
import resource
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from eurythm import simulate as pipeline
from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import sun_path
from eurythm.daylight import illuminance
from eurythm.daylight.figures import measured
from eurythm.exchange.demo import demo_project
from eurythm.exchange.importing import settled_bundle
from eurythm.exchange.intake.process import read_apart, read_plan_apart
from eurythm.exchange.intake.sift import Sift
from eurythm.exchange.samples import dxf, ifc
from eurythm.explain.ranking import rank
from eurythm.geometry.form import make_building
from eurythm.geometry.outline import form_outline
from eurythm.geometry.zoning import divide
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.project import Factors
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme, Use
from eurythm.model.shape import Zoning
from eurythm.model.study import StudySpec
from eurythm.simulate import building_of, run
from eurythm.study.levers.base import CaseInputs
from eurythm.study.plan import in_order
from eurythm.study.pool import Pool
from eurythm.study.runner import Job
from eurythm.sun.caster import Points, cast_all
from eurythm.sun.irradiation import hours_between, irradiation, see
from eurythm.sun.obstacles import obstacles_of
from eurythm.thermal.balance import balance
from eurythm.thermal.batch import balance_many
from eurythm.thermal.comfort import limits_of
from eurythm.thermal.parts import take_apart
from eurythm.thermal.prepare import transmitted_by_side
from tests.bench import browser, studies
from tests.bench.browser import FIVE
from tests.conftest import make_scheme, run_scheme, volume
from tests.reference import HOURS, Dense


def year() -> None:
    """One year of a five-zone storey in the compiled kernel, alone and per case in a batch, against one dense numpy solve an hour
    of the same network (the solve alone; putting the matrix together is not counted)."""
    made = run_scheme(make_scheme(volumes=[volume(zoning="perimeter_core", form=FIVE)]))
    best = min(_timed(lambda: balance(made.arrays)) for _ in range(9))
    limits = [limits_of(made.arrays.zones, Factors())] * 32
    batch = min(_timed(lambda: balance_many([made.arrays] * 32, limits)) for _ in range(5)) / 32
    network = Dense(made.arrays)
    systems = [network.assemble(hour) for hour in range(0, HOURS, 73)]  # hours of all seasons
    solving = _timed(lambda: [np.linalg.solve(matrix, right) for matrix, right in systems]) / len(systems)
    plain = solving * (HOURS + made.arrays.run_in_h)
    zones, elements = network.zones, len(network.nodes)
    print(f"year: {zones} zones, {elements} elements, {network.size} unknowns, 8760 h and 20 days of run-in")
    print(f"  compiled kernel {best * 1000:.1f} ms; dense numpy solve an hour {plain:.1f} s; {plain / best:.0f} times faster")
    print(f"  per case in a batch of 32 {batch * 1000:.1f} ms, {best / batch:.1f} times faster than alone")


def storeys_of(count: int) -> Any:
    return make_scheme(volumes=[volume(zoning="perimeter_core", storeys=count, form=FIVE)])


def zones() -> None:
    """One year of 5, 25 and 50 zones, and taking the loads of 25 zones apart."""
    for count in (1, 5, 10):
        made = run_scheme(storeys_of(count))
        seconds = min(_timed(lambda made=made: balance(made.arrays)) for _ in range(4))
        print(f"zones: {5 * count} zones, a year in {seconds * 1000:.0f} ms, {seconds / count / 5 * 1000:.1f} ms a zone")
        if count == 5:
            sun = transmitted_by_side(made.brief, made.building, made.light)
            apart = min(_timed(lambda made=made, sun=sun: take_apart(made.arrays, sun)) for _ in range(2))
            print(f"  its loads taken apart, building and all zones: {apart:.2f} s, {apart / seconds:.0f} times its year")


def visibility() -> None:
    """Hour by hour, which of 100 windows with 9 points each the sun reaches, among the demo's neighbours."""
    place = demo_project().place
    scheme = make_scheme(volumes=[volume(storeys=5, form={"length": 60, "depth": 20})], skin={"overhang_depth_m": {"south": 1.0}})
    building = building_of(place, scheme)
    faces = [f for f in building.faces if f.windows]
    spots = []
    for face in faces:
        for w in face.windows:
            s, z = np.meshgrid(w.s + w.width * np.array([1, 3, 5]) / 6, w.z + w.height * np.array([1, 3, 5]) / 6)
            spots.append(Points(face.origin + np.outer(s.ravel(), face.along) + np.outer(z.ravel(), [0, 0, 1]), face.normal))
    spots = spots[:100]
    sun = sun_path(54.2, -1.3, 0.0)
    lit = sun.direction[sun.up]
    seconds = _timed(lambda: cast_all(obstacles_of(building, place), spots, lit))
    rays = 9 * len(spots) * len(lit) / 2
    print(
        f"visibility: {len(spots)} windows x 9 points, {len(lit)} sunlit hours and 577 sky patches: {seconds:.2f} s, {rays / seconds / 1e6:.1f} M rays/s"
    )


def cases() -> None:
    """300 and 5,000 cases end to end on a warm pool of two, and the memory of all processes together while they run."""
    place = demo_project().place
    scheme = make_scheme(volumes=[volume("bar", zoning="perimeter_core", form=FIVE, x=6, y=6)])
    inputs = CaseInputs(place, Library(), Factors(), scheme, (scheme,))
    south, glass, over, turn = "skin/glazing_ratio/south", "skin/glazing", "skin/overhang_depth_m/south", [-30, -15, 0, 15, 30]
    glazings = ["double-lowe", "double-solar", "triple-clear", "double-clear"]

    def levers(ratios: int, panes: int, depths: int, walls: int, turns: int) -> list[dict[str, Any]]:
        steps = {
            south: np.linspace(0.2, 0.75, ratios),
            over: np.linspace(0, 1.8, depths),
            "skin/wall_insulation_m": np.linspace(0.1, 0.35, walls),
        }
        made = [{"kind": "field", "path": path, "steps": [round(float(v), 3) for v in values]} for path, values in steps.items()]
        return [{"kind": "turn", "steps": turn[:turns]}, {"kind": "field", "path": glass, "steps": glazings[:panes]}, *made]

    pool = Pool(2)
    try:
        warm = read_document(StudySpec, {"name": "w", "scheme": "t", "levers": levers(2, 1, 2, 2, 2)})
        list(pool.run(Job(warm, inputs, {}, "warm"), in_order(warm)))
        before = 0.0
        for sizes in ((5, 3, 4, 1, 5), (5, 4, 5, 10, 5)):
            spec = read_document(StudySpec, {"name": "b", "scheme": "t", "levers": levers(*sizes)})
            most, done, started = 0.0, 0, time.perf_counter()
            for lot in pool.run(Job(spec, inputs, {}, f"bench-{sizes}"), in_order(spec)):
                done += sum(r.status == "done" for r in lot)
                most = max(most, _memory_mb())
            seconds = time.perf_counter() - started
            ratio = f", {seconds / done / before:.2f} times the 300's a case" if before else ""
            before = before or seconds / done
            print(
                f"cases: {done} in {seconds:.1f} s on two processes, {seconds / done * 1000:.1f} ms a case{ratio}; memory of all (PSS) {most:.0f} MB"
            )
    finally:
        pool.close()


def daylight() -> None:
    """Daylight of the demo's reference (12 zones with windows): sensors the first time, after glazing edits, floors, figures; 300 cases with control and without."""
    project, year = demo_project(), standin_year("merrowhaven")
    quay = project.scheme("quay")
    quay = quay.model_copy(update={"use": Use()})  # so that a run alone works out no daylight
    pipeline.daylight(project.place, project.library, quay.model_copy(update={"turn_deg": 7.0}), year)
    documents = dump(quay)

    def timed(asked: Callable[[], Any]) -> tuple[float, float]:
        started, used = time.perf_counter(), time.process_time()
        asked()
        return time.perf_counter() - started, time.process_time() - used

    def seen(**skin: Any) -> Callable[[], Any]:
        scheme = read_document(Scheme, documents | {"skin": documents["skin"] | skin})
        run(project.place, project.library, scheme, project.factors, year)  # the sun on the façades is another part
        return lambda: pipeline.daylight(project.place, project.library, scheme, year)

    illuminance.forget()
    wall, cpu = timed(seen())
    print(f"daylight: 24 sensors of 12 zones first {wall:.2f} s, {cpu:.2f} s of CPU")
    for name, skin in (("another glazing", {"glazing": "triple-solar"}), ("another ratio", {"glazing_ratio": {"south": 0.6}})):
        wall, cpu = timed(seen(**skin))
        print(f"daylight: {name} {wall:.2f} s, {cpu:.2f} s of CPU")
    zones = [zone.id for zone in building_of(project.place, quay).zones]
    made: list[Any] = []
    wall, cpu = timed(lambda: made.append(pipeline.daylit_floors(project.place, project.library, quay, year, zones, 1.3)))
    light = made[0]
    occupied = dict.fromkeys(zones, np.arange(8760) % 24 > 8)
    figure, _ = timed(lambda: measured(light, "useful", occupied, 300, 0))
    hour, _ = timed(lambda: measured(light, "hour", occupied, 300, 4000))
    print(
        f"daylight: floors of {len(light.lux):,} points {wall:.2f} s, {light.lux.nbytes / 1e6:.0f} MB; another figure {figure:.3f} s, another hour {hour:.3f} s"
    )
    scheme = make_scheme(volumes=[volume("bar", zoning="perimeter_core", form=FIVE, x=6, y=6)])
    pool = Pool(2)
    try:
        before = 0.0
        for kind in ("none", "dimmed", "none", "dimmed"):
            own = read_document(Scheme, dump(scheme) | {"use": {"lights": {"kind": kind}}})
            inputs = CaseInputs(project.place, Library(), Factors(), own, (own,))
            levers = [
                {"kind": "turn", "steps": [-30, -15, 0, 15, 30]},
                {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.35, 0.5, 0.65, 0.8]},
                {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
                {"kind": "field", "path": "skin/wall_insulation_m", "steps": [0.1, 0.17, 0.24, 0.3]},
            ]
            spec = read_document(StudySpec, {"name": "b", "scheme": "t", "levers": levers})
            started = time.perf_counter()
            done = sum(r.status == "done" for lot in pool.run(Job(spec, inputs, {}, f"light-{kind}-{before}"), in_order(spec)) for r in lot)
            seconds = time.perf_counter() - started
            told = f", {seconds / before:.2f} times the time without" if kind != "none" else ""
            print(f"daylight: {done} cases, control {kind}: {seconds:.1f} s{told}")
            before = seconds
    finally:
        pool.close()


def shape() -> None:
    """Contact of 500 rooms that stand apart by walls, and perimeter and core of every form."""
    corners = [(0, 0), (5, 0), (5, 4), (0, 4)]
    rooms = [
        {
            "id": f"r{s}-{i}-{j}",
            "outline": {"points": [{"id": f"e{k}", "x": i * 5.2 + x, "y": j * 4.2 + y} for k, (x, y) in enumerate(corners)], "z": s * 3.3, "height": 3},
        }
        for s in range(5) for i in range(10) for j in range(10)
    ]  # fmt: skip
    scheme = make_scheme(zones=rooms, contact_gap_m=0.5)
    zoning = Zoning(kind="perimeter_core", depth_m=4.5)
    print(f"shape: contact of 500 rooms {min(_timed(lambda: make_building(scheme, 0.0)) for _ in range(3)):.2f} s")
    for kind in ("rectangle", "l", "t", "u", "courtyard"):
        outline = form_outline(make_scheme(volumes=[volume(kind=kind)]).volumes[0])
        print(f"  perimeter and core of {kind}: {min(_timed(lambda o=outline: divide(o, zoning)) for _ in range(5)) * 1000:.1f} ms")
    turns = np.linspace(0, 2 * np.pi, 61)[:-1]
    reach = 20 + 8 * (np.arange(60) % 2)
    star = {
        "kind": "polygon",
        "points": [
            {"id": f"e{k}", "x": float(r * np.cos(t)), "y": float(r * np.sin(t))} for k, (r, t) in enumerate(zip(reach, turns, strict=True))
        ],
    }
    outline = form_outline(make_scheme(volumes=[{"id": "v", "form": star, "storeys": [{"id": "s"}]}]).volumes[0])
    print(
        f"  of a star with 60 corners: {min(_timed(lambda: divide(outline, Zoning(kind='perimeter_core'))) for _ in range(3)) * 1000:.1f} ms"
    )


def imports() -> None:
    """Models to energy models, each file in a process of its own: the court of 30 rooms, one of 34 storeys; a plan of 50,000 lines."""
    with tempfile.TemporaryDirectory() as folder:
        for storeys in (2, 34):
            path = Path(folder) / f"court-{storeys}.ifc"
            ifc.write_court(path, ifc.Options(storeys=storeys))
            started = time.perf_counter()
            received = read_apart(path, path.name)
            reading = time.perf_counter() - started
            bundle, _ = settled_bundle(received, Sift(), None)
            settling = time.perf_counter() - started - reading
            most = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1000
            things = len(received.spaces), len(received.elements)
            print(
                f"imports: {things[0]} spaces, {things[1]} elements, {path.stat().st_size / 1e6:.1f} MB: read {reading:.1f} s, settled {settling:.1f} s into {len(bundle.scheme.zones)} zones; reading took at most {most:.0f} MB"
            )
        path = Path(folder) / "plan.dxf"
        dxf.write_court(path, "m", hatching=50_000)
        print(f"  a plan of 50,000 lines: read {_timed(lambda: read_plan_apart(path, path.name)):.1f} s")


def _memory_mb() -> float:
    """Proportional set size of this process and its children, MB."""
    me, total = os.getpid(), 0
    for folder in Path("/proc").iterdir():
        if not folder.name.isdigit():
            continue
        try:
            parent = int((folder / "stat").read_text().rsplit(")", 1)[1].split()[1])
            if int(folder.name) == me or parent == me:
                total += int(
                    next(line for line in (folder / "smaps_rollup").read_text().splitlines() if line.startswith("Pss:")).split()[1]
                )
        except (OSError, StopIteration, ValueError):
            continue
    return total / 1024


def _timed(call: Any) -> float:
    started = time.perf_counter()
    call()
    return time.perf_counter() - started


def plant() -> None:
    """Plant, sun and money of 15 zones after the heat balance, a price edit, and 300 cases of systems, arrays and prices on a warm pool of two."""
    project, climate = demo_project(), standin_year("merrowhaven")
    plant_of = dump(project.scheme("terraces").plant)
    schemes = [
        read_document(Scheme, dump(project.scheme("quay")) | {"plant": plant_of | {"battery": {"usable_kwh": 10.0 + k}}}) for k in range(20)
    ]
    scheme, documents = schemes[0], (project.place, project.library)
    run(*documents, scheme, project.factors, climate)
    ready = [pipeline.prepare_case(*documents, one, project.factors, climate) for one in schemes]
    case = ready[0]
    pipeline.run_many([case])
    metered = sorted(_timed(lambda one=one: pipeline.run_many([one])) for one in ready[1:])[9]
    priced = []
    for k in range(10):
        factors = read_document(Factors, {"electricity": {"price": 0.2 + 0.01 * k}})
        priced.append(_timed(lambda factors=factors: run(*documents, scheme, factors, climate)))
    print(f"plant: systems, arrays, battery and money of {len(case.arrays.zone_ids)} zones {metered * 1000:.1f} ms after the heat balance")
    print(f"  another price, with all that the page is told {sorted(priced)[5] * 1000:.0f} ms")
    inputs = CaseInputs(project.place, project.library, project.factors, scheme, (scheme,))
    systems = ["district-radiators", "air-pump-fan-coils", "ground-pump-floor", "gas-fan-coils", "district-fan-coils"]
    levers = [
        {"kind": "field", "path": "plant/main/ready", "steps": systems},
        {"kind": "field", "path": "plant/arrays/roofs/tilt_deg", "steps": [5, 12, 20, 30]},
        {"kind": "field", "path": "plant/battery/usable_kwh", "steps": [0, 30, 60]},
        {"kind": "factor", "path": "electricity/price", "steps": [0.15, 0.2, 0.25, 0.3, 0.35]},
    ]
    spec = read_document(StudySpec, {"name": "b", "scheme": "quay", "levers": levers})
    warm = read_document(StudySpec, {"name": "w", "scheme": "quay", "levers": [levers[3]]})
    pool = Pool(2)
    try:
        list(pool.run(Job(warm, inputs, {}, "warm"), in_order(warm)))
        for again in ("", ", again"):
            started = time.perf_counter()
            done = sum(r.status == "done" for lot in pool.run(Job(spec, inputs, {}, f"plant{again}"), in_order(spec)) for r in lot)
            print(f"  {done} cases of systems, arrays, batteries and prices {time.perf_counter() - started:.1f} s on two processes{again}")
    finally:
        pool.close()


def sun() -> None:
    """A year's irradiation of about 300 faces at a grid of one metre among 60 neighbours, and the same again over another span."""
    volumes = [volume(f"v{k}", x=30 * (k % 6), y=30 * (k // 6), storeys=4, form={"length": 14, "depth": 12}) for k in range(18)]
    around = [
        {"id": f"n{k}", "x": -60 + 25 * (k % 10), "y": -70 + 100 * (k // 10), "length": 15, "depth": 10, "height": 12} for k in range(60)
    ]
    place = read_document(Place, {"boxes": around})
    building, climate = building_of(place, make_scheme(volumes=volumes)), standin_year("merrowhaven")
    faces = [f for f in building.faces if f.boundary == "outdoors"]
    started = time.perf_counter()
    seen = see(building, place, climate, faces, 1.0)
    irradiation(seen, hours_between(0, 364, 0, 23))
    first = time.perf_counter() - started
    again = min(_timed(lambda: irradiation(seen, hours_between(151, 242, 8, 18))) for _ in range(5))
    whole = min(_timed(lambda: irradiation(seen, hours_between(0, 364, 0, 23))) for _ in range(5))
    print(
        f"sun: {len(faces)} faces, {sum(len(g.points) for g in seen.grids)} points, 60 neighbours: {first:.1f} s; another span {again:.2f} s, the year again {whole:.2f} s"
    )


def register() -> None:
    """The register of the demo's reference ranked on a warm pool: values that leave the sun alone, then the others."""
    project = demo_project()
    scheme, climate = project.scheme("quay"), standin_year("merrowhaven")
    pool = Pool()
    pool.warm()
    try:
        for _ in range(3):
            told = []
            for rays in (False, True):
                started = time.perf_counter()
                ranked = rank(project, scheme, climate, rays, pool)
                told.append((len(ranked), sum(len(r.moves) for r in ranked), time.perf_counter() - started))
            (a, b, quick), (c, d, slow) = told
            print(
                f"register: {a} values in {b} runs {quick:.1f} s, {c} values in {d} runs with new rays {slow:.1f} s; together {quick + slow:.1f} s"
            )
    finally:
        pool.close()


LARGE: dict[int, list[tuple[int, int, int, int, int, float]]] = {
    140: [(60, 40, 8, 0, 0, 0.0), (30, 24, 20, 10, 8, 28.0)],
    500: [(30, 24, 10, k % 5 * 45, k // 5 * 50, 0.0) for k in range(10)],
}
"""Volumes of models with so many zones, a tower on a podium and ten houses in two rows: length, depth, storeys, x, y and level of each."""


def large() -> None:
    """Models of 140 and 500 zones: a ratio, an overhang and a length, worked out by themselves, and the memory that this takes."""
    place, climate = demo_project().place, standin_year("merrowhaven")
    for count, parts in LARGE.items():

        def drawn(skin: dict[str, Any], more: float = 0.0, parts: Any = parts) -> Scheme:
            volumes = []
            for k, (length, depth, storeys, x, y, level) in enumerate(parts):
                form = {"length": length + more * (k == 0), "depth": depth}
                volumes.append(volume(f"v{k}", zoning="perimeter_core", storeys=storeys, form=form, x=x, y=y, base_level_m=level))
            return make_scheme(volumes=volumes, skin={"glazing_ratio": {"south": 0.4}} | skin)

        def taken(scheme: Scheme) -> float:
            return _timed(lambda: run(place, Library(), scheme, Factors(), climate))

        taken(drawn({}))
        ratio = min(taken(drawn({"glazing_ratio": {"south": 0.41 + 0.01 * k}})) for k in range(3))
        length = min(taken(drawn({}, 0.5 + k)) for k in range(2))
        overhang = min(taken(drawn({"overhang_depth_m": {"south": 0.5 + 0.1 * k}})) for k in range(2))
        print(f"large: {count} zones: ratio {ratio:.1f} s, length {length:.1f} s, overhang {overhang:.1f} s; at most {_memory_mb():.0f} MB")


BENCHES: dict[str, Callable[[], None]] = {
    bench.__name__: bench
    for bench in (
        year, zones, visibility, cases, browser.study, browser.edits, browser.sliders, shape, imports, browser.canvas, sun, daylight, plant,
        register, large, studies.tables, studies.search, studies.workers, studies.report,
    )
}  # fmt: skip


if __name__ == "__main__":
    standin_year("merrowhaven")
    for name in sys.argv[1:] or BENCHES:
        BENCHES[name]()
