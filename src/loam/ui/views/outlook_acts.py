"""What pressing a choice of the outlook does."""

from __future__ import annotations

from dataclasses import replace

from loam.app.commands import AddCombination, AddPanel, EditTrial
from loam.app.presenters.kit import new_control
from loam.app.presenters.outlook import READ_MORE
from loam.ui.views.base import View
from loam.ui.views.panels.view import another_panel


def take_choice(view: View, key: str) -> None:
    """Do what a choice says: a panel more, readings more; or turn to the combinations."""
    session = view.session
    trial = session.trial
    if trial is None:
        return
    what, _, of = key.partition(":")
    if what == "panel":
        like = [p for p in session.panels() if p.hardness == of]
        if like:
            view.act(AddPanel(another_panel(session, trial, like[-1])))
    elif what == "readings":
        more = trial.readings_per_cell + READ_MORE
        view.act(EditTrial(trial, replace(trial, readings_per_cell=more)))
    elif what == "control":
        view.act(AddCombination(trial.id, new_control(session, of)))
    elif what == "reads":
        view.act(EditTrial(trial, replace(trial, measurands=(*trial.measurands, of))))
    elif what == "drop":
        view.shell.go("kit")
        view.shell.say("Ctrl+Del puts the combination away that is marked.")
