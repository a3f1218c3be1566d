"""What the board asks between the cells: gates, the pad that was used, grit, and what was lost."""

from __future__ import annotations

from collections.abc import Sequence

from loam.app.commands import LayOut, NoteWork, PassGate
from loam.app.commands.work import MORE_MARKS, SPLATTERED
from loam.app.presenters.laying import done_cells
from loam.app.presenters.preparing import Preparing, gate_lines, lacking_words, skipping
from loam.app.presenters.replan import Replanned, replan
from loam.app.presenters.work_words import heat_short, then_wiped
from loam.app.presenters.working import cells_left
from loam.core.errors import LoamError
from loam.core.inspection import pale_words
from loam.core.kit.life import BLOWN, BRUSHED, RETIRE, WASHED, said
from loam.core.prepare import BASELINE, DONE, INSPECT, REASONS, SKIPPED
from loam.core.sanding import DAMAGE, SHOWN_BY, STRIP, shown_by
from loam.core.trial import BEFORE
from loam.core.words.verdict import listed
from loam.store import work
from loam.ui.views.base import Key, PhaseView
from loam.ui.views.work.ask_line import MOST, REASON, WORDS
from loam.ui.views.work.desk import Desk
from loam.ui.widgets.big import Piece, Shown

CARES: tuple[tuple[str, str], ...] = (
    ("", "as it is"),
    (BLOWN, "blown out"),
    (BRUSHED, "brushed"),
    (WASHED, "washed"),
    (RETIRE, "failed: put away for good"),
)


ALL_KEY = "Ctrl+Enter"
_DUST = "Sanding dust: wear eye and breathing protection; follow local rules."


def read_before_work(desk: Desk, panel_id: int) -> None:
    """Turn to reading the cells of a panel before they are worked."""
    desk.shell.go("read")
    view = desk.shell.view
    if isinstance(view, PhaseView):
        view.turn_phase(BEFORE)
        view.turn_panel(panel_id)


class Gates:
    """The gate that is open on the panel of the next cell."""

    def __init__(self, view: Desk, found: Preparing) -> None:
        self.view, self.found = view, found
        self.skips = self.several = False
        self.answers = dict(found.usual)

    def follow(self, found: Preparing) -> None:
        """Take how far the panel is now."""
        if (found.gate.key, found.panel.id) != (self.found.gate.key, self.found.panel.id):
            self.skips = self.several = False
            self.answers = dict(found.usual)
        self.found = found

    def shown(self) -> Shown:
        """Return what the board shows."""
        gate, lines = self.found.gate, gate_lines(self.found)
        if self.skips:
            pieces = [Piece(str(i), "", why) for i, why in enumerate(REASONS, 1)]
            pieces.append(Piece("0", "", "another reason, in words"))
            more = len(self.found.open_after)
            if more:
                which = f"and the {more} after it" if self.several else "only this one"
                pieces.append(Piece("9", "leave out", which, chosen=True))
            left = [gate, *self.found.open_after] if self.several else [gate]
            names = listed([g.name for g in left])
            said = skipping(gate.key) if len(left) == 1 else " ".join(skipping(g.key) for g in left)
            return Shown(f"Leave out: {names}", said, pieces, "Why?", lines=lines)
        pieces = [
            Piece(str(i), asked.label, self.answers[asked.key], chosen=True)
            for i, asked in enumerate(gate.asks, 1)
        ]
        sentence = gate.todo
        if gate.key == INSPECT:
            pale = pale_words(self.found.panel.build.lightness)
            sentence = f"{sentence} {pale}".strip()
        if gate.key == BASELINE:
            sentence = lacking_words(self.found)
            pieces.append(Piece("Enter", "", "read them"))
        else:
            pieces.append(Piece("Enter", "", "done"))
        if len(self.found.alike) > 1 and gate.key != BASELINE:
            pieces.append(Piece(ALL_KEY, "", f"done, on {len(self.found.alike)} panels alike"))
        pieces.append(Piece("0", "", "leave it out"))
        return Shown(gate.name, sentence, pieces, gate.care, care=bool(gate.care), lines=lines)

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        if self.skips:
            return [
                (f"1–{len(REASONS)}", "why", None),
                ("0", "in words", self.zero),
                *([("9", "more gates", None)] if self.found.open_after else []),
                ("Esc", "not left out", self.leave),
            ]
        return [
            ("Enter", "read them" if self.found.gate.key == BASELINE else "done", self.press),
            *([(ALL_KEY, "on all panels", self.all)] if len(self.found.alike) > 1 else []),
            ("0", "leave it out", self.zero),
        ]

    def press(self) -> None:
        """The gate is done, or the reading before work begins."""
        if self.skips:
            return
        if self.found.gate.key == BASELINE:
            read_before_work(self.view, self.found.panel.id)
            return
        self._pass([self.found.panel.id])

    def all(self) -> None:
        """It is done on every panel that waits for it."""
        if not self.skips and self.found.gate.key != BASELINE:
            self._pass(list(self.found.alike))

    def _pass(self, panels: list[int]) -> None:
        self._note(panels, DONE, dict(self.answers))

    def _note(
        self, panels: list[int], what: str, facts: dict[str, str], gates: Sequence[str] = ()
    ) -> None:
        view, trial = self.view, self.view.session.trial
        if trial is None:
            return
        first, *more = gates or (self.found.gate.key,)
        day = view.runner.day()
        view.act(PassGate(trial.id, panels, first, what, facts, view.worker, day, tuple(more)))

    def zero(self) -> None:
        """Leave it out; or say why in words."""
        if self.skips:
            self.view.words.ask(REASON, "Why is it left out?", self._say_typed)
        else:
            self.skips = True
            self.view.show_board()

    def _say_typed(self, reason: object) -> bool:
        self.say_why(str(reason))
        return True

    def say_why(self, reason: str) -> None:
        """Leave it out for this reason, and those after it where that was turned to."""
        left = [self.found.gate, *(self.found.open_after if self.several else ())]
        self.skips = self.several = False
        self._note([self.found.panel.id], SKIPPED, {"reason": reason}, [g.key for g in left])

    def digit(self, number: int) -> None:
        """Turn to the next answer; or choose a reason."""
        if self.skips:
            if number == 9 and self.found.open_after:
                self.several = not self.several
                self.view.show_board()
            elif number <= len(REASONS):
                self.say_why(REASONS[number - 1])
            return
        if number <= len(self.found.gate.asks):
            asked = self.found.gate.asks[number - 1]
            now = self.answers[asked.key]
            at = asked.choices.index(now) if now in asked.choices else -1
            self.answers[asked.key] = asked.choices[(at + 1) % len(asked.choices)]
            self.view.show_board()

    def leave(self) -> bool:
        """Go back one step; False when there is none."""
        if not self.skips:
            return False
        self.skips = self.several = False
        self.view.show_board()
        return True


