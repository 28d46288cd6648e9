"""The caster and the light on faces against closed forms and against pvlib."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pvlib
import pytest

from eurythm.climate.standin import standin_year
from eurythm.climate.sunpath import sun_of
from eurythm.geometry.building import Building, Face
from eurythm.geometry.form import make_building
from eurythm.geometry.openings import place_openings
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from eurythm.sun import caster
from eurythm.sun.bounce import Bounce, given_back, look_round
from eurythm.sun.caster import Points, cast, sky_patches
from eurythm.sun.obstacles import Obstacles, box_loops, obstacles_of, triangles_of
from eurythm.sun.profile import profile_tangent, shaded_by_overhang
from eurythm.sun.radiation import FaceLight, crown_transmittance, light_on_faces, sky_light, sun_in_drawing
from eurythm.sun.samples import FaceSamples, sample
from eurythm.sun.triangles import merged
from tests.conftest import make_scheme, volume

SOUTH = np.array([0.0, -1.0, 0.0])
NOTHING = np.zeros((0, 3, 3))


def walls_of(corner: np.ndarray, size: tuple[float, float, float], turn: float) -> np.ndarray:
    """Triangles of an upright box."""
    return np.concatenate([triangles_of((loop,)) for loop in box_loops(corner, size, turn)])


def points(*at: tuple[float, float, float], normal: np.ndarray = SOUTH) -> Points:
    return Points(np.array(at, dtype=float), normal)


def free(bits: np.ndarray, hours: int) -> np.ndarray:
    return np.unpackbits(bits, axis=1, count=hours).astype(bool)


def place(**parts: object) -> Place:
    return read_document(Place, parts)


def light(scheme=None, north: float = 0.0, **parts: object) -> dict[str, FaceLight]:
    scheme = scheme or make_scheme(volumes=[volume()])
    where = place(north_deg=north, **parts)
    building = place_openings(make_building(scheme, 0.0), scheme.skin, north)
    year = standin_year("merrowhaven")
    return light_on_faces(building, where, year)


def test_patches_cover_the_half_sphere() -> None:
    directions, angles = sky_patches()
    assert len(angles) == 577
    assert angles.sum() == pytest.approx(2 * np.pi)
    assert np.linalg.norm(directions, axis=1) == pytest.approx(1.0)
    assert np.sum(angles * directions[:, 2]) / np.pi == pytest.approx(1.0, rel=2e-3)


@pytest.mark.parametrize(("normal", "view"), [(SOUTH, 0.5), (np.array([0.0, 0.0, 1.0]), 1.0)])
def test_nothing_in_the_way_leaves_the_whole_sky(normal: np.ndarray, view: float) -> None:
    seen = cast(Obstacles(NOTHING, NOTHING, NOTHING), points((0, 0, 5), normal=normal), np.array([normal]))
    assert seen.sky[0] == pytest.approx(view)
    assert seen.blocked[0] == pytest.approx(0.0, abs=1e-9)
    assert free(seen.sun, 1).all()


@pytest.mark.parametrize(("distance", "height"), [(10.0, 10.0), (20.0, 8.0), (6.0, 15.0)])
def test_sky_over_a_long_wall_opposite(distance: float, height: float) -> None:
    """A point at the foot of a wall sees (1 - sin a)/2 of the sky over an endless wall of elevation a."""
    wall = walls_of(np.array([-2000.0, -distance - 1.0, 0.0]), (4000.0, 1.0, height), 0.0)
    seen = cast(Obstacles(wall, NOTHING, NOTHING), points((0, 0, 0)), np.array([SOUTH]))
    sine = height / np.hypot(height, distance)
    assert seen.sky[0] == pytest.approx((1 - sine) / 2, abs=0.012)
    assert seen.sky[0] + seen.blocked[0] == pytest.approx(0.5)


def test_overhang_shades_by_the_profile_angle() -> None:
    depth, below = 1.2, 1.5
    canopy = triangles_of((np.array([[-500, 0, 3], [500, 0, 3], [500, -depth, 3], [-500, -depth, 3]], dtype=float),))
    sun = sun_of(standin_year("merrowhaven").location)
    lit = sun.direction[sun.up]
    seen = free(cast(Obstacles(NOTHING, canopy, NOTHING), points((0, 0, 3 - below)), lit).sun, len(lit))[0]
    front = -lit[:, 1] > 0.02
    profile = lit[front, 2] / -lit[front, 1]
    clear = np.abs(profile - below / depth) > 0.02
    assert (seen[front][clear] == (profile[clear] < below / depth)).all()
    assert 0 < seen[front].sum() < front.sum()


def test_layers_add_up_and_crowns_are_apart() -> None:
    wall = walls_of(np.array([-50.0, -10.0, 0.0]), (100.0, 1.0, 6.0), 0.0)
    canopy = triangles_of((np.array([[-50, 0, 4], [50, 0, 4], [50, -1, 4], [-50, -1, 4]], dtype=float),))
    sun = sun_of(standin_year("sorrel-flats").location)
    lit = sun.direction[sun.up]
    where = points((0, 0, 1), (5, 0, 2))
    both = cast(Obstacles(wall, canopy, NOTHING), where, lit)
    one, other = cast(Obstacles(wall, NOTHING, NOTHING), where, lit), cast(Obstacles(NOTHING, canopy, NOTHING), where, lit)
    assert (both.sun == (one.sun & other.sun)).all()
    leafy = cast(Obstacles(NOTHING, NOTHING, wall), where, lit)
    assert free(leafy.sun, len(lit)).all()
    assert (leafy.crown_free == one.sun).all()
    assert leafy.crowned == pytest.approx(one.blocked, abs=1e-9)


def test_compiled_rays_meet_what_the_ray_library_meets(monkeypatch: pytest.MonkeyPatch) -> None:
    """Pairs of triangles that make up a parallelogram are met as one; others, such as of a trapezoid, as they are."""
    flat = np.array([[0, -1.2, 0], [3, -1.2, 0], [3, 0, 0], [0, 0, 0]]) + [0, 0, 2.5]
    fin = np.array([[3.2, 0, 0], [3.2, -0.9, 0], [3.2, -0.9, 2.5], [3.2, 0, 2.0]])
    shades = np.concatenate([triangles_of((loop,)) for loop in (flat, fin)])
    whole = merged(shades)[1]
    assert whole.tolist() == [True, False, False]
    rng = np.random.default_rng(7)
    at = points(*[(float(x), -0.001, float(z)) for x, z in rng.uniform([0, 0], [3.1, 2.4], (40, 2))])
    sun = rng.normal(size=(500, 3)) * [1, 1, 0.4]
    sun = sun[(sun[:, 1] < 0) & (sun[:, 2] > 0)]
    sun /= np.linalg.norm(sun, axis=1)[:, None]
    compiled = cast(Obstacles(NOTHING, shades, NOTHING), at, sun)
    monkeypatch.setattr(caster, "FEW_TRIANGLES", 0)
    caster.ASIDE.clear()
    library = cast(Obstacles(NOTHING, shades, NOTHING), at, sun)
    one, other = (np.unpackbits(c.sun, axis=1, count=c.hours) for c in (compiled, library))
    assert 0.1 < one.mean() < 0.9
    assert (one != other).mean() < 2e-4  # single precision along the edges


def test_the_sun_on_several_parts_is_that_of_their_points() -> None:
    """By the packed bits, clear and through crowns, whichever parts were asked about before."""
    rng = np.random.default_rng(3)
    wall = walls_of(np.array([-50.0, -10.0, 0.0]), (100.0, 1.0, 6.0), 0.0)
    tree = walls_of(np.array([-2.0, -5.0, 0.0]), (4.0, 1.0, 9.0), 0.0)
    lit = sun_of(standin_year("merrowhaven").location).direction[4000:4700]
    lit = lit[lit[:, 2] > 0]
    seen = cast(Obstacles(wall, NOTHING, tree), points((0, 0, 1), (5, 0, 4), (1, 0, 7)), lit)
    sun, crown_free = (free(bits, len(lit)) for bits in (seen.sun, seen.crown_free))
    for weights in (rng.random((2, 3)), rng.random((2, 3)), np.eye(3)[:2]):
        for _ in range(2):
            clear, leafy = seen.lit(weights)
            assert leafy is not None
            assert leafy.any()
            assert clear == pytest.approx(weights @ (sun & crown_free))
            assert leafy == pytest.approx(weights @ (sun & ~crown_free))


def test_the_cache_knows_what_it_depends_on(monkeypatch: pytest.MonkeyPatch) -> None:
    made = []
    monkeypatch.setattr(caster, "_cast_layer", lambda *a, real=caster._cast_layer: (made.append(1), real(*a))[1])
    wall = walls_of(np.array([-50.0, -11.5, 0.0]), (100.0, 1.0, 7.25), 0.0)
    lit = np.array([[0.0, -0.8, 0.6], [0.3, -0.9, 0.3]])
    where = points((0.125, 0, 1))
    cast(Obstacles(wall, NOTHING, NOTHING), where, lit)
    first = len(made)
    cast(Obstacles(wall, NOTHING, NOTHING), where, lit)
    assert len(made) == first
    cast(Obstacles(wall + 0.5, NOTHING, NOTHING), where, lit)
    assert len(made) == first + 1
    cast(Obstacles(wall, NOTHING, NOTHING), where, lit[::-1].copy())
    assert len(made) > first + 1


def wide_shade(y: float, z: float, depth: float = 0.8) -> np.ndarray:
    """Triangles of a level shade six metres wide that stands out to the south from some line."""
    return triangles_of((np.array([[-3, y, z], [3, y, z], [3, y - depth, z], [-3, y - depth, z]], dtype=float),))


def test_shades_below_and_behind_cost_no_ray(monkeypatch: pytest.MonkeyPatch) -> None:
    """What stands before the storey below or on the other side hides nothing of sun and sky, and nothing is cast anew when it changes."""
    _, sun = sun_in_drawing(0.0, standin_year("merrowhaven").location)
    wall = points((-1, 0, 4), (1, 0, 5))
    own, below, behind, above = wide_shade(0, 5.5), wide_shade(0, 2.5), wide_shade(12, 5.5), wide_shade(0, 9.0, 6.0)
    alone = cast(Obstacles(NOTHING, own, NOTHING), wall, sun)
    cast_layer, asked = caster._cast_layer, []
    monkeypatch.setattr(caster, "_cast_layer", lambda layer, of: asked.append(layer) or cast_layer(layer, of))
    beside = cast(Obstacles(NOTHING, np.concatenate([own, below, behind]), NOTHING), wall, sun)
    assert not asked
    assert (beside.sun == alone.sun).all()
    assert (beside.sky == alone.sky).all()
    with_above = cast(Obstacles(NOTHING, np.concatenate([own, above]), NOTHING), wall, sun)
    assert len(asked) == 1  # what is near is known
    hidden = free(alone.sun, len(sun)) & ~free(with_above.sun, len(sun))
    assert hidden.any()
    assert not hidden[:, sun[:, 2] < 0.4].any()  # four metres above and six wide: not the low sun


def test_far_shades_hide_alike_from_few_points_and_from_all() -> None:
    """A façade of five storeys: its points see the shades of other storeys as those do that they are counted with, to a tenth of a per cent of the year."""
    scheme = make_scheme(volumes=[volume(storeys=5)], skin={"overhang_depth_m": {"south": 1.2}, "glazing_ratio": {"south": 0.6}})
    few = light(scheme)
    caster.FACES.clear()
    near, caster.NEAR_M = caster.NEAR_M, 1e3
    try:
        every = light(scheme)
    finally:
        caster.NEAR_M = near
        caster.FACES.clear()
    for name, of in few.items():
        assert of.beam.sum() == pytest.approx(every[name].beam.sum(), rel=1e-3)
        assert of.diffuse.sum() == pytest.approx(every[name].diffuse.sum(), rel=1e-3)


@pytest.mark.parametrize(("edge", "azimuth"), [("e1", 180.0), ("e2", 90.0), ("e3", 0.0), ("e4", 270.0)])
def test_open_walls_get_what_pvlib_says(edge: str, azimuth: float) -> None:
    """The yearly sum on an unobstructed wall is that of pvlib's Perez model; over black ground, since the building shades what lies before it."""
    year = standin_year("merrowhaven")
    sun = sun_of(year.location)
    zenith = np.degrees(np.arccos(np.clip(sun.cos_zenith, 0, 1)))
    bearing = np.degrees(np.arctan2(sun.direction[:, 0], sun.direction[:, 1])) % 360
    lit = sun.cos_zenith > 0
    beam = np.where(lit, year["direct_normal_wh_m2"], 0)
    diffuse = np.where(lit, year["diffuse_horizontal_wh_m2"], 0)
    theirs = pvlib.irradiance.get_total_irradiance(
        90, azimuth, zenith, bearing, beam, diffuse + beam * sun.cos_zenith, diffuse, dni_extra=sun.extraterrestrial,
        airmass=pvlib.atmosphere.get_relative_airmass(np.minimum(zenith, 89.9)), albedo=0.0, model="perez",
    )["poa_global"]  # fmt: skip
    ours = light(ground_reflectance=0.0, obstacle_reflectance=0.0)[f"v1/s0/{edge}"].wall
    assert ours.sum() == pytest.approx(float(np.nansum(theirs)), rel=0.015)


