"""What a pair of photographs says, in words."""

from __future__ import annotations

from loam.core.photo import PhotoResult

MEANS = "loss of brightness-weighted mark length, not the share of marks that are gone"


def photo_words(found: PhotoResult) -> str:
    """Say what was measured, or why it was refused."""
    if found.removed_pct is None or found.error_points is None:
        return f"Refused: {found.reason}"
    said = f"{found.removed_pct:.0f} % ± {found.error_points:.0f} removed ({MEANS})."
    return " ".join([said, *found.warnings])
