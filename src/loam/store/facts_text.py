"""Facts that are kept as JSON; what something else has bent counts as nothing known."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any


def facts_of(text: object) -> dict[str, Any]:
    """Return what is kept as a JSON object, or nothing where it is none."""
    if not isinstance(text, str) or not text:
        return {}
    try:
        found = json.loads(text)
    except (ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def facts_written(facts: Mapping[str, Any]) -> str:
    """Write facts as JSON."""
    return json.dumps(dict(facts), sort_keys=True, ensure_ascii=False)


def value_of(text: object, default: Any = None) -> Any:
    """Return what is kept as JSON, or the default where it cannot be read."""
    try:
        return json.loads(text) if isinstance(text, str) else default
    except (ValueError, RecursionError):
        return default