def windows_closely(face: Face, building: Building, lit: np.ndarray, side: int = 24) -> tuple[np.ndarray, float]:
    """The share of all windows of a face that the sun meets in each hour, and their view of free sky, from many points in each."""
    parts = (np.arange(side) + 0.5) / side
    places = []
    for w in face.windows:
        s, z = (a.ravel() for a in np.meshgrid(w.s + parts * w.width, w.z + parts * w.height))
        places.append(face.origin + np.outer(s, face.along) + np.outer(z, [0.0, 0.0, 1.0]))
    at = np.concatenate(places)
    seen = cast(obstacles_of(building, Place()), Points(at, face.normal), lit)
    return np.unpackbits(seen.sun, axis=1, count=len(lit)).mean(axis=0), float(seen.sky.mean())


@pytest.mark.parametrize(("overhang", "fin"), [(0.5, 0.0), (1.0, 0.0), (1.5, 0.0), (0.0, 0.5), (0.0, 1.0), (1.0, 1.0)])
@pytest.mark.parametrize(("ratio", "length"), [(0.2, 20), (0.4, 20), (0.6, 20), (0.4, 4)])
def test_sun_through_shaded_windows_is_that_of_many_points(overhang: float, fin: float, ratio: float, length: float) -> None:
    skin = {"glazing_ratio": {"south": ratio}, "overhang_depth_m": {"south": overhang}, "fin_depth_m": {"south": fin}}
    scheme = make_scheme(volumes=[volume(form={"length": length})], skin=skin)
    building = place_openings(make_building(scheme, 0.0), scheme.skin, 0.0)
    face = next(f for f in building.faces if f.edge == "v1/s0/e1")
    year = standin_year("merrowhaven")
    up, lit = sun_in_drawing(0.0, year.location)
    shares, sky = windows_closely(face, building, lit)
    divided = sky_light(year)
    strength = (divided.beam + divided.circumsolar)[up] * np.maximum(lit @ face.normal, 0.0)
    ours = light_on_faces(building, place(), year)[face.id]
    assert ours.beam.sum() == pytest.approx(shares @ strength, rel=0.02)
    assert ours.glass_sky_view == pytest.approx(sky, rel=0.03)


