"""What stands beside the digits: the round that is open, what was wiped, how the tile stands."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.presenters.reading import EntryState
from loam.app.presenters.rounds import flash_left, last_wipe, next_spot, open_round, wipe_words
from loam.app.presenters.tiles import tile_words
from loam.app.readers import crossed, readers_done
from loam.app.session import Session
from loam.core.readings import ReadingKind
from loam.core.trial import BEFORE, UNWIPED
from loam.store import readings as reading_store
from loam.store.about import Taken
from loam.store.raw_lines import RawLine


@dataclass(frozen=True)
class BenchWords:
    """Round and wipe in one line, the tile in another; ``care`` when its check is due."""

    round: str
    tile: str
    care: bool


def bench_words(session: Session, state: EntryState, meter: str) -> BenchWords:
    """Say which round is open, what was wiped, and how the tile stands."""
    opened = open_round(session)
    wipe = last_wipe(session, state.panel.id, state.phase)
    said = opened.words() if opened else "No round is open: N begins one, blind."
    if crossed(session.trial):
        taken = readers_done(session, state.kind.key, state.phase)
        said = ", ".join(f"{who or 'nobody named'} {n}" for who, n in taken.items()) or "nobody yet"
        said = f"Every reader reads every cell. Readings so far: {said}."
    if state.phase not in (BEFORE, UNWIPED) and not crossed(session.trial):
        words = wipe_words(wipe)
        said += f" · {words}" if words else " · no wipe is noted: W"
    wait = flash_left(wipe, session.workshop.now())
    if wait > 0.0:
        said += f" · flashing off, {wait:.0f} min left" if wait >= 1 else " · flashing off"
    tile, due = tile_words(session, meter, state.kind.key)
    return BenchWords(said, tile, due and (opened is not None or bool(meter)))


def about_reading(
    session: Session,
    state: EntryState,
    raw: RawLine | None = None,
    *,
    lights_out: bool,
    spot: bool = True,
) -> str:
    """Return how the next reading is taken: light, wipe, spot, turn, the meter's own time.

    Without ``spot`` nobody was told where to read: a column of figures was pasted.
    """
    where, turn = next_spot(session, state.panel.id, len(state.counted))
    wipe = last_wipe(session, state.panel.id, state.phase)
    return Taken(
        "out" if lights_out else "on",
        wipe_words(wipe),
        where if spot else None,
        turn if spot else None,
        raw.device_s if raw is not None else None,
        raw.host_s if raw is not None else None,
    ).as_text()


def scale_at_hand(session: Session, kind: ReadingKind) -> str:
    """Return the scale that readings of a kind are typed in: the one chosen last.

    Where none was chosen yet, the one that the trial has been read on; else the first.
    """
    if not kind.scales:
        return ""
    kept = str(session.recall(f"scale:{kind.key}", ""))
    if kept in kind.scales:
        return kept
    known = reading_store.scales_of(session.workshop.connection, session.trial_id or 0, kind.key)
    return min(known) if known else kind.scales[0]
