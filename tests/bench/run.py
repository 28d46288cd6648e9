"""Speeds that users wait for, printed with ratios: `python -m tests.bench.run [year] [zones] [visibility] [cases] [study] [edits] [sliders] [shape] [imports] [canvas] [sun] [daylight] [plant] [register]`.

Nothing is asserted here: absolute times depend on the machine and on what else it is doing.
"""

from __future__ import annotations

import json
import os
import resource
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import sync_playwright

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
from eurythm.model.project import Factors, Project, StudySpec
from eurythm.model.reading import dump, read_document
from eurythm.model.scheme import Scheme, Use
from eurythm.model.shape import Zoning
from eurythm.simulate import building_of, run
from eurythm.study.levers.base import CaseInputs
from eurythm.study.plan import run_order
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
from tests.conftest import make_scheme, run_scheme, volume
from tests.e2e.conftest import CHROMIUM, QUIET, Server
from tests.e2e.pages import Eurythm, api, opened
from tests.e2e.watch import Watch
from tests.reference import HOURS, Dense

FIVE = {"length": 56, "depth": 17}


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
        list(pool.run(Job(warm, inputs, {}, "warm"), run_order(warm)))
        before = 0.0
        for sizes in ((5, 3, 4, 1, 5), (5, 4, 5, 10, 5)):
            spec = read_document(StudySpec, {"name": "b", "scheme": "t", "levers": levers(*sizes)})
            most, done, started = 0.0, 0, time.perf_counter()
            for lot in pool.run(Job(spec, inputs, {}, f"bench-{sizes}"), run_order(spec)):
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
            done = sum(
                r.status == "done" for lot in pool.run(Job(spec, inputs, {}, f"light-{kind}-{before}"), run_order(spec)) for r in lot
            )
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


FRAMES = """() => new Promise(done => {
  const times = []; let last = performance.now();
  const tick = now => { times.push(now - last); last = now; times.length < 90 ? requestAnimationFrame(tick) : done(times) };
  requestAnimationFrame(tick);
})"""


def canvas() -> None:
    """The browser's canvas, drawn by the processor alone as no graphics card is there: a model of 3,000 faces turned, one of its faces
    selected, and a plan of 50,000 lines moved and caught."""
    volumes = [
        volume(f"v{k}", storeys=18, zoning="perimeter_core", form={"length": 30, "depth": 18}, x=34.0 * (k % 5), y=22.0 * (k // 5))
        for k in range(10)
    ]
    project = demo_project().model_copy(update={"schemes": (make_scheme(volumes=volumes),)})
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder) / "data").start()
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        try:
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.set_default_timeout(180_000)
            ours = Eurythm(page, server, opened(server, project), "t")
            _turning(ours)
            _sun_moving(ours)
            _catching(server, page, Path(folder))
        finally:
            browser.close()
            server.stop()


def _turning(ours: Eurythm) -> None:
    page = ours.page
    start = time.perf_counter()
    ours.open("shape")
    page.wait_for_function("() => window.__view")
    faces = len(ours.geometry()["faces"])
    print(f"canvas: {faces} faces drawn {time.perf_counter() - start:.1f} s after the page was asked for")
    ours.settled()
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    page.mouse.move(500, 560)
    page.mouse.down()
    for k in range(60):
        page.mouse.move(500 + 4 * k, 560 - k)
    page.mouse.up()
    _frames("turned by the pointer", page.evaluate("() => window.__frames"))
    roof = next(f for f in ours.geometry()["faces"] if f["kind"] == "ceiling" and f["boundary"] == "outdoors")
    at = page.evaluate("p => window.__view.project(...p)", [sum(p[k] for p in roof["loops"][0]) / len(roof["loops"][0]) for k in range(3)])
    box = page.locator(".canvas canvas").bounding_box() or {"x": 0, "y": 0}
    start = time.perf_counter()
    page.mouse.click(box["x"] + at["x"], box["y"] + at["y"])
    page.get_by_role("heading", name="Ceiling or roof").wait_for()
    print(f"  a face selected by a click: its sheet after {(time.perf_counter() - start) * 1000:.0f} ms")


def _sun_moving(ours: Eurythm) -> None:
    """Shadows of the same faces while the hour of the day is drawn along its slider."""
    page = ours.page
    ours.open("place").settled()
    page.get_by_role("button", name="Hide climate sheet").click()
    page.get_by_role("button", name="show", exact=True).click()
    slider = page.get_by_label("Hour of the day")
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box() or {"x": 0, "y": 0, "width": 100, "height": 10}
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * 0.4, y)
    page.mouse.down()
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    for k in range(60):
        page.mouse.move(box["x"] + box["width"] * (0.4 + 0.005 * k), y)
    page.mouse.up()
    _frames("shadows redrawn while the hour is drawn along", page.evaluate("() => window.__frames"))


