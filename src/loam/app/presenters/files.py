"""Files that can be brought in from a folder, newest first."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from loam.core.errors import LoamError

SUFFIXES = (".csv", ".tsv", ".txt", ".zip")
MOST = 400


@dataclass(frozen=True)
class Entry:
    """A file or folder to choose."""

    path: Path
    title: str
    below: str
    is_folder: bool


def size_words(count: int) -> str:
    """Say how large a file is."""
    for unit in ("bytes", "kB", "MB"):
        if count < 1000:
            return f"{count:.0f} {unit}"
        count //= 1000
    return f"{count:.0f} GB"


PICTURES = (".jpg", ".jpeg", ".png")


def entries(folder: Path, suffixes: tuple[str, ...] = SUFFIXES) -> list[Entry]:
    """List what can be chosen in a folder: files of some endings newest first, then folders.

    Raises
    ------
    LoamError
        When the folder cannot be looked into.
    """
    whole = ("datapackage.json",) if suffixes is SUFFIXES else ()
    try:
        found = [p for p in folder.iterdir() if not p.name.startswith(".")]
        files = [
            (p.stat().st_mtime, p)
            for p in found
            if p.is_file() and (p.suffix.lower() in suffixes or p.name in whole)
        ]
        folders = sorted((p for p in found if p.is_dir()), key=lambda p: p.name.lower())
    except OSError as error:
        raise LoamError(
            f"The folder cannot be opened ({error.strerror}).",
            where=str(folder),
            todo="Type another path.",
        ) from error
    listed = [
        Entry(
            path,
            path.name,
            f"{datetime.fromtimestamp(changed):%Y-%m-%d %H:%M} · {size_words(path.stat().st_size)}",
            False,
        )
        for changed, path in sorted(files, key=lambda f: -f[0])
    ]
    listed += [Entry(p, p.name + "/", "folder", True) for p in folders]
    if folder.parent != folder:
        listed.append(Entry(folder.parent, "..", f"up to {folder.parent}", True))
    return listed[:MOST]
