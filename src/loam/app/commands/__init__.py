"""One command for each act of the user, by area: what it does and how it is taken back."""

from loam.app.commands.base import Act
from loam.app.commands.combinations import (
    AddCombination,
    CorrectThing,
    EditCombination,
    PutCombinationAway,
)
from loam.app.commands.decide import Decide, Weigh
from loam.app.commands.further import PlanFurther
from loam.app.commands.jobs import NoteJob, PutJobAway, StartJob
from loam.app.commands.kit import EditThing, PutOnShelf, PutThingAway, pad_event
from loam.app.commands.layout import Assign, LayOut
from loam.app.commands.matters import SetMatters
from loam.app.commands.noted import CorrectReadings, KeepPhotographs, Note
from loam.app.commands.panels import AddPanel, EditPanel, PutPanelAway
from loam.app.commands.photographs import ShowPhotograph
from loam.app.commands.plan import SetRules
from loam.app.commands.preparation import PassGate
from loam.app.commands.readings import StrikeReadings, TakeReadings, take_reading
from loam.app.commands.survey import AddSpot, StrikeSpot
from loam.app.commands.trials import AddTrial, CopyTrial, EditTrial, PutTrialAway, TakeInTrial
from loam.app.commands.work import NoteWork

__all__ = [
    "Act",
    "AddCombination",
    "AddPanel",
    "AddSpot",
    "AddTrial",
    "Assign",
    "CopyTrial",
    "CorrectReadings",
    "CorrectThing",
    "Decide",
    "EditCombination",
    "EditPanel",
    "EditThing",
    "EditTrial",
    "KeepPhotographs",
    "LayOut",
    "Note",
    "NoteJob",
    "NoteWork",
    "PassGate",
    "PlanFurther",
    "PutCombinationAway",
    "PutJobAway",
    "PutOnShelf",
    "PutPanelAway",
    "PutThingAway",
    "PutTrialAway",
    "SetMatters",
    "SetRules",
    "ShowPhotograph",
    "StartJob",
    "StrikeReadings",
    "StrikeSpot",
    "TakeInTrial",
    "TakeReadings",
    "Weigh",
    "pad_event",
    "take_reading",
]