def _catching(server: Server, page: Any, folder: Path) -> None:
    dxf.write_court(folder / "large.dxf", "m", hatching=50_000)
    project = api(server, "projects", {"name": "Large plan"})
    ours = Eurythm(page, server, project["id"], "scheme-1").open("shape")
    start = time.perf_counter()
    page.set_input_files('input[aria-label="Lay a plan under"]', folder / "large.dxf")
    page.locator("[data-underlay] path").first.wait_for(state="attached", timeout=120_000)
    print(f"  a plan of 50,000 lines: read and drawn after {time.perf_counter() - start:.1f} s")
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    page.mouse.move(700, 300)
    page.mouse.down()
    for k in range(60):
        page.mouse.move(700 - 3 * k, 300 + k)
    page.mouse.up()
    _frames("the plan moved by the pointer", page.evaluate("() => window.__frames"))
    ours.button("room").click()
    page.evaluate(f"window.__frames = ({FRAMES})(); 0")
    for k in range(80):
        page.mouse.move(400 + 4 * k, 250 + 3 * k)
    _frames("corners caught on it while the pointer moves", page.evaluate("() => window.__frames"))


def _frames(what: str, times: list[float]) -> None:
    busy = sorted(times)
    print(f"  {what}: frames of {np.median(busy):.0f} ms, the slowest tenth above {busy[int(len(busy) * 0.9)]:.0f} ms")


def _timed(call: Any) -> float:
    started = time.perf_counter()
    call()
    return time.perf_counter() - started


def _call(url: str, path: str, body: dict[str, Any] | None = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(f"{url}/api/{path}", data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=120) as answer:
        return json.loads(answer.read())


def study() -> None:
    """300 cases of a five-zone storey, from opening the page and from the click to the finished page, on a fresh server with a warm pool."""
    from playwright.sync_api import sync_playwright

    from tests.e2e.conftest import CHROMIUM, QUIET, Server

    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            project = _call(server.url, "projects", {"name": "Bench"})
            place = demo_project().place.model_dump(mode="json", exclude_unset=True)
            item = volume("bar", zoning="perimeter_core", form=FIVE, x=6, y=6)
            edits = [{"op": "set", "path": "place", "value": place}, {"op": "put", "path": "schemes/scheme-1/volumes", "item": item}]
            state = _call(server.url, f"projects/{project['id']}/edits", {"revision": 1, "edit": {"op": "together", "edits": edits}})
            levers = [
                {"kind": "turn", "steps": [-30, -15, 0, 15, 30]},
                {"kind": "field", "path": "skin/glazing_ratio/south", "steps": [0.2, 0.3, 0.45, 0.6, 0.75]},
                {"kind": "field", "path": "skin/glazing", "steps": ["double-lowe", "double-solar", "triple-clear"]},
                {"kind": "field", "path": "skin/overhang_depth_m/south", "steps": [0, 0.6, 1.2, 1.8]},
            ]
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=QUIET)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            draft = {
                "state": {"units": "SI", "sheetWidth": 340, "drafts": {f"{state['id']}/scheme-1": {"name": "Bench", "levers": levers}}},
                "version": 0,
            }
            page.add_init_script(f"localStorage.setItem('eurythm', {json.dumps(json.dumps(draft))})")
            opened = time.perf_counter()
            page.goto(f"{server.url}/p/{state['id']}/study/scheme-1")
            button = page.get_by_role("button", name="Run 300 cases")
            button.wait_for(timeout=60_000)
            started = time.perf_counter()
            button.click()
            page.locator('[data-study-status="done"]').filter(has_text="300 in the running").wait_for(timeout=180_000)
            done = time.perf_counter()
            print(
                f"study: 300 cases of five zones, page to page {done - opened:.1f} s from opening the page, {done - started:.1f} s from the click"
            )
            browser.close()
        finally:
            server.stop()


AS_USERS_HAVE_IT = "--disable-blink-features=AutomationControlled"
"""Edges of the canvas are smoothed but where a browser says that it is driven."""
EDITS: dict[str, tuple[str, str, Callable[[int], str]]] = {
    "setpoint": ("use", "use/heating_c", lambda k: f"{18 + 0.2 * k:g}"),
    "glass": ("skin", "Window", lambda k: ("Triple, low-emissive", "Double, solar control", "Double, low-emissive")[k % 3]),
    "insulation": ("skin", "skin/roof_insulation_m", lambda k: f"{200 + 5 * k}"),
    "ratio": ("skin", "skin/glazing_ratio/south", lambda k: f"{20 + k}"),
    "overhang": ("skin", "skin/overhang_depth_m/south", lambda k: f"{0.3 + 0.02 * k:.2f}"),
    "length": ("shape", "volumes/bar/form/length", lambda k: f"{60 + 0.1 * k:.1f}"),
}
"""Edits that users wait for: stage, field or name of the choice, and the value of the k-th."""


