"""Where a panel and its cells lie in a drawing, to scale."""

from __future__ import annotations

from loam.app.drawings.rect import Rect
from loam.app.presenters.picture import CellFace, PanelPicture


def panel_box(area: Rect, picture: PanelPicture) -> Rect:
    """Return where the panel lies: to scale, centred across, at the top of ``area``."""
    t = picture.taping
    scale = min(area.width / t.width_mm, area.height / t.height_mm)
    w, h = t.width_mm * scale, t.height_mm * scale
    return Rect(area.x + (area.width - w) / 2, area.y, w, h)


def place_on(panel: Rect, picture: PanelPicture, x: float, y: float) -> tuple[float, float]:
    """Return the place on the panel, mm, of a point of the drawing; kept on the panel."""
    t = picture.taping
    across = min(max((x - panel.x) / panel.width, 0.0), 1.0)
    down = min(max((y - panel.y) / panel.height, 0.0), 1.0)
    return across * t.width_mm, down * t.height_mm


def zone_between(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, ...]:
    """Return left, top, width and height between two corners, mm, whole millimetres."""
    x, y = min(a[0], b[0]), min(a[1], b[1])
    return round(x), round(y), round(abs(a[0] - b[0])), round(abs(a[1] - b[1]))


def face_box(panel: Rect, picture: PanelPicture, face: CellFace) -> Rect:
    """Return where a cell lies."""
    scale = panel.width / picture.taping.width_mm
    return Rect(
        panel.x + face.x_mm * scale,
        panel.y + face.y_mm * scale,
        face.width_mm * scale,
        face.height_mm * scale,
    )


def face_at(panel: Rect, picture: PanelPicture, x: float, y: float) -> CellFace | None:
    """Return the cell at a point, None between cells."""
    return next(
        (f for f in picture.faces if face_box(panel, picture, f).holds(x, y)),
        None,
    )


def face_beside(picture: PanelPicture, face: CellFace, down: int, across: int) -> CellFace | None:
    """Return the nearest cell in a direction on the panel as it lies, None at its edge."""
    best: tuple[float, float] | None = None
    found = None
    for other in picture.faces:
        if other.cell_id == face.cell_id:
            continue
        x, y = other.x_mm - face.x_mm, other.y_mm - face.y_mm
        ahead = y * down + x * across
        aside = abs(x) if down else abs(y)
        if ahead > 1e-6 and (best is None or (aside, ahead) < best):
            best, found = (aside, ahead), other
    return found


def fitting_code(code: str, letters: int) -> str:
    """Shorten a code so that it is still told apart: its first letters and its last.

    Parameters
    ----------
    letters : int
        How many there is room for; none at all gives "".
    """
    if len(code) <= letters:
        return code
    if letters < 1:
        return ""
    if letters < 3:
        return code[:letters]
    return f"{code[: letters - 2]}…{code[-1]}"
