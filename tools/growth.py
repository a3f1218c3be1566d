"""Say what grows: the longest files, and what has grown most since the last release.

Refuses classes of too many methods; how long a method may be and how often it may branch is checked
by ruff (statements, branches, complexity). The length of a file alone refuses nothing.
"""

import ast
import subprocess
import sys
from pathlib import Path

MOST_METHODS = 48
SHOWN = 8
ROOT = Path(__file__).resolve().parent.parent
FOLDERS = ("src", "tests", "tools")


def sources():
    """Return every source file with its lines."""
    return {
        path.relative_to(ROOT): len(path.read_text().splitlines())
        for folder in FOLDERS
        for path in sorted((ROOT / folder).rglob("*.py"))
    }


def too_broad(path):
    """Return the classes of a file that have too many methods."""
    tree = ast.parse((ROOT / path).read_text())
    for node in ast.walk(tree):
        if isinstance(node, ast.ClassDef):
            count = sum(isinstance(x, ast.FunctionDef | ast.AsyncFunctionDef) for x in node.body)
            if count > MOST_METHODS:
                yield node.name, count


def grown():
    """Return lines added less lines gone since the last tag, by file; empty without a history."""

    def git(*arguments):
        found = subprocess.run(
            ["git", *arguments], cwd=ROOT, capture_output=True, text=True, check=False
        )
        return found.stdout if found.returncode == 0 else ""

    tag = git("describe", "--tags", "--abbrev=0").strip()
    found = {}
    for line in git("diff", "--numstat", tag, "--", *FOLDERS).splitlines() if tag else ():
        added, gone, name = line.split("\t")
        if added.isdigit():
            found[name] = int(added) - int(gone)
    return tag, found


def main():
    """Print what grows, and return 1 where a class has too many methods."""
    lines = sources()
    longest = sorted(lines.items(), key=lambda item: -item[1])[:SHOWN]
    total = sum(n for path, n in lines.items() if path.parts[0] == "src")
    print(f"src: {total} lines. Longest: " + ", ".join(f"{p} {n}" for p, n in longest))
    tag, since = grown()
    if since:
        most = sorted(since.items(), key=lambda item: -item[1])[:SHOWN]
        print(f"Grown since {tag}: " + ", ".join(f"{p} {n:+d}" for p, n in most))
    broad = [(path, *found) for path in lines for found in too_broad(path)]
    for path, name, count in broad:
        print(f"{path}: {name} has {count} methods, {MOST_METHODS} are the most", file=sys.stderr)
    return bool(broad)


if __name__ == "__main__":
    sys.exit(main())
