"""A panel as it is drawn: its geometry in mm, and what lies over each cell."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from loam.app.presenters.film import FilmState
from loam.app.presenters.inspecting import out_of_scope
from loam.app.presenters.laying import rules_at_hand
from loam.app.presenters.rounds import next_spot, open_round, reading_order, zone_mm
from loam.app.readers import counts_at_hand
from loam.app.session import Session
from loam.core.outline import Outline
from loam.core.panel import Taping
from loam.core.readings import ReadingKind
from loam.core.trial import Cell, Combination, Panel

AHEAD = 7
"""Cells of the way ahead that are drawn."""


@dataclass(frozen=True)
class CellFace:
    """What is drawn in one cell.

    Attributes
    ----------
    text : str
        A figure, or nothing.
    ticks, wanted : int
        Readings taken and wanted; none are drawn when ``wanted`` is 0.
    share : float or None
        0 to 1 for the strength of the result's bar.
    quiet : bool
        Drawn in quiet ink: not part of what is looked at.
    pinned : bool
        Held by a corner of tape: it keeps what it has.
    zone_mm : float or None
        Diameter of the even ground in its middle, where a meter may be put down.
    nail : tuple of int or None
        Squares of the grid over which a scratch catches the nail, none where it is not known
        where; None where no scratch does.
    spot : (x, y, turn) or None
        Where the meter is put down next, mm from the middle, and its turn in degrees.
    """

    cell_id: int
    code: str
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    combination: Combination | None = None
    text: str = ""
    ticks: int = 0
    wanted: int = 0
    share: float | None = None
    quiet: bool = False
    spoken: str = ""
    pinned: bool = False
    zone_mm: float | None = None
    nail: tuple[int, ...] | None = None
    spot: tuple[float, float, int] | None = None


@dataclass(frozen=True)
class FilmSpot:
    """A reading of the whole film at a place of the panel, mm; ``odd`` is unlike the rest."""

    x_mm: float
    y_mm: float
    text: str
    odd: bool
    low: bool


@dataclass(frozen=True)
class PanelPicture:
    """One panel to scale; ``walk`` is the order in which cells are read from now on."""

    panel_id: int
    name: str
    hardness: str
    paint: str
    taping: Taping
    faces: tuple[CellFace, ...]
    spots: tuple[FilmSpot, ...] = ()
    next_spot: tuple[float, float] | None = None
    walk: tuple[int, ...] = ()
    outline: Outline = field(default_factory=Outline)
    coat: str = "clear"

    @property
    def ground(self) -> str:
        """What is worked, in words: soft clear."""
        return f"{self.hardness} {self.coat}"

    def face(self, cell_id: int | None) -> CellFace | None:
        """Return the face of a cell."""
        return next((f for f in self.faces if f.cell_id == cell_id), None)


def _faces(
    panel: Panel, cells: list[Cell], over: Callable[[Cell, str], dict[str, Any]]
) -> list[CellFace]:
    """Place cells; ``over`` says what lies over one, given the cell and its spoken name."""
    rects = {(r.row, r.column): r for r in panel.taping.cells()}
    faces = []
    for cell in cells:
        r = rects[cell.row, cell.column]
        code = cell.code
        faces.append(
            CellFace(
                cell.id,
                code,
                r.x_mm,
                r.y_mm,
                r.width_mm,
                r.height_mm,
                **over(cell, f"cell {code}"),
            )
        )
    return faces


def _assemble(panel: Panel, faces: list[CellFace]) -> PanelPicture:
    return PanelPicture(
        panel.id,
        panel.name,
        panel.hardness,
        panel.paint,
        panel.taping,
        tuple(faces),
        outline=panel.outline,
        coat=panel.build.coat,
    )


def assigned(
    session: Session,
    panel: Panel,
    chosen: Combination | None = None,
    pinned: frozenset[int] = frozenset(),
    zones: Mapping[int, float] | None = None,
) -> PanelPicture:
    """Overlay: which combination goes where; with ``chosen`` the others are quiet.

    ``zones`` holds the diameter of even ground by combination. Worked stage by stage no cell has
    one number: the lot is drawn anew on each step.
    """
    numbered = not rules_at_hand(session).by_stage
    by_id = {c.id: c for c in session.combinations()}

    def over(cell: Cell, name: str) -> dict[str, Any]:
        combination = by_id.get(cell.combination_id or 0)
        said = combination.code if combination else "free"
        number = cell.run_order if numbered else None
        order = f", worked {number}." if number else ""
        zone = (zones or {}).get(cell.combination_id or 0)
        return {
            "zone_mm": zone,
            "combination": combination,
            "text": f"no. {number}" if number else "",
            "spoken": f"{name}, {said}{order}" + (", stays" if cell.id in pinned else ""),
            "pinned": cell.id in pinned,
            "quiet": chosen is not None and (combination is None or combination.id != chosen.id),
        }

    return _assemble(panel, _faces(panel, session.cells_of(panel.id), over))


def lit(session: Session, panel: Panel, cell_id: int, *, blind: bool = False) -> PanelPicture:
    """Overlay: one cell lit among its neighbours; blind, nothing of what they get."""
    picture = assigned(session, panel)
    faces = tuple(replace(f, quiet=f.cell_id != cell_id) for f in picture.faces)
    if blind:
        faces = tuple(replace(f, combination=None, spoken=f"cell {f.code}") for f in faces)
    return replace(picture, faces=faces)


def surveyed(session: Session, panel: Panel, film: FilmState) -> PanelPicture:
    """Overlay: what the film is read as, over the panel's bare cells."""
    kind = session.kind("film")
    found = film.survey

    def over(cell: Cell, name: str) -> dict[str, Any]:
        return {"quiet": True, "spoken": name}

    spots = (
        ()
        if found is None
        else tuple(
            FilmSpot(s.x_mm, s.y_mm, kind.write(s.film_um), s in found.odd, s == found.low)
            for s in found.spots
        )
    )
    picture = _assemble(panel, _faces(panel, session.cells_of(panel.id), over))
    return replace(picture, spots=spots, next_spot=film.next_spot)


