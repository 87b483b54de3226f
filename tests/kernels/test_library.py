"""How kernels are kept, loaded and run: whole files only, the right arrays only, the same bits on any number of processors."""

from __future__ import annotations

import numpy as np
import pytest

from cryonome.equilibrium.flash import flash_pt
from cryonome.equilibrium.multiphase import flash_all
from cryonome.equilibrium.phase_map import phase_map
from cryonome.kernels import compiling, kernel, library
from cryonome.kernels.library import Kept
from cryonome.watch import Cancelled, Watch
from mixtures import mixture


@pytest.fixture
def own_folder(tmp_path, monkeypatch):
    """Keep kernels in a folder of the test's own."""
    monkeypatch.setenv("CRYONOME_KERNELS", str(tmp_path))
    library.folders.cache_clear()
    yield tmp_path
    monkeypatch.undo()
    library.folders.cache_clear()


def test_arrays_that_a_kernel_does_not_take_are_refused():
    roots = kernel("cubic_polynomial_roots")
    lower, out = np.zeros(2), np.empty((2, 2))
    for wrong in (np.zeros((2, 3), np.float32), np.zeros(6), np.zeros((3, 2)).T, np.zeros((2, 3), int)):
        with pytest.raises(TypeError, match="cubic_polynomial_roots takes F2"):
            roots.over(2, 0, (wrong, lower, out))


@pytest.mark.parametrize("name", ["crude", "carbon dioxide flood"])
def test_the_number_of_processors_changes_no_bit(name, monkeypatch):
    eos, z = mixture(name)
    rng = np.random.default_rng(3)
    T, P = rng.uniform(200.0, 650.0, 300), 10.0 ** rng.uniform(4.5, 7.5, 300)
    found, drawn = [], []
    for threads in ("1", "2"):
        monkeypatch.setenv("CRYONOME_THREADS", threads)
        found.append(flash_all(eos, T, P, z))
        drawn.append(b"".join(part.u.tobytes() for part in phase_map(eos, z, (0.5,)).parts))
    assert drawn[0] == drawn[1]
    alone = flash_pt(eos, T[7], P[7], z)
    for field in ("fraction", "composition", "Z", "reason", "iterations"):
        one, two = (getattr(f, field) for f in found)
        assert one.tobytes() == two.tobytes()
    assert alone.composition.tobytes() == flash_pt(eos, T, P, z).composition[7].tobytes()


def test_a_batch_is_cancelled_between_blocks_and_tells_its_progress():
    eos, z = mixture("crude")
    T = np.full(4000, 400.0)
    shares: list[float] = []
    with pytest.raises(Cancelled):
        flash_pt(eos, T, 5e6, z, Watch(lambda: len(shares) > 2, shares.append))
    assert len(shares) == 3
    shares.clear()
    flash_pt(eos, T, 5e6, z, Watch(tell=shares.append))
    assert shares == sorted(shares)
    assert shares[-1] == 1.0


def test_what_is_missing_is_compiled_and_half_a_file_is_missing(own_folder, monkeypatch):
    assert set(compiling.missing()) == set(library.names())
    monkeypatch.setattr(compiling, "missing", lambda: ["fastest_unknowns"])
    told = []
    compiling.compile_all(lambda done, whole: told.append((done, whole)))
    assert told == [(0, 1), (1, 1)]
    (file,) = own_folder.iterdir()
    whole = file.read_bytes()
    kept = Kept.found("fastest_unknowns")
    assert kept is not None
    assert kept.letters == ("i", "i", "F1", "F2", "F2", "F1", "I1")
    file.write_bytes(whole[: len(whole) // 2])
    assert Kept.found("fastest_unknowns") is None
    # Another source is another kernel: what was compiled of the old one is not found.
    file.write_bytes(whole)
    monkeypatch.setitem(library.sources(), "lines", library.sources()["lines"] + "\n")
    library._key.cache_clear()
    assert Kept.found("fastest_unknowns") is None
    library._key.cache_clear()


def test_a_kernel_that_cannot_be_compiled_says_so(own_folder, monkeypatch):
    monkeypatch.setattr(compiling, "missing", lambda: ["fastest_unknowns"])
    monkeypatch.setattr(compiling.sys, "executable", "/bin/false")
    with pytest.raises(compiling.NotCompiled, match="fastest_unknowns could not be compiled"):
        compiling.compile_all()
