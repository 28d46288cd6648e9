"""The data folder: whatever forbids it is told by a sentence before anything is warmed; what was backed up comes back whole."""

from __future__ import annotations

import errno
import json
import os
import socket
import sqlite3
import subprocess
import sys
import threading
import time
import zipfile
from pathlib import Path

import pytest
from sqlalchemy.exc import DBAPIError

from eurythm.brief.edits import Set
from eurythm.exchange.demo import demo_project
from eurythm.model.errors import EurythmError
from eurythm.store.database import FILE, open_database
from eurythm.store.folder import backup, claim, restore
from eurythm.store.projects import Projects
from eurythm.store.trouble import SAID, Unusable, trouble


def filled(folder: Path) -> Projects:
    projects = Projects(open_database(folder))
    projects.create(demo_project(), project_id="p")
    return projects


def code_of(folder: Path) -> str:
    with pytest.raises(Unusable) as fault:
        open_database(folder)
    assert str(folder) not in fault.value.message
    return fault.value.code


def test_a_damaged_database_is_told(tmp_path: Path) -> None:
    open_database(tmp_path).close()
    whole = (tmp_path / FILE).read_bytes()
    (tmp_path / FILE).write_bytes(b"no database at all" * 100)
    assert code_of(tmp_path) == "database-damaged"
    (tmp_path / FILE).write_bytes(whole[: len(whole) // 2])
    assert code_of(tmp_path) == "database-damaged"
    spoilt = bytearray(whole)
    spoilt[4096:40960] = os.urandom(36864)
    (tmp_path / FILE).write_bytes(spoilt)
    assert code_of(tmp_path) == "database-damaged"


def test_a_newer_database_is_told_and_left_alone(tmp_path: Path) -> None:
    open_database(tmp_path).close()
    with sqlite3.connect(tmp_path / FILE) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    before = (tmp_path / FILE).read_bytes()
    assert code_of(tmp_path) == "database-newer"
    assert (tmp_path / FILE).read_bytes() == before


def test_a_folder_has_one_server(tmp_path: Path) -> None:
    with claim(tmp_path / "data"):
        with pytest.raises(Unusable) as fault:
            claim(tmp_path / "data")
        assert fault.value.code == "folder-in-use"
    claim(tmp_path / "data").close()


def test_no_folder_is_told(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    for place in (tmp_path / "file", tmp_path / "file" / "below"):
        with pytest.raises(Unusable) as fault:
            claim(place)
        assert fault.value.code == "no-folder"


def test_what_the_disk_refuses_has_a_sentence() -> None:
    for number, code in ((errno.ENOSPC, "disk-full"), (errno.EROFS, "folder-read-only"), (errno.EACCES, "folder-read-only")):
        told = trouble(OSError(number, "x", "/some/where"))
        assert told is not None
        assert (told.code, told.message) == (code, SAID[code])
        assert "/some" not in told.message
    assert trouble(OSError(errno.ECONNRESET, "x")) is None
    assert trouble(ValueError("x")) is None


def test_a_full_disk_keeps_what_was_there(tmp_path: Path) -> None:
    """A database that may not grow any more refuses as a full disk does; what was kept before stays, and the next edit counts once there is room."""
    projects = filled(tmp_path)
    with projects._database.write() as session:
        connection = session.connection().connection
        connection.execute("PRAGMA max_page_count = 1")  # as many as it has
    before = projects.state("p")
    told, at = None, before.revision
    while told is None:
        try:
            at = projects.edit("p", at, Set(path="name", value=f"{at} {'x' * 100}")).revision
        except DBAPIError as fault:
            told = trouble(fault)
            assert told is not None
    assert told.code == "disk-full"
    kept = projects.state("p")
    assert kept.revision == at
    projects._database.close()
    again = Projects(open_database(tmp_path))
    assert again.state("p").project == kept.project
    assert again.edit("p", kept.revision, Set(path="name", value="there is room")).project.name == "there is room"


def test_a_backup_made_while_it_is_written_comes_back_whole(tmp_path: Path) -> None:
    projects = filled(tmp_path / "data")
    (tmp_path / "data" / "imports").mkdir()
    stopping, made = threading.Event(), [projects.state("p").revision]

    def editing() -> None:
        while not stopping.is_set():
            made.append(projects.edit("p", made[-1], Set(path="name", value=f"Name {len(made)}")).revision)

    writing = threading.Thread(target=editing)
    writing.start()
    while len(made) < 5:
        time.sleep(0.01)
    least = made[-1]
    told = backup(tmp_path / "data", tmp_path / "out.zip")
    stopping.set()
    writing.join()
    assert told["bytes"] == (tmp_path / "out.zip").stat().st_size
    restore(tmp_path / "out.zip", tmp_path / "again")
    back = Projects(open_database(tmp_path / "again")).state("p")
    assert least <= back.revision <= made[-1]
    assert back.project.model_copy(update={"name": ""}) == projects.state("p").project.model_copy(update={"name": ""})


def test_a_backup_takes_imported_files_along_and_writes_over_nothing(tmp_path: Path) -> None:
    import io

    from eurythm.store.imports import Imports

    filled(tmp_path / "data")
    imports = Imports(open_database(tmp_path / "data"), tmp_path / "data" / "imports")
    made = imports.create("p", "model.ifc", io.BytesIO(b"ISO-10303-21;"), {}, None)
    assert backup(tmp_path / "data", tmp_path / "out.zip")["imported_files"] == 1
    restore(tmp_path / "out.zip", tmp_path / "again")
    assert (tmp_path / "again" / "imports" / made.id).read_bytes() == b"ISO-10303-21;"
    with pytest.raises(EurythmError) as fault:
        restore(tmp_path / "out.zip", tmp_path / "again")
    assert fault.value.code == "folder-not-empty"
    with zipfile.ZipFile(tmp_path / "evil.zip", "w") as archive:
        archive.writestr("../outside", "x")
    with pytest.raises(EurythmError) as fault:
        restore(tmp_path / "evil.zip", tmp_path / "new")
    assert fault.value.code == "no-backup"
    assert not (tmp_path / "new").exists()
    assert not (tmp_path / "outside").exists()
    with pytest.raises(EurythmError) as fault:
        backup(tmp_path / "nothing", tmp_path / "none.zip")
    assert fault.value.code == "no-database"
    assert not (tmp_path / "none.zip").exists()


def refused(*arguments: str) -> dict[str, str]:
    """Start the server with arguments that it refuses; return what it says, which comes before anything is warmed."""
    started = time.perf_counter()
    done = subprocess.run([sys.executable, "-m", "eurythm.cli.main", "serve", *arguments], capture_output=True, text=True, timeout=60)
    assert done.returncode == 2, done.stderr
    assert time.perf_counter() - started < 15
    assert "Traceback" not in done.stderr
    return json.loads(done.stderr.splitlines()[-1])


def test_a_start_that_cannot_be_is_refused_by_a_sentence(tmp_path: Path) -> None:
    data = str(tmp_path / "data")
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        assert refused("--port", str(port), "--data", data)["message"].startswith(f"Port {port} is in use.")
    with claim(tmp_path / "data"):
        assert "already runs on this data folder" in refused("--port", "0", "--data", data)["message"]
    assert "--allow-host" in refused("--port", "0", "--data", data, "--host", "0.0.0.0")["message"]
    (tmp_path / "data" / FILE).write_bytes(b"nonsense" * 1000)
    assert "damaged" in refused("--port", "0", "--data", data)["message"]