@pytest.mark.parametrize("depth", [0.5, 1.0, 1.5])
def test_a_long_overhang_keeps_out_what_its_profile_angle_says(depth: float) -> None:
    """Over 300 m the ends count for nothing: the lit share of the glass follows from the vertical shadow angle alone."""
    skin = {"glazing_ratio": {"south": 0.4}, "overhang_depth_m": {"south": depth}}
    scheme = make_scheme(volumes=[volume(form={"length": 300})], skin=skin)
    building = place_openings(make_building(scheme, 0.0), scheme.skin, 0.0)
    face = next(f for f in building.faces if f.edge == "v1/s0/e1")
    year = standin_year("merrowhaven")
    up, lit = sun_in_drawing(0.0, year.location)
    free = 1 - shaded_by_overhang(profile_tangent(face.normal, lit), depth, 0.0, face.windows[0].height)
    divided = sky_light(year)
    strength = (divided.beam + divided.circumsolar)[up] * np.maximum(lit @ face.normal, 0.0)
    assert light_on_faces(building, place(), year)[face.id].beam.sum() == pytest.approx(free @ strength, rel=0.02)


def assert_inside(face: Face, made: FaceSamples) -> None:
    """Every point that stands for glass lies in a window."""
    at = made.points - face.origin
    s, z = at @ face.along, at[:, 2]
    inside = np.zeros(len(s), dtype=bool)
    for w in face.windows:
        inside |= (s > w.s) & (s < w.s + w.width) & (z > w.z) & (z < w.z + w.height)
    assert made.window.sum() == pytest.approx(1.0)
    assert (inside | (made.window == 0)).all()


