"""The compiler's cache: a name for each kernel, and a cache that was cut is made anew."""

from __future__ import annotations

import os
import subprocess
import sys
import textwrap
from pathlib import Path

import pytest
from numba import config

from eurythm.study import compiled
from eurythm.thermal import kernel
from eurythm.thermal.compiling import kept_in

SOURCE = """
import formulas
from eurythm.thermal.compiling import compiled
from formulas import twice


def make(lanes):
    def run(x):
        return twice(x) * 0.5 * lanes

    return compiled(run, "float64(float64)", f"run_{lanes}", formulas)


RUN = {n: make(n) for n in (1, 16)}
if __name__ == "__main__":
    print([RUN[n](2.0) for n in RUN])
"""
FORMULAS = """
from numba import njit


@njit
def twice(x):
    return x * 2.0
"""


def test_every_lane_count_has_a_name_of_its_own() -> None:
    names = {run.__name__ for run in kernel.RUN.values()}
    assert {name.rpartition("_")[0] for name in names} == {f"run_{lanes}" for lanes in kernel.LANES}
    held = Path(kernel.__file__).with_name("__pycache__")
    for name in names:
        assert list(held.glob(f"kernel.{name}-*.nbi"))


def test_where_the_source_cannot_be_written_the_users_folder_counts(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What another user compiled beside the sources is of no use to one who cannot write there."""
    source = tmp_path / "package/kernel.py"
    source.parent.mkdir()
    source.touch()
    assert kept_in(source) == source.with_name("__pycache__")
    monkeypatch.setattr(config, "CACHE_DIR", str(tmp_path / "user"))  # wins over both
    assert kept_in(source).is_relative_to(tmp_path / "user")
    monkeypatch.setattr(compiled, "HERE", tmp_path / "package")
    monkeypatch.setattr(compiled, "KEPT", ("kernel",))
    (source.parent / "__pycache__/kernel.run-1.py3.nbi").touch()
    assert not compiled.is_kept()
    (kept_in(source) / "kernel.run-1.py3.nbi").touch()
    assert compiled.is_kept()


@pytest.fixture
def kernels(tmp_path: Path) -> Path:
    (tmp_path / "formulas.py").write_text(FORMULAS)
    (tmp_path / "small.py").write_text(textwrap.dedent(SOURCE))
    assert started(tmp_path) == "[2.0, 32.0]"
    return tmp_path


def started(folder: Path) -> str:
    """Start a process that imports the kernels from this folder's cache, and return what it says."""
    done = subprocess.run(
        [sys.executable, "-c", "import small; print([small.RUN[n](2.0) for n in small.RUN])"],
        cwd=folder, env={**os.environ, "PYTHONPATH": str(folder)}, capture_output=True, text=True, timeout=300, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    return done.stdout.strip()


def cache(folder: Path, ending: str) -> list[Path]:
    return sorted((folder / "__pycache__").glob(f"small.run_*.{ending}"))


@pytest.mark.parametrize("kept", [0, 10, 0.5])
@pytest.mark.parametrize("ending", ["nbi", "nbc"])
def test_a_cache_that_was_cut_is_made_anew(kernels: Path, ending: str, kept: float) -> None:
    """Nothing of a file, a few bytes, or half of it: every later start works, and from the second on the cache is whole again."""
    files = cache(kernels, ending)
    assert len(files) == 2
    body = files[0].read_bytes()
    files[0].write_bytes(body[: int(len(body) * kept) if kept < 1 else int(kept)])
    for _ in range(3):
        assert started(kernels) == "[2.0, 32.0]"


def test_a_formula_that_changes_is_never_run_stale(kernels: Path) -> None:
    """Also where the changed file looks as old and as large as before; what was compiled of the old one goes."""
    formulas = kernels / "formulas.py"
    before = formulas.stat()
    formulas.write_text(FORMULAS.replace("2.0", "4.0"))
    os.utime(formulas, ns=(before.st_atime_ns, before.st_mtime_ns))
    assert started(kernels) == "[4.0, 64.0]"
    assert len(cache(kernels, "nbi")) == 2


def test_where_the_folder_cannot_be_written_the_user_s_is_taken(kernels: Path, tmp_path_factory: pytest.TempPathFactory) -> None:
    for file in (kernels / "__pycache__").iterdir():
        file.unlink()
    (kernels / "__pycache__").rmdir()
    (kernels / "__pycache__").write_text("no folder")
    home = tmp_path_factory.mktemp("home")
    environment = {**os.environ, "PYTHONPATH": str(kernels), "HOME": str(home), "XDG_CACHE_HOME": str(home / ".cache")}
    for _ in range(2):
        code = "import small; print(small.RUN[16](2.0))"
        done = subprocess.run(
            [sys.executable, "-c", code], cwd=kernels, env=environment, capture_output=True, text=True, timeout=300, check=False
        )
        assert done.stdout.strip() == "32.0", done.stderr
    assert list(home.rglob("*.nbi"))


def test_a_start_that_was_cut_between_kernels_breaks_no_later_one(kernels: Path) -> None:
    """Only the first kernel was compiled when the first start was cut; the others come later, under their own names."""
    for file in (kernels / "__pycache__").glob("small.run_16*"):
        file.unlink()
    for _ in range(4):
        assert started(kernels) == "[2.0, 32.0]"
    assert len(cache(kernels, "nbi")) == 2
