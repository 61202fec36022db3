"""Compiled kernels: their cache is that of today's sources, and a few values are converted without them."""

import os
import subprocess
import sys
import textwrap
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from huvren.core import compiled
from huvren.core.color import gamut, kernels, transfer
from huvren.core.color.convert import oklab_to_srgb, oklch_to_srgb, srgb_to_oklab, srgb_to_oklch
from huvren.core.color.spaces import convert
from huvren.core.progress import TookTooLong, due_in

ROOT = Path(__file__).resolve().parent.parent.parent


def test_the_cache_is_named_by_every_source_that_is_compiled() -> None:
    """Whatever decorates with Numba, and whatever such a file takes constants from, is part of the digest."""
    sources = set(compiled.kernel_sources())
    for path in compiled.CORE.rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        if "@njit" in text or "vectorize(" in text:
            assert path in sources, path
    names = {path.relative_to(compiled.CORE).as_posix() for path in sources}
    assert {"color/matrices.py", "color/gamut_rule.py", "color/kernels.py", "compiled.py"} <= names


def test_a_change_in_one_file_runs_at_once_in_what_another_file_compiled(tmp_path: Path) -> None:
    """Numba alone would go on running the old form: the caller's own file has not changed."""
    core = tmp_path / "huvren" / "core"
    (core / "color").mkdir(parents=True)
    for package in (core.parent, core, core / "color"):
        (package / "__init__.py").write_text("")
    for name in ("compiled.py", "progress.py"):
        (core / name).write_text((compiled.CORE / name).read_text(encoding="utf-8"), encoding="utf-8")
    (core / "inner.py").write_text("from huvren.core.compiled import njit\n\n@njit(cache=True)\ndef factor():\n    return 2\n")
    (core / "color" / "outer.py").write_text(textwrap.dedent("""
        from huvren.core.compiled import CACHE, njit
        from huvren.core.inner import factor

        @njit(cache=True)
        def product(value):
            return value * factor()

        print(product(21), CACHE.name)
        """))  # fmt: skip
    env = {**os.environ, "HUVREN_STATE": str(tmp_path / "state"), "PYTHONPATH": str(tmp_path)}

    def run() -> list[str]:
        command = [sys.executable, "-m", "huvren.core.color.outer"]
        return subprocess.run(command, env=env, cwd=tmp_path, capture_output=True, text=True, check=True).stdout.split()

    first = run()
    assert first[0] == "42"
    assert run() == first, "nothing changed, so the cache is the same"
    (core / "inner.py").write_text("from huvren.core.compiled import njit\n\n@njit(cache=True)\ndef factor():\n    return 5\n")
    second = run()
    assert second[0] == "105"
    assert second[1] != first[1]
    assert [folder.name for folder in (tmp_path / "state" / "kernels").iterdir()] == [second[1]], "the older cache is gone"


def test_what_is_late_begins_no_kernel_and_hears_so_itself() -> None:
    """Raised while Numba looks for the compiled form it became an error of Python's own."""
    kernel = next(entry for entry in vars(kernels).values() if isinstance(entry, compiled.Kernel))
    with due_in(-1), pytest.raises(TookTooLong):
        kernel()
    with due_in(60), pytest.raises(TypeError):
        kernel()
    assert oklab_to_srgb(np.array([0.5, 0.1, 0.1])).shape == (3,)


def test_equations_are_solved_by_one_thread_unless_the_environment_says_otherwise() -> None:
    look = (
        "from huvren.core.reduction.tuning import equations\nfrom threadpoolctl import threadpool_info\n"
        "print(sorted({row['num_threads'] for row in threadpool_info() if row['user_api'] == 'blas'}))"
    )
    plain = {name: value for name, value in os.environ.items() if not name.endswith("_NUM_THREADS")}
    for told, threads in (({}, "[1]"), ({"OPENBLAS_NUM_THREADS": "2"}, "[2]")):
        run = subprocess.run(
            [sys.executable, "-c", look], cwd=ROOT, env={**plain, **told}, capture_output=True, text=True, check=True
        )
        assert run.stdout.strip() == threads


