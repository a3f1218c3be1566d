"""Refuse source files that have outgrown their room (500 lines)."""

import sys
from pathlib import Path

LIMIT = 500
root = Path(__file__).resolve().parent.parent
big = [
    (path.relative_to(root), count)
    for folder in ("src", "tests", "tools")
    for path in sorted((root / folder).rglob("*.py"))
    if (count := len(path.read_text().splitlines())) > LIMIT
]
for path, count in big:
    print(f"{path}: {count} lines, the limit is {LIMIT}: split it by meaning", file=sys.stderr)
sys.exit(bool(big))
