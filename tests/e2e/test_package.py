"""The wheel: everything is in it, and where nothing else of the repository is, it opens."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import sysconfig
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from eurythm import __version__
from eurythm.study import compiled
from tests.e2e.conftest import Server

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("wheels")
    subprocess.run([ROOT / "bin" / "package", folder], check=True, stdout=subprocess.DEVNULL)
    assert (folder / f"eurythm-{__version__}.tar.gz").is_file()
    return folder / f"eurythm-{__version__}-py3-none-any.whl"


def lend_compiled(to: Path) -> None:
    """Lend what was compiled for the working folder, which takes minutes; it is taken where a source is as old and as long."""
    own = ROOT / "src" / "eurythm"
    for kept in own.rglob("*.nb[ic]"):
        there = to / kept.relative_to(own)
        there.parent.mkdir(exist_ok=True)
        shutil.copy2(kept, there)
        at = (kept.parents[1] / kept.name.split(".")[0]).with_suffix(".py").stat()
        os.utime(there.parents[1] / f"{kept.name.split('.')[0]}.py", ns=(at.st_atime_ns, at.st_mtime_ns))


def test_the_wheel_holds_page_migrations_kernels_and_what_else_is_read(wheel: Path) -> None:
    names = set(zipfile.ZipFile(wheel).namelist())
    source = {str(p.relative_to(ROOT / "src")) for p in (ROOT / "src" / "eurythm").rglob("*.py") if "__pycache__" not in p.parts}
    assert source <= names
    for wanted in ("page/index.html", "exchange/ifc/energy.ids", "report/compared/page.typ", "thermal/kernel.py", "py.typed"):
        assert f"eurythm/{wanted}" in names
    built = {f"eurythm/page/assets/{p.name}" for p in (ROOT / "web" / "dist" / "assets").iterdir()}
    assert built <= names
    assert any(n.startswith("eurythm/report/fonts/") for n in names)


def test_installed_into_a_clean_environment_it_opens_the_page(
    wheel: Path, page: Page, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The environment has the packages that the wheel asks for, and of ours the wheel alone."""
    clean = tmp_path / "clean"
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", clean], check=True)
    python = clean / "bin" / "python"
    pip = [sys.executable, "-m", "pip", "--python", python, "install", "--quiet", "--no-deps", "--no-index", wheel]
    subprocess.run(pip, check=True)
    site = next((clean / "lib").glob("python*")) / "site-packages"
    (site / "packages.pth").write_text(sysconfig.get_paths()["purelib"])  # what is only named in a path does not read other .pth files
    monkeypatch.chdir(tmp_path)
    lend_compiled(site / "eurythm")
    monkeypatch.delenv("PYTHONPATH", raising=False)
    where = subprocess.run([python, "-c", "import eurythm; print(eurythm.__file__)"], check=True, capture_output=True, text=True).stdout
    assert Path(where.strip()).is_relative_to(clean)
    monkeypatch.setattr(sys, "executable", str(python))
    server = Server(tmp_path / "data").start()
    try:
        page.goto(f"{server.url}/projects")
        page.get_by_label("Name of the new project").fill("Rope Quay")
        page.get_by_role("button", name="New project").click()
        expect(page.get_by_role("heading", name="Which climate?")).to_be_visible()
        page.goto(f"{server.url}/guide/shape")
        expect(page.get_by_role("heading", name="Shape", exact=True)).to_be_visible()
    finally:
        server.stop()


def lay_sources(folder: Path, monkeypatch: pytest.MonkeyPatch) -> list[Path]:
    """Have sources elsewhere, of which nothing is compiled."""
    monkeypatch.setattr(compiled, "HERE", folder)
    sources = [folder / f"{name}.py" for name in compiled.KEPT]
    for source in sources:
        source.with_name("__pycache__").mkdir(parents=True, exist_ok=True)
        source.touch()
    return sources


def test_compiling_tells_how_long_it_takes_and_what_went_wrong(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    lay_sources(tmp_path, monkeypatch)
    monkeypatch.setattr(compiled, "QUIET_S", 0.1)
    monkeypatch.setattr(compiled, "EVERY_S", 0.3)
    monkeypatch.setattr(compiled, "FIRST_YEAR", "import time; time.sleep(1.5)")
    said: list[str] = []
    compiled.compile_once(said.append)
    assert said[0].startswith("Compiling the heat balance")
    assert any(line.startswith("Compiling: ") for line in said)
    assert said[-1].startswith("Compiled in ")
    monkeypatch.setattr(compiled, "FIRST_YEAR", "import no_such_kernel")
    with pytest.raises(compiled.EurythmError, match="No module named 'no_such_kernel'"):
        compiled.compile_once(said.append)


def test_compiled_once_nothing_is_compiled_again(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    for source in lay_sources(tmp_path, monkeypatch):
        (source.with_name("__pycache__") / f"{source.stem}.run-1.py3.nbi").touch()
    monkeypatch.setattr(compiled.subprocess, "Popen", lambda *_, **__: pytest.fail("it compiles"))
    assert compiled.is_kept()
    compiled.compile_once(pytest.fail)
