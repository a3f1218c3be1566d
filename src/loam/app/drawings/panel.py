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


def tape_pieces(picture: PanelPicture, reach_mm: float) -> list[tuple[Rect, bool]]:
    """Return the strips of tape in the gaps between cells, mm, and whether each runs down.

    A strip goes as far as there are cells beside it, and ``reach_mm`` beyond.
    """
    t = picture.taping
    wide, high = t.cell_width_mm + t.gap_mm, t.cell_height_mm + t.gap_mm
    there = {
        (round((f.y_mm - t.margin_mm) / high), round((f.x_mm - t.margin_mm) / wide))
        for f in picture.faces
    }
    found = []
    for column in range(1, t.columns):
        beside = [r for r in range(t.rows) if {(r, column - 1), (r, column)} & there]
        for first, last in _runs(beside):
            x = t.margin_mm + column * wide - t.gap_mm
            y, end = t.margin_mm + first * high, t.margin_mm + (last + 1) * high - t.gap_mm
            strip = Rect(x, y - reach_mm, t.gap_mm, end - y + 2 * reach_mm)
            found.append((strip, True))
    for row in range(1, t.rows):
        beside = [c for c in range(t.columns) if {(row - 1, c), (row, c)} & there]
        for first, last in _runs(beside):
            y = t.margin_mm + row * high - t.gap_mm
            x, end = t.margin_mm + first * wide, t.margin_mm + (last + 1) * wide - t.gap_mm
            strip = Rect(x - reach_mm, y, end - x + 2 * reach_mm, t.gap_mm)
            found.append((strip, False))
    return found


def _runs(numbers: list[int]) -> list[tuple[int, int]]:
    """Return first and last of every unbroken run of growing numbers."""
    found: list[tuple[int, int]] = []
    for n in numbers:
        if found and n == found[-1][1] + 1:
            found[-1] = (found[-1][0], n)
        else:
            found.append((n, n))
    return found


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
