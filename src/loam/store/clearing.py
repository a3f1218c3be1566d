"""What a coming in that was cut off has left is cleared away; it was never shown."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from loam.store.take_in import PORTION
from loam.store.trials import COMING_IN


def clear_steps(db: sqlite3.Connection) -> Iterator[None]:
    """Clear away, step by step, trials whose coming in was cut off; they were never shown."""
    of_cells = (
        "SELECT c.id FROM cell c JOIN taping t ON t.id = c.taping_id"
        f" JOIN trial x ON x.id = t.trial_id WHERE x.put_away = {COMING_IN}"
    )
    for sql in (
        f"DELETE FROM strike WHERE id IN (SELECT s.id FROM strike s JOIN reading r"
        f" ON r.id = s.reading_id WHERE r.cell_id IN ({of_cells}) LIMIT {PORTION})",
        f"DELETE FROM reading WHERE id IN (SELECT id FROM reading WHERE cell_id IN ({of_cells})"
        f" LIMIT {PORTION})",
        f"DELETE FROM work WHERE id IN (SELECT id FROM work WHERE cell_id IN ({of_cells})"
        f" LIMIT {PORTION})",
        f"DELETE FROM baseline WHERE cell_id IN (SELECT cell_id FROM baseline"
        f" WHERE cell_id IN ({of_cells}) LIMIT {PORTION})",
    ):
        while db.execute(sql).rowcount:
            yield
    state = COMING_IN
    of_trial = f"(SELECT id FROM trial WHERE put_away = {state})"
    for sql in (
        f"DELETE FROM identity WHERE sort = 'trial' AND row IN {of_trial}",
        "DELETE FROM identity WHERE sort = 'panel' AND row IN"
        f" (SELECT id FROM taping WHERE trial_id IN {of_trial})",
        "DELETE FROM identity WHERE sort = 'combination' AND row IN"
        f" (SELECT id FROM combination WHERE trial_id IN {of_trial})",
        f"DELETE FROM identity WHERE sort = 'board' AND row IN"
        f" (SELECT id FROM panel WHERE put_away = {state})",
        f"DELETE FROM cell WHERE id IN ({of_cells})",
        f"DELETE FROM taping WHERE trial_id IN {of_trial}",
        f"DELETE FROM panel_version WHERE panel_id IN"
        f" (SELECT id FROM panel WHERE put_away = {state})",
        f"DELETE FROM panel WHERE put_away = {state}",
        f"DELETE FROM stage WHERE combination_id IN"
        f" (SELECT id FROM combination WHERE trial_id IN {of_trial})",
        f"DELETE FROM combination WHERE trial_id IN {of_trial}",
        f"DELETE FROM trial WHERE put_away = {state}",
    ):
        db.execute(sql)
        yield
