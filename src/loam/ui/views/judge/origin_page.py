"""Where a figure comes from: its cells on the panels, its readings, the model, the strikes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QFont, QFontMetrics
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QTableView, QVBoxLayout, QWidget

from loam.app.commands import StrikeReadings
from loam.app.presenters.picture import result
from loam.app.questions.readings_behind import Origin, OriginRow
from loam.core.errors import LoamError
from loam.core.trial import Reading
from loam.ui.theme import look
from loam.ui.theme.look import BODY, tip
from loam.ui.views.base import Key, Shell
from loam.ui.widgets.fields import words
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.strike_bar import StrikeBar
from loam.ui.widgets.tape import TapeKey

PANELS_SHOWN, CELLS_SHOWN = 6, 150


class _Readings(QAbstractTableModel):
    """A row a cell, a column a reading; struck ones stay, struck through."""

    def __init__(self) -> None:
        super().__init__()
        self.origin: Origin | None = None
        self.wide = 0

    @property
    def lead(self) -> int:
        """Columns before the readings."""
        return len(self.origin.columns) if self.origin is not None else 0

    def show_origin(self, origin: Origin) -> None:
        """Show other readings."""
        self.beginResetModel()
        self.origin = origin
        self.wide = max((len(r.readings) for r in origin.rows), default=0)
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.origin.rows) if self.origin else 0

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return self.lead + self.wide

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.TextAlignmentRole:
            right = section >= self.lead - 1
            side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if role != Qt.ItemDataRole.DisplayRole or way == Qt.Orientation.Vertical:
            return None
        heads = self.origin.columns if self.origin is not None else ()
        return heads[section] if section < len(heads) else str(section - len(heads) + 1)

    def reading(self, index: QModelIndex) -> tuple[OriginRow, Reading] | None:
        """Return the reading at a place."""
        if self.origin is None or not index.isValid() or index.column() < self.lead:
            return None
        row = self.origin.rows[index.row()]
        at = index.column() - self.lead
        return (row, row.readings[at]) if at < len(row.readings) else None

    def data(self, index: QModelIndex, role: int = 0) -> Any:
        if self.origin is None:
            return None
        found = self.reading(index)
        if role == Qt.ItemDataRole.DisplayRole:
            if index.column() < self.lead:
                return self._lead(self.origin.rows[index.row()], index.column())
            if found is None:
                return ""
            source = self.origin.kind
            return source.write(found[1].value)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            right = index.column() >= self.lead - 1
            side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.FontRole:
            figure = index.column() >= self.lead - 1 or self._head(index.column()) in ("Cell", "Of")
            font: QFont = look.figures(BODY - 1) if figure else look.words(BODY)
            font.setStrikeOut(found is not None and found[1].struck is not None)
            font.setBold(index.column() == self.lead - 1)
            return font
        if role == Qt.ItemDataRole.ForegroundRole:
            return look.quiet if found and found[1].struck is not None else look.ink
        if role == Qt.ItemDataRole.ToolTipRole and found and found[1].struck is not None:
            return tip(f"struck: {found[1].struck}")
        return None

    def _lead(self, row: OriginRow, column: int) -> str:
        assert self.origin is not None
        mean = self.origin.kind.write(row.mean, 1) if row.mean is not None else "–"
        return (*row.lead, mean)[column]

    def _head(self, column: int) -> str:
        heads = self.origin.columns if self.origin is not None else ()
        return heads[column] if column < len(heads) else ""


class OriginPage(QWidget):
    """The readings behind one figure."""

    def __init__(self, shell: Shell, close: Callable[[], None]) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.shell, self._close = shell, close
        self.origin: Origin | None = None
        self.following = ""
        self.turned: Callable[[], None] = lambda: None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 0)
        row.setSpacing(20)
        left = QWidget()
        left.setFixedWidth(look.wide(400))
        self._panels = QGridLayout(left)
        self._panels.setContentsMargins(0, 0, 0, 0)
        self._panels.setSpacing(12)
        self._panels.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addWidget(left)
        sheet = QWidget()
        sheet.setObjectName("sheet")
        box = QVBoxLayout(sheet)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        self.heading = words("", "head", wrap=True)
        self.recipe = words("", "quiet", wrap=True)
        box.addWidget(self.heading)
        box.addWidget(self.recipe)
        self.model = _Readings()
        self.grid = QTableView()
        self.grid.setObjectName("origin_table")
        self.grid.setAccessibleName("readings behind the figure")
        self.grid.setModel(self.model)
        self.grid.setShowGrid(False)
        self.grid.setTabKeyNavigation(False)
        header, side = self.grid.horizontalHeader(), self.grid.verticalHeader()
        if header is not None and side is not None:
            header.setMinimumSectionSize(46)
            header.setHighlightSections(False)
            side.hide()
            side.setDefaultSectionSize(28)
        box.addWidget(self.grid, 1)
        self._striking(box)
        row.addWidget(sheet, 1)
        self.grid.keyPressEvent = self._table_key  # type: ignore[method-assign,assignment]
        choice = self.grid.selectionModel()
        if choice is not None:
            choice.currentChanged.connect(lambda *_: self._say_strike())

    def _striking(self, box: QVBoxLayout) -> None:
        self.bar = StrikeBar()
        self.bar.struck.connect(self._struck)
        self.bar.left.connect(self.grid.setFocus)
        self.bar.turned.connect(self._turn)
        self.reason = self.bar.reason
        box.addWidget(self.bar)
        self.do_strike = TapeKey("X", "strike it", main=True)
        self.do_strike.setObjectName("strike_key")
        self.do_strike.clicked.connect(self.strike)
        box.addWidget(self.do_strike)

    def keys(self) -> list[Key]:
        """Return the keys that work here."""
        turn: list[Key] = [("M", f"its {self.following}", self.turned)] if self.following else []
        return [
            ("Esc", "back", self._close),
            *turn,
            ("arrows", "choose a reading", None),
            ("X", "strike it, or let it count", self.strike),
            ("Ctrl+Z", "take back", None),
        ]

    def _table_key(self, event: Any) -> None:
        if event.key() == Qt.Key.Key_X:
            self.strike()
        elif event.key() == Qt.Key.Key_Escape:
            self._close()
        elif event.key() == Qt.Key.Key_M and self.following:
            self.turned()
        else:
            QTableView.keyPressEvent(self.grid, event)

    def show_origin(self, origin: Origin) -> None:
        """Show the readings behind another figure."""
        at = self.grid.currentIndex()
        place = (at.row(), at.column())
        self.origin = origin
        self.heading.setText(origin.heading)
        self.recipe.setText(origin.recipe)
        self.model.show_origin(origin)
        self._widths(origin)
        lead = self.model.lead
        first = max(lead, place[1]) if self.model.columnCount() > lead else 0
        self.grid.setCurrentIndex(self.model.index(max(place[0], 0), first))
        self.bar.hide()
        self._say_strike()
        while self._panels.count():
            item = self._panels.takeAt(0)
            widget = item.widget() if item else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        columns = 1 if len(origin.panels) <= 2 else 2
        own = {r.panel.id for r in origin.rows if r.own}
        cells = {r.cell.id for r in origin.rows if r.own}
        per = max((p.taping.rows * p.taping.columns for p in origin.panels), default=1)
        most = max(1, min(PANELS_SHOWN, CELLS_SHOWN // per))
        shown = [p for p in origin.panels if p.id in own][:most]
        for i, panel in enumerate(shown):
            drawing = PanelDrawing()
            drawing.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            drawing.show_picture(
                result(self.shell.session, panel, origin.kind, origin.means, cells)
            )
            drawing.setMaximumHeight(look.wide(330 if columns == 1 else 200))
            drawing.cell_chosen.connect(self._choose_cell)
            self._panels.addWidget(drawing, i // columns, i % columns)

    def _widths(self, origin: Origin) -> None:
        """Set the columns' widths from the words in them; asking every cell takes too long."""
        words_face, figures = QFontMetrics(look.words(BODY)), QFontMetrics(look.figures(BODY))

        def widest(texts: set[str]) -> int:
            return max((words_face.horizontalAdvance(t) for t in texts), default=0) + 18

        lead = [
            widest({r.lead[i] for r in origin.rows} | {head, "KK10" if head == "Cell" else ""})
            for i, head in enumerate(origin.columns[:-1])
        ]
        values = [origin.kind.write(r.value) for row in origin.rows for r in row.readings[:3]]
        figure = max((figures.horizontalAdvance(v) for v in values), default=30) + 16
        lead.append(figure + 14)
        for i in range(self.model.columnCount()):
            self.grid.setColumnWidth(i, lead[i] if i < len(lead) else figure)

    def _choose_cell(self, cell_id: int) -> None:
        if self.origin is None:
            return
        for i, row in enumerate(self.origin.rows):
            if row.own and row.cell.id == cell_id:
                self.grid.setCurrentIndex(self.model.index(i, self.model.lead))
                self.grid.setFocus()

    def _say_strike(self) -> None:
        """Say on the tape what pressing it would do."""
        found = self.model.reading(self.grid.currentIndex())
        self.do_strike.setEnabled(found is not None)
        if found is None or self.origin is None:
            self.do_strike.set_words("strike: choose a reading first")
            return
        if not found[0].own:
            self.do_strike.setEnabled(False)
            self.do_strike.set_words("of another trial: strike it there")
            return
        figure = self.origin.kind.write(found[1].value)
        struck = found[1].struck is not None
        self.do_strike.set_words(f"let {figure} count again" if struck else f"strike {figure}")

    def strike(self) -> None:
        """Ask why the chosen reading does not count, or let a struck one count again."""
        found = self.model.reading(self.grid.currentIndex())
        if found is None or self.origin is None:
            self.shell.say("Choose a reading first: the numbered columns.", care=True)
            return
        row, reading = found
        if not row.own:
            self.shell.say(
                "That reading is of another trial: choose that trial to strike it.", care=True
            )
            return
        if reading.struck is not None:
            self._strike("counts again", struck=False)
            return
        where = f"{row.panel.name} {row.cell.code}"
        self.bar.ask(f"{self.origin.kind.write(reading.value)} of {where}")

    def _turn(self, step: int) -> None:
        at = self.grid.currentIndex()
        self.grid.setCurrentIndex(self.model.index(at.row() + step, at.column()))
        self.strike()

    def _struck(self, reason: str) -> None:
        self._strike(reason, struck=True)

    def _strike(self, reason: str, *, struck: bool) -> None:
        found, trial = self.model.reading(self.grid.currentIndex()), self.shell.session.trial
        if found is None or trial is None:
            return
        row, reading = found
        command = StrikeReadings(
            trial.id, [reading.id], reason, struck, of_cells=frozenset({row.cell.id})
        )
        try:
            self.shell.session.run(command)
        except LoamError as error:
            self.shell.say(str(error), care=True)
        self.grid.setFocus()

    def table(self) -> list[list[str]]:
        """Return the readings as a table, its heading first."""
        origin = self.origin
        if origin is None:
            return []
        head = [*origin.columns, *(str(i + 1) for i in range(self.model.wide))]
        rows = []
        for row in origin.rows:
            mean = origin.kind.write(row.mean, 1) if row.mean is not None else ""
            figures = [
                origin.kind.write(r.value) + (f" (struck: {r.struck})" if r.struck else "")
                for r in row.readings
            ]
            rows.append([*row.lead, mean, *figures])
        return [head, *rows]
