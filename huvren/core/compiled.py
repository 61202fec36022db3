"""Numba, with its cache named by all that the compiled code depends on.

Numba itself looks only at the file of the function that it compiles. A kernel that calls one of another file would go on
running in its old form after that file changed. So the cache folder carries a digest of every kernel source and of the
libraries' versions, and what older digests left behind is removed.
"""

import hashlib
import os
import shutil
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import llvmlite
import numba
import numpy
from numba import float64, get_num_threads, prange, vectorize
from numba.core.registry import CPUDispatcher

from huvren.core.progress import look_up

CORE = Path(__file__).resolve().parent
PACKAGE = b"huvren.core"
MARK = b"from huvren.core.compiled import"
"""Whatever imports this module holds kernels."""


def _imports(text: bytes, root: Path) -> Iterable[Path]:
    """The files below `root` that a source names in its imports: constants of theirs are compiled in."""
    for line in text.splitlines():
        words = line.split()
        if len(words) > 3 and words[0] == b"from" and words[1].startswith(PACKAGE):
            path = root.joinpath(*words[1][len(PACKAGE) :].decode().strip(".").split("."))
            names = [path / f"{word.decode().strip('(),')}.py" for word in words[3:]]
            yield from (found for found in (path.with_suffix(".py"), path / "__init__.py", *names) if found.is_file())


def kernel_sources(root: Path = CORE) -> list[Path]:
    """Every file below `root` that holds kernels or that such a file imports, in a fixed order."""
    texts = {path: path.read_bytes() for path in root.rglob("*.py")}
    waiting = [path for path, text in texts.items() if MARK in text]
    found: set[Path] = set()
    while waiting:
        path = waiting.pop()
        if path not in found:
            found.add(path)
            waiting += _imports(texts[path], root)
    return sorted(found)


def digest(sources: Iterable[Path], root: Path = CORE) -> str:
    """One name for the sources' contents and the versions of Python, NumPy, Numba and LLVM's binding."""
    total = hashlib.sha256(f"{sys.version} {numpy.__version__} {numba.__version__} {llvmlite.__version__}".encode())
    for path in sources:
        total.update(str(path.relative_to(root)).encode())
        total.update(path.read_bytes())
    return total.hexdigest()[:20]


def cache_base() -> Path:
    """Where caches lie: the state folder where there is one, else the user's own cache folder."""
    if state := os.environ.get("HUVREN_STATE"):
        return Path(state) / "kernels"
    checkout = CORE.parent.parent
    if (checkout / "run").exists():
        return checkout / ".huvren" / "kernels"
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "huvren" / "kernels"


def prepare_cache(base: Path, key: str) -> Path:
    """The folder for `key`; others beside it are removed. Nothing is raised where the place cannot be written to."""
    folder = base / key
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for old in base.iterdir():
            if old.name != key and old.is_dir():
                shutil.rmtree(old, ignore_errors=True)
    except OSError:
        pass
    return folder


CACHE = prepare_cache(cache_base(), digest(kernel_sources()))
setattr(numba.config, "CACHE_DIR", str(CACHE))  # noqa: B010  (Numba makes its settings when it is imported)


class Kernel(CPUDispatcher):
    """A compiled function before which its thread looks whether there is still time: between kernels nothing is half done."""

    def __call__(self, *arguments: Any) -> Any:
        look_up()
        return super().__call__(*arguments)


def njit(**options: Any) -> Callable[[Callable[..., Any]], Any]:
    """`numba.njit` without Python's lock: what runs beside a kernel, another artist's request among it, goes on meanwhile."""
    compiling = numba.njit(nogil=True, **options)

    def compiled(function: Callable[..., Any]) -> Any:
        kernel = compiling(function)
        if type(kernel) is CPUDispatcher:
            # Of the same layout. Where compiling is switched off a kernel is a plain function.
            kernel.__class__ = Kernel
        return kernel

    return compiled


__all__ = ["CACHE", "float64", "get_num_threads", "njit", "prange", "vectorize"]