def placed(session: Session, panel: Panel, combination: Combination) -> PanelPicture:
    """Overlay: where one combination lies among the others."""
    return assigned(session, panel, combination)


def read(
    session: Session,
    panel: Panel,
    measurand: str,
    phase: str = "after",
    next_up: tuple[int, int] | None = None,
) -> PanelPicture:
    """Overlay: what has been read, and where the meter goes; the combination stays hidden.

    ``next_up`` is the cell that is read, and the number of its next reading, from 0.
    """
    trial = session.trial
    wanted = trial.readings_per_cell if trial else 0
    kind = session.kind(measurand)
    counts = counts_at_hand(session, phase)
    zone = zone_mm(session, panel.id)
    scratched = out_of_scope(session)
    place = None
    if next_up is not None:
        (x, y), turn = next_spot(session, panel.id, next_up[1])
        place = (x, y, turn)

    def over(cell: Cell, name: str) -> dict[str, Any]:
        n, mean = counts.get((cell.id, measurand), (0, 0.0))
        text = kind.write(mean) if n else ""
        return {
            "text": text,
            "ticks": n,
            "wanted": wanted if cell.combination_id is not None else 0,
            "quiet": not n,
            "zone_mm": zone if cell.combination_id is not None else None,
            "nail": scratched.get(cell.id),
            "spot": place if next_up is not None and cell.id == next_up[0] else None,
            "spoken": f"{name}, {n} of {wanted} read {text}"
            + (", the nail catches here" if cell.id in scratched else ""),
        }

    picture = _assemble(panel, _faces(panel, session.cells_of(panel.id), over))
    if next_up is None or open_round(session) is None:
        return picture
    order = reading_order(session)
    now = order.get(next_up[0], 0)
    own = [
        f.cell_id
        for f in picture.faces
        if f.cell_id == next_up[0] or (order.get(f.cell_id, -1) > now and f.ticks < wanted)
    ]
    return replace(picture, walk=tuple(sorted(own, key=lambda c: order[c]))[:AHEAD])


def result(
    session: Session,
    panel: Panel,
    kind: ReadingKind,
    means: dict[int, float],
    chosen: Collection[int],
) -> PanelPicture:
    """Overlay: how good each cell came out; the chosen cells stand out.

    Parameters
    ----------
    means : dict
        Mean by cell id, in the unit of the measurand.
    chosen : collection of int
        Cells that are looked at.
    """
    by_id = {c.id: c for c in session.combinations()}
    low, high = min(means.values(), default=0.0), max(means.values(), default=1.0)

    def over(cell: Cell, name: str) -> dict[str, Any]:
        combination = by_id.get(cell.combination_id or 0)
        mean = means.get(cell.id)
        share = None
        if mean is not None and high > low:
            share = (mean - low) / (high - low)
            share = share if kind.higher_is_better else 1.0 - share
        text = kind.write(mean) if mean is not None else ""
        code = combination.code if combination else ""
        return {
            "combination": combination,
            "text": text,
            "share": share,
            "quiet": cell.id not in chosen,
            "spoken": f"{name}, {code} {text}",
        }

    return _assemble(panel, _faces(panel, session.cells_of(panel.id), over))
