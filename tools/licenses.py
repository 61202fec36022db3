"""The licenses of everything that ships: `python -m tools.licenses` writes web/dist/licenses.txt after a build.

The typeface and the scripts of the interface come from its lock file (what is not only for development), the server's
packages from requirements.lock.
"""

import importlib.metadata
import json
import re
import sys
from pathlib import Path
from typing import Any

from tools.steps import ROOT

WEB = ROOT / "web"
TARGET = WEB / "dist" / "licenses.txt"
NAMES = ("LICENSE", "LICENCE", "COPYING", "OFL", "UNLICENSE", "NOTICE")


def _texts(folder: Path) -> str:
    found = (
        sorted(path for path in folder.glob("*") if path.is_file() and path.name.upper().startswith(NAMES)) if folder.is_dir() else []
    )
    return "\n\n".join(path.read_text(encoding="utf-8", errors="replace").strip() for path in found)


def of_the_interface() -> list[tuple[str, str, str]]:
    """(name and version, license, text) of every package that the built interface may hold a part of."""
    lock = json.loads((WEB / "package-lock.json").read_text(encoding="utf-8"))
    rows = []
    for path, entry in sorted(lock["packages"].items()):
        folder = WEB / path
        if not path or entry.get("dev") or entry.get("devOptional") or not folder.is_dir():
            continue
        about = json.loads((folder / "package.json").read_text(encoding="utf-8"))
        rows.append((f"{about['name']} {about['version']}", str(about.get("license", "see its text")), _texts(folder)))
    return rows


def of_the_server() -> list[tuple[str, str, str]]:
    """The same of the Python packages that the server runs on."""
    names = re.findall(r"^([\w.-]+)==", (ROOT / "requirements.lock").read_text(encoding="utf-8"), re.MULTILINE)
    rows = []
    for name in names:
        try:
            found = importlib.metadata.distribution(name)
        except importlib.metadata.PackageNotFoundError:
            continue
        about: Any = found.metadata
        said = about.get("License-Expression") or next(
            (line.rsplit(" :: ", 1)[-1] for line in about.get_all("Classifier") or [] if line.startswith("License ::")),
            (about.get("License") or "see its text").splitlines()[0],
        )
        files = [file for file in found.files or [] if Path(file).name.upper().startswith(NAMES) and ".dist-info" in str(file)]
        text = "\n\n".join(Path(str(found.locate_file(file))).read_text(encoding="utf-8", errors="replace").strip() for file in files)
        rows.append((f"{about['Name']} {found.version}", said, text))
    return rows


def render() -> str:
    """The whole text: Huvren's own license, then each package's."""
    own = (ROOT / "LICENSE").read_text(encoding="utf-8").strip()
    parts = [f"HUVREN\n\n{own}"]
    for title, rows in (("THE INTERFACE: TYPEFACE AND SCRIPTS", of_the_interface()), ("THE SERVER: PACKAGES", of_the_server())):
        listed = "\n".join(f"  {name}: {said}" for name, said, _ in rows)
        parts.append(f"{title}\n\n{listed}")
        parts += [f"{name}\nLicense: {said}\n\n{text}".strip() for name, said, text in rows]
    return ("\n\n" + "=" * 100 + "\n\n").join(parts) + "\n"


if __name__ == "__main__":
    TARGET.write_text(render(), encoding="utf-8")
    sys.exit(0)