def test_points_of_glass_lie_inside_the_glass_and_stand_for_its_middle() -> None:
    for ratio in (0.1, 0.33, 0.47, 0.8):
        scheme = make_scheme(volumes=[volume()], skin={"glazing_ratio": {"south": ratio}})
        building = place_openings(make_building(scheme, 0.0), scheme.skin, 0.0)
        face = next(f for f in building.faces if f.edge == "v1/s0/e1")
        made = sample(face, shaded=True)
        assert_inside(face, sample(face))
        at = made.points - face.origin
        s, z = at @ face.along, at[:, 2]
        assert_inside(face, made)
        w = face.windows[0]
        assert made.window @ z == pytest.approx(w.z + w.height / 2, abs=1e-9)
        assert made.window @ s == pytest.approx(face.size[0] / 2, abs=0.02 * w.width)


def test_the_lowest_sky_is_hidden_before_the_rest() -> None:
    """A long wall opposite of 8 degrees takes the horizon's band away and little of the sky."""
    wall = walls_of(np.array([-2000.0, -101.0, 0.0]), (4000.0, 1.0, 14.0), 0.0)
    seen = cast(Obstacles(wall, NOTHING, NOTHING), points((0, 0, 0)), np.array([SOUTH]))
    assert seen.band[0] < 0.1  # what is left lies far to the sides
    assert seen.sky[0] > 0.42