def test_a_place_that_cannot_be_written_to_is_no_error(tmp_path: Path) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("")
    assert compiled.prepare_cache(blocked, "key") == blocked / "key"


ANY = st.floats(-1.5, 2.5)


@settings(max_examples=80, deadline=None)
@given(st.lists(st.tuples(ANY, ANY, ANY), min_size=1, max_size=30))
def test_plain_and_compiled_forms_agree(rows: list[tuple[float, float, float]]) -> None:
    values = np.array(rows)

    def both(function, *arguments):  # type: ignore[no-untyped-def]
        with pytest.MonkeyPatch.context() as patch:
            patch.delitem(sys.modules, transfer.KERNELS)
            plain = function(*arguments)
        return plain, function(*arguments)

    for function in (transfer.decode_srgb_array, transfer.encode_srgb_array):
        plain, fast = both(function, values)
        assert np.allclose(plain, fast, rtol=1e-12, atol=1e-14)
    inside = np.abs(values) / 3
    for function in (srgb_to_oklab, srgb_to_oklch):
        plain, fast = both(function, inside)
        gap = np.abs(plain - fast)
        gap[..., -1] = np.minimum(gap[..., -1], 360 - gap[..., -1]) if function is srgb_to_oklch else gap[..., -1]
        chroma = plain[..., 1] > 1e-6 if function is srgb_to_oklch else np.ones(len(plain), bool)
        assert gap[chroma].max(initial=0) < 1e-6
    for function, space in ((oklab_to_srgb, "oklab"), (oklch_to_srgb, "oklch")):
        plain, fast = both(function, convert(inside, "srgb", space))
        assert np.allclose(plain, fast, atol=1e-9)
    polar = np.column_stack([inside[:, 0], inside[:, 1], inside[:, 2] * 360])
    plain, fast = both(gamut.map_to_srgb, polar)
    assert plain.min() >= 0
    assert plain.max() <= 1
    assert np.allclose(plain, fast, atol=2e-3), "the search for the gamut's edge ends within a step of 1e-4 chroma"


def test_many_values_are_worth_the_kernels_and_few_are_not(monkeypatch: pytest.MonkeyPatch) -> None:
    assert transfer.kernels_for(1) is kernels, "loaded already, they are used"
    monkeypatch.delitem(sys.modules, transfer.KERNELS)
    assert transfer.kernels_for(transfer.FEW) is None
    assert transfer.kernels_for(transfer.FEW + 1) is not None


HEAVY = {"numba", "pydantic", "PIL.Image"}
"""What takes longer to load than such a command takes."""


@pytest.mark.parametrize(
    "words",
    [
        ["formats"], ["ramp", "#0b58c4", "oklch(0.9 0.4 80)"], ["sort", "a.hex", "--by", "hue", "--out", "b.gpl"],
        ["convert", "a.hex", "--to", "ase", "--out", "b.ase"], ["convert", "a.hex", "--to", "css", "--set", "notation=oklch", "--out",
         "b.css"],
        ["mix", "#fcd200", "#0a3fb0"], ["match", "a.hex", "a.hex"],
    ],
    ids=lambda words: "-".join(words[:1]),
)  # fmt: skip
def test_commands_without_pictures_load_no_compiler_no_pictures_and_no_documents(tmp_path: Path, words: list[str]) -> None:
    (tmp_path / "a.hex").write_text("010203\nfa1e14\n09c81e\n")
    program = (
        f"import sys; from huvren.cli import main; status = main({words!r}); print({HEAVY!r} & set(sys.modules)); sys.exit(status)"
    )
    done = subprocess.run(
        [sys.executable, "-c", program], cwd=tmp_path, env={**os.environ, "PYTHONPATH": str(ROOT)}, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.splitlines()[-1] == "set()"