class After:
    """A stage was finished: the pad, the panel's warmth, what went wrong; then what is next."""

    def __init__(self, view: Desk) -> None:
        self.view = view
        self.care = str(view.session.recall("pad_care", "") or "")

    def shown(self) -> Shown:
        """Return what the board shows."""
        bench = self.view.bench
        b = bench.between
        if b is None:
            return Shown("", "")
        of = f", stage {b.stage} of {b.of}" if b.of > 1 else ""
        pieces = []
        sentence = f"{then_wiped(self.view.session, b.cell_id, b.stage)} {self._next()}".strip()
        if b.pad is not None:
            pieces.append(Piece("9", b.pad.name, dict(CARES).get(self.care, "as it is"), True))
        heat = heat_short(self.view.session, self.view.state)
        pieces.append(Piece("T", "panel's warmth", heat))
        pieces.append(Piece("Space", "", "go on"))
        foot = f"{b.pad.name}: {said(b.pad.life)}" if b.pad is not None else ""
        return Shown(f"{b.code} is worked{of}", sentence, pieces, foot, marks=True)

    def _next(self) -> str:
        view = self.view
        state = view.bench.state
        if state is None:
            return "Every cell is worked."
        new = [line.what for line in state.lines if line.new and line.what != "its age"]
        changed = f"Change {listed(new)}." if new else "The set-up stays."
        where = f"{state.cell.code} on {state.panel.name}"
        of = len(state.combination.stages)
        stage = f", stage {state.stage} of {of}" if of > 1 else ""
        return f"Next: {where}{stage}. {changed}"

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        found: list[Key] = [("Space", "go on", self.press), ("1–8", "mark", None)]
        if self.view.bench.between is not None and self.view.bench.between.pad is not None:
            found.append(("9", "the pad is", self.turn))
        return [*found, ("T", "read warmth", self.view.ask_heat), ("0", "say more", self.zero)]

    def press(self) -> None:
        """Note what was done with the pad, and go on."""
        view, b = self.view, self.view.bench.between
        if b is not None and b.pad is not None and self.care:
            if not view.runner.happen(b.pad, self.care):
                return
            view.session.remember("pad_care", "" if self.care == RETIRE else self.care)
        view.bench.between = None
        view.next_cell()

    def turn(self) -> None:
        """Turn to the next that can have been done with the pad."""
        keys = [key for key, _ in CARES]
        at = keys.index(self.care) if self.care in keys else 0
        self.care = keys[(at + 1) % len(keys)]
        self.view.show_board()

    def zero(self) -> None:
        """Say in words what happened."""
        self.view.open_words()

    def digit(self, number: int) -> None:
        """Mark the cell that was worked; 9 turns the pad's care."""
        if number == 9:
            self.turn()
        else:
            self.view.mark_number(number)

    def leave(self) -> bool:
        """There is no step back: Ctrl+Z takes the work back."""
        return False