WIDTH, HEIGHT = 15.0, 12.0


def street(z: float) -> tuple[Obstacles, Bounce]:
    """Two endless walls of 12 m, 15 m apart, and what is seen from one of them at a height."""
    walls = [walls_of(np.array([-1500.0, y, 0.0]), (3000.0, 8.0, HEIGHT), 0.0) for y in (0.0, -WIDTH - 8.0)]
    obstacles = Obstacles(np.concatenate(walls), NOTHING, NOTHING)
    at = np.array([[x, -1e-6, z] for x in np.linspace(-3, 3, 24)])
    return obstacles, look_round(obstacles, [Points(at, SOUTH)], 0.0)


@pytest.mark.parametrize("z", [2.0, 5.0, 9.0])
def test_a_street_gives_back_what_its_ground_receives(z: float) -> None:
    """Between two endless black walls under an even sky: what white ground gives to a wall, in closed form."""
    width, height = WIDTH, HEIGHT
    obstacles, bounce = street(z)
    one, none = np.ones(1), np.zeros(1)
    back = given_back(bounce, obstacles, SOUTH[None], (none, one, none), None, (one, 0.0))[:, 0]
    _, below = bounce.shares(0, np.ones(24))
    below_horizon = np.linspace(np.arctan(z / width), np.pi / 2, 20_000)[:-1]
    away = z / np.tan(below_horizon)  # from the wall, on the ground
    sky = (away / np.hypot(away, height) + (width - away) / np.hypot(width - away, height)) / 2
    assert 0.5 * float(below @ back) == pytest.approx(np.trapezoid(0.5 * np.cos(below_horizon) * sky, below_horizon), rel=0.04)


@pytest.mark.parametrize("z", [2.0, 5.0, 9.0])
def test_a_street_gives_back_what_its_walls_receive(z: float) -> None:
    """The same street with white walls on black ground: the wall opposite gives back the sky over the roofs before it, in closed form."""
    width, height = WIDTH, HEIGHT
    obstacles, bounce = street(z)
    one, none = np.ones(1), np.zeros(1)
    back = given_back(bounce, obstacles, SOUTH[None], (none, one, none), None, (none, 1.0))[:, 0]
    above, below = bounce.shares(0, np.ones(24))

    def from_wall(low: float, high: float) -> tuple[float, float]:
        """Light from the wall opposite between two heights of view, and the form factor of what lies between them."""
        view = np.linspace(low, high, 20_000)
        at_height = z + width * np.tan(view)
        sky = (1 - np.sin(np.arctan((height - at_height) / width))) / 2
        return float(np.trapezoid(0.5 * np.cos(view) * sky, view)), 0.5 * float(np.sin(high) - np.sin(low))

    upper, form = from_wall(0.0, float(np.arctan((height - z) / width)))
    lower, _ = from_wall(-float(np.arctan(z / width)), 0.0)
    # a group is about as large as it is far and reaches over the horizon: only both parts together come out, and within a tenth
    assert form * float(above @ back) + 0.5 * float(below @ back) == pytest.approx(upper + lower, rel=0.1)
    grey = given_back(bounce, obstacles, SOUTH[None], (none, one, none), None, (none, 0.4))[:, 0]
    assert grey == pytest.approx(0.4 * back, rel=1e-6)


