"""What a model brings to a project's place and library: taken where nothing stands, told where something does."""

from __future__ import annotations

from typing import Any

import pytest

from eurythm.climate.year import Location
from eurythm.exchange.intake.merge import merge
from eurythm.exchange.intake.settle import settle
from eurythm.exchange.intake.sift import Sift
from eurythm.geometry.form import make_building
from eurythm.model.library import Library
from eurythm.model.place import Place
from eurythm.model.reading import read_document
from tests.core.test_checks import model, room

HERE = Location("Merrowhaven", "-", "-", "test", "0", 54.2, -1.1, 0.0, 12.0)


def merged(place: dict[str, Any], at: Location | None = None, override: bool = False, **says: Any) -> Any:
    received = model(room("a", 0, 0, 6, 4)).model_copy(update=says)
    where = read_document(Place, place)
    settled = settle(received, Sift(), {"id": "s", "name": "S"}, where)
    return merge(settled, where, Library(), override=override, at=at)


SITE = {"latitude_deg": 53.5, "longitude_deg": -2.25}


def test_an_empty_place_takes_site_and_north_of_the_file() -> None:
    made = merged({}, **SITE, true_north_deg=-11.0)
    assert (made.place.latitude_deg, made.place.longitude_deg, made.place.north_deg) == (53.5, -2.25, -11.0)
    assert made.findings == ()


def test_the_site_of_a_climate_year_stays_and_the_file_s_is_told() -> None:
    made = merged({}, at=HERE, **SITE)
    assert made.place.latitude_deg is None
    assert made.place.longitude_deg is None
    (told,) = made.findings
    assert told.code == "place-differs"
    assert "latitude 53.50°, longitude -2.25°" in told.sentence
    assert "(54.20°, -1.10°)" in told.sentence


@pytest.mark.parametrize("apart", [0.0, 0.04])
def test_a_site_at_the_climate_year_s_is_not_worth_a_word(apart: float) -> None:
    made = merged({}, at=HERE, latitude_deg=54.2 + apart, longitude_deg=-1.1 - apart)
    assert made.place.latitude_deg is None
    assert made.findings == ()


def test_a_given_site_stays_whatever_the_climate_year_s_is() -> None:
    for at in (None, HERE):
        made = merged({"latitude_deg": 50.0, "longitude_deg": 3.0}, at=at, **SITE)
        assert (made.place.latitude_deg, made.place.longitude_deg) == (50.0, 3.0)
        assert {f.object for f in made.findings} == {"latitude_deg", "longitude_deg"}
        assert all("stays" in f.sentence for f in made.findings)


def test_a_given_north_stays_and_a_near_one_is_not_told() -> None:
    assert merged({"north_deg": 20.0}, true_north_deg=20.3).findings == ()
    made = merged({"north_deg": 20.0}, true_north_deg=-11.0)
    assert made.place.north_deg == 20.0
    (told,) = made.findings
    assert told.code == "turned-to-north"
    assert "turned by -31°" in told.sentence


@pytest.mark.parametrize(("project", "file"), [(20.0, -11.0), (170.0, -175.0), (-60.0, 95.0)])
def test_rooms_look_where_the_file_has_them_look_whichever_north_counts(project: float, file: float) -> None:
    """The project's north turns the scheme; the file's, if it is chosen, turns the project; alone it is simply taken."""

    def looks(north: dict[str, Any], sift: Sift) -> set[float]:
        where = read_document(Place, north)
        received = model(room("a", 0, 0, 6, 4)).model_copy(update={"true_north_deg": file})
        made = merge(settle(received, sift, {"id": "s", "name": "S"}, where), where, Library())
        faces = make_building(made.scheme, 0.0).faces
        return {round(f.azimuth_deg(made.place.north_deg), 2) % 360.0 for f in faces if f.kind == "wall"}

    alone = looks({}, Sift())
    assert looks({"north_deg": project}, Sift()) == alone
    assert looks({"north_deg": project}, Sift(north="file")) == alone


def test_the_file_may_be_let_win() -> None:
    made = merged({"north_deg": 20.0}, at=HERE, override=True, true_north_deg=-11.0, **SITE)
    assert (made.place.north_deg, made.place.latitude_deg) == (-11.0, 53.5)
    assert made.findings == ()


def test_the_scheme_says_where_it_comes_from() -> None:
    made = merged({}, file="court.ifc", digest="abc", reference_plane="inner faces")
    origin = made.scheme.imported_from
    assert origin is not None
    assert (origin.file, origin.digest, origin.reference_plane) == ("court.ifc", "abc", "inner faces")