class Grit:
    """A stage that sands, or the first after it, is through: is what the former grit left gone?"""

    def __init__(self, view: Desk) -> None:
        self.view = view

    def _marks(self) -> str:
        state = self.view.bench.state
        former = state.former if state is not None else None
        return "former" if former in (None, DAMAGE) else str(former)

    def _light(self) -> str:
        state = self.view.bench.state
        return shown_by(state.now) if state is not None else STRIP

    def shown(self) -> Shown:
        """Return what the board shows."""
        state = self.view.bench.state
        pieces = [
            Piece("Space", "", "gone: on"),
            Piece("9", "", "not yet: one more set"),
            Piece("L", "", "still there: leave them, and on"),
        ]
        care = "" if state is None or not state.now.disc else _DUST
        return Shown(
            f"Are the {self._marks()} marks gone?",
            f"Wipe, and look under {SHOWN_BY[self._light()]}.",
            pieces,
            care,
            care=True,
        )

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        return [
            ("Space", "gone", self.press),
            ("9", "one more set", lambda: self.digit(9)),
            ("L", "still there, on", self.stay),
            ("1–8", "mark", None),
        ]

    def press(self) -> None:
        """The former marks are gone: the stage is worked."""
        self._finish(gone=True)

    def stay(self) -> None:
        """The former marks are still there, and are left: the stage is worked all the same."""
        self._finish(gone=False)

    def _finish(self, *, gone: bool) -> None:
        bench = self.view.bench
        state, pacer = bench.state, bench.pacer
        if state is None or pacer is None:
            return
        looked: dict[str, object] = {
            "gone": gone,
            "marks": state.former or DAMAGE,
            "light": self._light(),
            "sets": 1 + round(bench.extra / max(pacer.track.settings.passes, 1)),
        }
        self.view.runner.finish(bench, looked)

    def zero(self) -> None:
        """Say in words what happened."""
        self.view.open_words()

    def digit(self, number: int) -> None:
        """Sand once more; or mark the cell."""
        if number == 9:
            self.view.bench.once_more(self.view.runner.clock)
            self.view.show_all()
        else:
            self.view.mark_number(number)

    def leave(self) -> bool:
        """There is no step back."""
        return False


class More:
    """What goes wrong less often: one more board of marks."""

    def __init__(self, view: Desk) -> None:
        self.view = view

    def shown(self) -> Shown:
        """Return what the board shows."""
        pieces = [Piece(str(i), "", said) for i, (_, said) in enumerate(MORE_MARKS, 1)]
        pieces.append(Piece("Esc", "", "back"))
        return Shown("What else went wrong?", "", pieces)

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        return [("1–9", "mark", None), ("Esc M", "back", self.leave)]

    def press(self) -> None:
        """Space marks nothing."""

    def zero(self) -> None:
        """Say in words what happened."""
        self.leave()
        self.view.open_words()

    def digit(self, number: int) -> None:
        """Mark the cell, or its neighbour."""
        if not 1 <= number <= len(MORE_MARKS):
            return
        key = MORE_MARKS[number - 1][0]
        self.leave()
        if key == SPLATTERED:
            self.view.words.ask(WORDS, "Which cell was hit?", self._hit)
        else:
            self.view.mark(key)

    def _hit(self, code: object) -> bool:
        view = self.view
        state, trial, said = view.state, view.session.trial, str(code).strip()
        if state is None or trial is None:
            return False
        own = view.session.cells_of(state.panel.id)
        cell = next((c for c in own if c.code.casefold() == said.casefold()), None)
        if cell is None:
            codes = ", ".join(c.code for c in own[:12])
            view.words.complain(f"{state.panel.name} has no cell {said[:20]}: {codes}.")
            return False
        facts = {"mark": SPLATTERED, "words": f"while {state.cell.code} was worked"}
        day = view.runner.day()
        return view.act(NoteWork(trial.id, cell.id, 1, work.MARK, facts, view.worker, day))

    def leave(self) -> bool:
        """Go back to the bench."""
        self.view.leave_more()
        return True