def edits() -> None:
    """30 edits of each kind on the demo's reference (15 zones): from Enter until the readout shows the new result, what they ask for, and where
    the time goes: on the server, on the wire, in script and layout, and in drawing (by processors; all but drawing lies within the wait).
    """
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*QUIET, AS_USERS_HAVE_IT])
            for control in ("none", "dimmed"):
                page = browser.new_page(viewport={"width": 1280, "height": 800})
                watch = Watch(page)
                ours = Eurythm(page, server, _with_lights(server, control))
                for kind, (stage, what, value) in EDITS.items():
                    if ours.page.url.split("/")[-2:-1] != [stage]:
                        ours.open(stage).settled()
                    page.wait_for_timeout(1000)
                    _edited(ours, watch, kind, what, value, control)
                page.close()
            browser.close()
        finally:
            server.stop()


def sliders() -> None:
    """How many values a second the readout shows while a slider is moved for five seconds, and how long after it was let go the year stands."""
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = Server(Path(folder)).start()
        try:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=[*QUIET, AS_USERS_HAVE_IT])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            ours = Eurythm(page, server, _with_lights(server, "none"))
            for stage, label in (("use", "Heating setpoint"), ("skin", "Ratio south"), ("skin", "Overhang south")):
                ours.open(stage).settled()
                page.wait_for_timeout(1500)
                shown, after = _slid(ours, page.get_by_label(f"{label}, slider"))
                print(f"sliders: {label}: {shown / 5:.1f} values a second; {after:.2f} s from letting go until the year stands")
            browser.close()
        finally:
            server.stop()


def _slid(ours: Eurythm, slider: Any) -> tuple[int, float]:
    slider.scroll_into_view_if_needed()
    page, box = ours.page, ours.still(slider)
    page.evaluate(
        "() => { window.__shown = new Set(); const look = () => { window.__shown.add(document.querySelector('[data-figure=\"eui\"]')?.dataset.exact);"
        " requestAnimationFrame(look); }; look(); }"
    )
    height = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * 0.3, height)
    page.mouse.down()
    begun, step = time.perf_counter(), 0
    while time.perf_counter() - begun < 5.0:
        step += 1
        page.mouse.move(box["x"] + box["width"] * (0.3 + 0.4 * (time.perf_counter() - begun) / 5.0), height)
        page.wait_for_timeout(40)
    shown = page.evaluate("() => window.__shown.size") - 1
    before, released = ours.revision, time.perf_counter()
    page.mouse.up()
    ours.settled(before)
    return shown, time.perf_counter() - released


def _with_lights(server: Server, control: str) -> str:
    """The demo with lights of its reference that follow daylight or do not; returns the project's id."""
    data = dump(demo_project())
    scheme = data["schemes"][0]
    scheme["use"] = scheme["use"] | {"lights": {"kind": control}}
    scheme["use"]["zones"] = [zone for zone in scheme["use"].get("zones", []) if "lights" not in zone]
    return opened(server, read_document(Project, data))


def _edited(ours: Eurythm, watch: Watch, kind: str, what: str, value: Callable[[int], str], control: str) -> None:
    taken, costs, served = [], [], 0.0

    def heard(response: Any) -> None:
        nonlocal served
        if "/outcome" in response.url or response.url.endswith(("/edits", "/geometry")):
            timing = response.request.timing
            served += max(timing["responseStart"] - timing["requestStart"], 0.0) / 1000.0

    ours.page.on("response", heard)
    for k in range(30):
        watch.begin()
        started = time.perf_counter()
        if "/" in what:
            ours.type(what, value(k))
        else:
            ours.choose(what, value(k))
        taken.append(time.perf_counter() - started)
        costs.append(watch.end(150))
    ours.page.remove_listener("response", heard)
    taken.sort()
    mean = {name: sum(getattr(c, name) for c in costs) / 30 for name in ("renders", "frames", "script_s", "layout_s", "drawing_s")}
    print(
        f"edits, lights {control}, {kind}: median {taken[15]:.2f} s, 95th percentile {taken[28]:.2f} s; "
        f"{sum(len(c.requests) for c in costs) / 30:.1f} requests, {mean['renders']:.0f} components rendered, {mean['frames']:.1f} frames; "
        f"server {served / 30:.2f} s of all answers, script {mean['script_s']:.2f}, layout {mean['layout_s']:.2f}, drawing {mean['drawing_s']:.2f} s",
        flush=True,
    )


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
        list(pool.run(Job(warm, inputs, {}, "warm"), run_order(warm)))
        for again in ("", ", again"):
            started = time.perf_counter()
            done = sum(r.status == "done" for lot in pool.run(Job(spec, inputs, {}, f"plant{again}"), run_order(spec)) for r in lot)
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


if __name__ == "__main__":
    standin_year("merrowhaven")
    for name in sys.argv[1:] or [
        "year",
        "zones",
        "visibility",
        "cases",
        "study",
        "edits",
        "sliders",
        "shape",
        "imports",
        "canvas",
        "sun",
        "daylight",
        "plant",
        "register",
    ]:
        {
            "year": year,
            "zones": zones,
            "visibility": visibility,
            "cases": cases,
            "study": study,
            "edits": edits,
            "sliders": sliders,
            "shape": shape,
            "imports": imports,
            "canvas": canvas,
            "sun": sun,
            "daylight": daylight,
            "plant": plant,
            "register": register,
        }[name]()