def test_ground_in_the_shadow_of_the_building_gives_little_back() -> None:
    """North of the bar at noon the ground lies in shadow; what it gives back is far less than the unshaded global."""
    year = standin_year("merrowhaven")
    lit, black = (light(ground_reflectance=r, obstacle_reflectance=0.0) for r in (0.4, 0.0))
    whole = 0.4 / 2 * sky_light(year).total_horizontal.sum()
    north, south = (float((lit[f"v1/s0/{e}"].wall - black[f"v1/s0/{e}"].wall).sum()) for e in ("e3", "e1"))
    assert north < 0.75 * whole
    assert 0.8 * whole < south <= whole


def test_light_turns_with_north() -> None:
    """The top of the drawing pointing east is the same as the form turned by a right angle."""
    plain = light(make_scheme(volumes=[volume(turn_deg=90)]))
    turned = light(make_scheme(volumes=[volume()]), north=90.0)
    for edge in ("e1", "e2", "e3", "e4"):
        assert turned[f"v1/s0/{edge}"].wall == pytest.approx(plain[f"v1/s0/{edge}"].wall, abs=0.5)


def test_southern_sun_comes_from_the_north() -> None:
    scheme = make_scheme(volumes=[volume()])
    building = make_building(scheme, 0.0)
    year = standin_year("merrowhaven")
    south = light_on_faces(building, place(), year.at(replace(year.location, latitude_deg=-35.0, longitude_deg=0.0)))
    assert south["v1/s0/e3"].beam.sum() == 0  # no windows were placed, so nothing is kept for them
    assert south["v1/s0/e3"].cos_incidence.sum() > 3 * south["v1/s0/e1"].cos_incidence.sum()


def test_a_row_of_trees_dims_more_in_leaf() -> None:
    trees = [{"id": f"t{i}", "x": -4 + 3 * i, "y": -4, "height": 14, "crown": 6} for i in range(10)]
    bare, shaded = light()["v1/s0/e1"], light(trees=trees)["v1/s0/e1"]
    share = shaded.beam / np.maximum(bare.beam, 1e-9)
    winter, summer = slice(0, 31 * 24), slice(181 * 24, 212 * 24)
    lit = bare.beam > 50
    assert np.all(share[lit] <= 1 + 1e-6)
    assert share[summer][lit[summer]].mean() < 0.75
    assert share[summer][lit[summer]].min() >= 0.2 - 1e-6
    assert share[winter][lit[winter]].min() >= 0.65 - 1e-6


def test_crowns_are_bare_half_a_year_apart_in_the_south() -> None:
    where = place(trees=[{"id": "t", "x": 0, "y": 0, "height": 9, "crown": 5}])
    north, south = crown_transmittance(where, 50.0), crown_transmittance(where, -50.0)
    assert (north[12], north[200 * 24]) == (0.65, 0.2)
    assert (south[12], south[200 * 24]) == (0.2, 0.65)


def test_bright_neighbours_give_light_back() -> None:
    box = {"id": "b", "x": -40, "y": -26, "length": 100, "depth": 10, "height": 25}
    dark = light(boxes=[box], obstacle_reflectance=0.0)["v1/s0/e1"].wall
    bright = light(boxes=[box], obstacle_reflectance=0.5)["v1/s0/e1"].wall
    assert (bright - dark).min() >= -1e-9
    assert bright.sum() > 1.05 * dark.sum()


def test_samples_weigh_to_one_and_do_not_move_with_the_ratio() -> None:
    few, many = (
        place_openings(make_building(s, 0.0), s.skin, 0.0)
        for s in (make_scheme(volumes=[volume()], skin={"glazing_ratio": {"south": r}}) for r in (0.15, 0.6))
    )
    for low, high in zip(few.faces, many.faces, strict=True):
        if low.boundary != "outdoors":
            continue
        a, b = sample(low), sample(high)
        assert a.points == pytest.approx(b.points)
        assert a.wall.sum() == pytest.approx(1.0)
        assert a.window.sum() == pytest.approx(1.0 if low.windows else 0.0)
    assert len(sample(few.faces[0]).points) >= 9


def test_ground_shades_nothing_and_buildings_shade_themselves() -> None:
    u = make_scheme(volumes=[volume(kind="u", height=9.0)])
    building = make_building(u, 0.0)
    assert len(obstacles_of(building, place()).solids) > 0
    inside, outside = (light(u)[f"v1/s0/{e}"] for e in ("e5", "e1"))
    assert inside.sky_view < 0.4 < outside.sky_view + 0.11