class Loss:
    """Something was lost: what is left is laid out anew, and what it is still worth is said."""

    def __init__(self, view: Desk) -> None:
        self.view = view
        self.found: Replanned | None = None
        self.refusal = ""
        self.busy = False
        self._panel: list[int] = []

    def _left_on_panel(self) -> list[int]:
        view = self.view
        state = view.bench.state
        if state is None:
            return []
        return [
            i for i in cells_left(view.session) if view.session.panel_of().get(i) == state.panel.id
        ]

    def shown(self) -> Shown:
        """Return what the board shows."""
        state = self.view.bench.state
        if self.busy:
            return Shown("Laying out what is left", "This takes a few seconds.")
        if self.found is not None:
            lost = self.found.lost
            cells = f"{lost} cell{'' if lost == 1 else 's'} fewer. " if lost else ""
            pieces = [
                Piece("Enter", "", "work what is left"),
                Piece("Esc", "", "leave it as it is"),
            ]
            return Shown("What is left", f"{cells}{self.found.words}", pieces)
        pieces = []
        if state is not None:
            count, left = len(self._left_on_panel()), len(cells_left(self.view.session))
            pieces = [
                Piece("1", "", f"this cell: {state.cell.code}"),
                Piece("2", "", f"what is left of {state.panel.name}: {count} cells"),
                Piece("3", "", f"time: only some of {left} cells more"),
            ]
            if state.pad is not None:
                pieces.append(Piece("4", "", f"a pad: {state.pad.name}"))
        foot = (
            self.refusal or "What is done stays; the rest is laid out anew. Ctrl+Z brings it back."
        )
        return Shown("What was lost?", "", pieces, foot, care=bool(self.refusal))

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        if self.found is not None:
            return [("Enter", "work what is left", self.press), ("Esc", "leave it", self.leave)]
        return [("1–4", "what was lost", None), ("Esc", "nothing", self.leave)]

    def digit(self, number: int) -> None:
        """Choose what was lost."""
        state = self.view.bench.state
        if self.busy or self.found is not None or state is None:
            return
        if number == 1:
            if not self._give_up([state.cell.id]):
                self._start([state.cell.id], None)
            else:
                self.view.leave_loss()
        elif number == 2:
            self._panel = self._left_on_panel()
            self._start(self._panel, None)
        elif number == 3:
            self.view.words.ask(MOST, "How many cells can still be worked?", self._keep_most)
        elif number == 4 and state.pad is not None:
            self.view.runner.happen(state.pad, RETIRE)
            self.view.leave_loss()

    def _give_up(self, cells: list[int]) -> bool:
        """Mark the cells that were begun as lost: they keep what they got, and are left as is."""
        view, trial = self.view, self.view.session.trial
        begun = done_cells(view.session)
        if view.bench.begun and view.state is not None:
            begun |= {view.state.cell.id}
        found = [i for i in cells if i in begun]
        if trial is None:
            return False
        for cell in found:
            view.act(
                NoteWork(
                    trial.id,
                    cell,
                    1,
                    work.MARK,
                    {"mark": work.LOST},
                    view.worker,
                    view.runner.day(),
                )
            )
        return bool(found)

    def _keep_most(self, most: object) -> bool:
        if isinstance(most, int):
            self._start([], most)
        return True

    def _start(self, lost: list[int], most: int | None) -> None:
        view = self.view
        trial = view.session.trial
        if trial is None:
            return
        self.busy, self.refusal = True, ""
        path = view.session.workshop.reads
        view.shell.jobs.start(
            "layout", lambda: replan(path, trial.id, lost, most), self._found, self._refused
        )
        view.show_board()

    def _found(self, found: Replanned) -> None:
        self.busy, self.found = False, found
        self.view.show_all()

    def _refused(self, error: LoamError) -> None:
        self.busy, self.refusal, self._panel = False, str(error), []
        self.view.show_all()

    def press(self) -> None:
        """Take what is left as it was laid out."""
        found, view = self.found, self.view
        trial = view.session.trial
        if found is None or trial is None or trial.id != found.laid.trial_id:
            return
        if found.laid.stood != tuple(view.session.places()):
            self.found, self._panel = None, []
            self.refusal = "The cells were changed meanwhile; say again what was lost."
            view.show_board()
            return
        laid = found.laid
        act = LayOut(
            trial.id,
            list(laid.placements),
            "lay out what is left",
            rules=laid.rules,
            after_rules=laid.after,
        )
        begun = [i for i in self._panel if i in done_cells(view.session)]
        if view.act(act):
            self._give_up(begun)
            view.leave_loss()

    def zero(self) -> None:
        """Nothing more to say here."""

    def leave(self) -> bool:
        """Go back one step."""
        if self.found is not None or self.refusal:
            self.found, self.refusal, self._panel = None, "", []
            self.view.show_board()
        else:
            self.view.leave_loss()
        return True


Mode = Gates | After | Grit | Loss | More
Asks = Gates | Loss
"""What records more than the work itself: a press of Space too many must do nothing here."""
