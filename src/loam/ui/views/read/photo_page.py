"""Photographs of the cell at hand: before and after work, with the untouched strip in the frame."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QKeyEvent, QPainter
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.commands import KeepPhotographs
from loam.app.presenters.files import PICTURES
from loam.app.presenters.inspecting import out_of_scope
from loam.app.presenters.photographing import (
    PAINT_WORDS,
    Pair,
    Photo,
    facts_of,
    load_photo,
    measure_pair,
    moved,
    nail_region,
    paint_of,
    reading_of,
    result_words,
    usual_regions,
)
from loam.app.presenters.reading import entry_state
from loam.core.errors import LoamError
from loam.core.photo import PhotoResult, Region
from loam.ui.keys import perform
from loam.ui.photograph import jpeg
from loam.ui.theme import look
from loam.ui.views.base import Key
from loam.ui.views.read.owner import Owner
from loam.ui.widgets.fields import set_role, words
from loam.ui.widgets.file_choice import FileChoice
from loam.ui.widgets.photo_pane import CELL, NAIL, STRIP, PhotoPane, grey_image, overlay_image
from loam.ui.widgets.scroll_stack import Stack

BEFORE, AFTER = "before", "after"
STEP_PX = 4
KEPT_PX = 520
_ARROWS = {
    int(Qt.Key.Key_Left): (-1, 0),
    int(Qt.Key.Key_Right): (1, 0),
    int(Qt.Key.Key_Up): (0, -1),
    int(Qt.Key.Key_Down): (0, 1),
}
_HOW = (
    "A point light above, its spot in the cell; camera fixed; the same exposure both times; tape"
    " round the cell and round a strip that is damaged alike and never worked. Drop a picture here,"
    " or press {key}."
)


class PhotoPage(QWidget):
    """Two photographs side by side, their regions, and what they say."""

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.photos: dict[str, Photo] = {}
        self.cell_id = 0
        self.at, self.paint = CELL, "black"
        self.regions: dict[str, Region] = {}
        self.result: PhotoResult | None = None
        self._wanted = BEFORE
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(20, 10, 24, 0)
        self.pages = Stack()
        outer.addWidget(self.pages)
        pair = QWidget()
        pair.setObjectName("ground")
        box = QVBoxLayout(pair)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        self.title = words("", "title", wrap=True)
        box.addWidget(self.title)
        row = QHBoxLayout()
        row.setSpacing(20)
        self.panes = {BEFORE: PhotoPane("before work"), AFTER: PhotoPane("after the wipe")}
        for pane in self.panes.values():
            pane.drawn.connect(self._drawn)
            row.addWidget(pane)
        box.addLayout(row, 1)
        self.said = words("", "lead", wrap=True)
        self.said.setObjectName("photo_said")
        box.addWidget(self.said)
        self.means = words("", "quiet", wrap=True)
        box.addWidget(self.means)
        self.pages.addWidget(pair)
        self.choice = FileChoice("A photograph", _HOW.format(key="Enter on one"), PICTURES)
        self.choice.chosen.connect(lambda path: self.take(Path(path), self._wanted))
        owner.shell.jobs.progress.connect(self._progress)
        self.pages.addWidget(self.choice)

    @property
    def busy(self) -> bool:
        """Whether a photograph is being loaded or a pair measured."""
        return self.owner.shell.jobs.is_busy("photo")

    def begin(self) -> None:
        """Show the cell at hand; photographs of another cell are put away."""
        state = self.owner.state
        if state is None:
            return
        if state.cell.id != self.cell_id:
            self.photos.clear()
            self.regions.clear()
            self.result = None
            self.cell_id = state.cell.id
            self.paint = paint_of(state.panel.build)
        self.title.setText(f"{state.panel.name} {state.cell.code}: photographs")
        self.pages.setCurrentIndex(0)
        self.show_all()
        self.setFocus()

    def show_all(self) -> None:
        """Show photographs, regions and result."""
        for key, pane in self.panes.items():
            photo = self.photos.get(key)
            image = grey_image(photo.preview) if photo is not None else None
            pane.show_photo(image, photo.scale if photo is not None else 1, self._hint(key))
            pane.show_regions(self.regions if photo is not None else {}, self.at)
            pane.show_counted(self._overlay(key))
        self._say()
        self.owner.shell.keys_changed()

    def _hint(self, key: str) -> str:
        return _HOW.format(key="B" if key == BEFORE else "A")

    def _overlay(self, key: str) -> QImage | None:
        counted = self.result.counted if self.result is not None else None
        if counted is None:
            return None
        return overlay_image(counted.before if key == BEFORE else counted.after, look.care)

    def _say(self) -> None:
        missing = [k for k in (BEFORE, AFTER) if k not in self.photos]
        found, care = self.result, False
        means = f"Paint: {PAINT_WORDS[self.paint]}."
        if missing:
            said = f"The picture {' and '.join(missing)} is missing."
            if len(missing) == 2:
                said = "Two pictures of this cell, before and after, say how much was removed."
        elif found is None:
            photo = self.photos[BEFORE]
            said = "The tape was found: cell and strip are marked."
            if photo.found is None:
                said = "No tape was found: drag the cell and the strip (C and S choose which)."
                care = True
            means += " Enter measures."
        else:
            said, care = result_words(found), found.refused
            means += (
                " Coloured: what was counted, where marks shone before, and what of them still"
                " shines. It is no share of marks that are gone."
            )
        self.said.setText(said)
        set_role(self.said, "care" if care else "lead")
        self.means.setText(means)

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        if self.pages.currentWidget() is self.choice:
            return [
                ("Enter", "take this picture", self.choice.take),
                ("Backspace", "folder above", None),
                ("Esc", "back", self.escape),
            ]
        keys: list[Key] = [
            ("B", "picture before", lambda: self.choose(BEFORE)),
            ("A", "picture after", lambda: self.choose(AFTER)),
        ]
        if self.busy:
            return [*keys, ("Esc", "stop", self.escape)]
        if len(self.photos) == 2:
            keys = [("Enter", "measure" if self.result is None else "keep", self.enter), *keys]
        return [
            *keys,
            ("P", "paint", self.turn_paint),
            ("C", "cell", partial(self._turn_region, CELL)),
            ("S", "strip", partial(self._turn_region, STRIP)),
            ("N", "the nail catches here", self._turn_nail),
            *(
                [("Delete", "it does not", self._no_nail)]
                if self.at == NAIL and NAIL in self.regions
                else []
            ),
            ("arrows", "move", None),
            ("Shift+arrows", "size", None),
            ("Esc", "read on", self.escape),
        ]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        choosing = self.pages.currentWidget() is self.choice
        if event.key() in _ARROWS and self.regions and not choosing:
            self._move(*_ARROWS[event.key()], size=shift)
        elif not perform(event, self.keys()):
            super().keyPressEvent(event)

    def escape(self) -> None:
        """Stop what runs, leave the list, or go back to reading."""
        jobs = self.owner.shell.jobs
        if self.busy:
            jobs.cancel("photo")
            self.said.setText("Stopped.")
            self.owner.shell.keys_changed()
        elif self.pages.currentWidget() is self.choice:
            self.pages.setCurrentIndex(0)
            self.setFocus()
            self.owner.shell.keys_changed()
        else:
            self.owner.leave_page()

    def choose(self, which: str) -> None:
        """Choose a picture from a folder."""
        self._wanted = which
        self.choice.title.setText(f"The photograph {which} work")
        self.pages.setCurrentWidget(self.choice)
        folder = self.owner.session.recall("pictures", str(Path.home()))
        self.choice.open_folder(Path(folder))
        self.owner.shell.keys_changed()

    def take(self, path: Path, which: str = "") -> None:
        """Load a picture; one that was dropped goes where one is missing."""
        which = which or (AFTER if BEFORE in self.photos and AFTER not in self.photos else BEFORE)
        self.pages.setCurrentIndex(0)
        self.setFocus()
        self.said.setText(f"Loading {path.name[:80]} …")
        if not self.owner.session.workshop.read_only:
            self.owner.session.remember("pictures", str(path.parent.absolute()))
        self.owner.shell.jobs.start(
            "photo",
            lambda: load_photo(path),
            lambda photo: self._loaded(which, photo),
            self._failed,
        )
        self.owner.shell.keys_changed()

    def _loaded(self, which: str, photo: Photo) -> None:
        self.photos[which] = photo
        self.result = None
        if which == BEFORE:
            cell, strip = usual_regions(photo)
            self.regions = {CELL: cell, STRIP: strip}
            squares = out_of_scope(self.owner.session).get(self.cell_id)
            if squares:
                self.regions[NAIL] = nail_region(cell, squares)
        self.show_all()

    def _failed(self, error: LoamError) -> None:
        self.show_all()
        self.said.setText(f"{error.what} {error.todo}".strip())
        set_role(self.said, "care")

    def turn_paint(self) -> None:
        """Say which paint it is."""
        kinds = list(PAINT_WORDS)
        self.paint = kinds[(kinds.index(self.paint) + 1) % len(kinds)]
        self._changed()

    def _turn_region(self, key: str) -> None:
        self.at = key
        self.show_all()

    def _turn_nail(self) -> None:
        """Mark where a scratch catches the nail: it is not counted."""
        if CELL in self.regions and NAIL not in self.regions:
            self.regions[NAIL] = nail_region(self.regions[CELL])
            self.result = None
        if self.regions:
            self._turn_region(NAIL)

    def _no_nail(self) -> None:
        self.regions.pop(NAIL, None)
        self.at = CELL
        self._changed()

    def _move(self, across: int, down: int, *, size: bool) -> None:
        shape = self.photos[BEFORE].values.shape
        region = self.regions[self.at]
        step = STEP_PX * self.photos[BEFORE].scale
        self.regions[self.at] = moved(region, across * step, down * step, size=size, shape=shape)
        self._changed()

    def _drawn(self, key: str, x: int, y: int, width: int, height: int) -> None:
        if key in self.regions:
            self.regions[key] = Region(x, y, max(width, 8), max(height, 8))
            self._changed()

    def _changed(self) -> None:
        """What was measured holds no more."""
        self.result = None
        self.show_all()

    def enter(self) -> None:
        """Measure, or keep what was measured."""
        if len(self.photos) < 2 or self.busy:
            return
        if self.result is not None:
            self.keep()
            return
        pair = self.pair()
        tell = self.owner.shell.jobs.teller("photo")
        self.said.setText("Measuring …")
        set_role(self.said, "lead")
        self.owner.shell.jobs.start(
            "photo", lambda: measure_pair(pair, tell), self._measured, self._failed
        )
        self.owner.shell.keys_changed()

    def _progress(self, key: str, share: float) -> None:
        if key == "photo" and self.busy:
            self.said.setText(f"Measuring … {100 * share:.0f} %. Esc stops it.")

    def pair(self) -> Pair:
        """Return what is measured."""
        b, a = self.photos[BEFORE], self.photos[AFTER]
        nail = self.regions.get(NAIL)
        return Pair(b, a, self.regions[CELL], self.regions[STRIP], self.paint, nail)

    def _measured(self, found: PhotoResult) -> None:
        self.result = found
        self.show_all()

    def keep(self) -> None:
        """Keep the pair with the cell; what was measured becomes a reading of its own scale."""
        session, trial = self.owner.session, self.owner.session.trial
        cell, found = session.cell(self.cell_id), self.result
        if trial is None or cell is None or found is None:
            return
        state = entry_state(session, cell, "defects", "after")
        pair, day = self.pair(), session.workshop.now()[:10]
        reading = None
        if not found.refused and "defects" in trial.measurands:
            reading = reading_of(state, found, pair.after, self.owner.reader_name, day)
        act = KeepPhotographs(
            trial.id,
            cell.id,
            facts_of(pair, found),
            self._small_picture(),
            reading,
            self.owner.reader_name,
            day,
        )
        if self.owner.act(act):
            kept = "Kept with the cell."
            if reading is None and not found.refused:
                kept += " This trial does not read defects removed: Ask (F2) adds it."
            self.owner.shell.say(kept)
            self.owner.leave_page()

    def _small_picture(self) -> bytes:
        """Return both photographs side by side, small, with what was counted."""
        sheet = QImage(2 * KEPT_PX + 10, KEPT_PX, QImage.Format.Format_RGB32)
        sheet.fill(look.panel)
        painter = QPainter(sheet)
        for key, photo in self.photos.items():
            image = grey_image(photo.preview).scaled(
                KEPT_PX,
                KEPT_PX,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            at = 0 if key == BEFORE else KEPT_PX + 10
            place = QRectF(at, 0, image.width(), image.height())
            painter.drawImage(place, image)
            overlay = self._overlay(key)
            if overlay is not None:
                painter.drawImage(place, overlay)
        painter.end()
        return jpeg(sheet)
