"""The photograph that lies under a panel's drawing: dropped, pasted, taken away."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication

from loam.app.commands import ShowPhotograph
from loam.core.trial import Panel
from loam.store import photographs
from loam.ui.photograph import jpeg, picture_path, read_picture
from loam.ui.views.base import View


class PanelPhoto:
    """Photographs of the panels of a view; the one that is shown is kept at hand."""

    def __init__(self, view: View) -> None:
        self.view, self.session = view, view.session
        self._kept: tuple[int | None, QImage | None] = (None, None)

    def of(self, panel: Panel) -> QImage | None:
        """Return the photograph that lies under a panel."""
        db = self.session.workshop.connection
        photo_id = photographs.shown(db, panel.physical)
        if photo_id != self._kept[0]:
            image = None
            if photo_id is not None:
                image = QImage.fromData(photographs.image(db, photo_id))
            self._kept = (photo_id, None if image is None or image.isNull() else image)
        return self._kept[1]

    def take(self, panel: Panel, path: Path) -> None:
        """Lay a picture file under a panel."""
        self.view.shell.jobs.start(
            "under",
            lambda: read_picture(path),
            lambda image: self._lay(panel, image),
            lambda error: self.view.shell.say(str(error), care=True),
        )

    def paste(self, panel: Panel) -> None:
        """Lay the picture on the clipboard, or the file that it names, under a panel."""
        clipboard = QApplication.clipboard()
        path = picture_path(clipboard.mimeData()) if clipboard is not None else None
        if path is not None:
            self.take(panel, path)
            return
        image = clipboard.image() if clipboard is not None else QImage()
        if image.isNull():
            said = "Copy a picture first, or drop one on the panel."
            self.view.shell.say(said, care=True)
            return
        self._lay(panel, jpeg(image))

    def take_away(self, panel: Panel) -> None:
        """Show a panel without its photograph again."""
        if photographs.shown(self.session.workshop.connection, panel.physical) is None:
            self.view.shell.say("No photograph lies under this panel.")
            return
        self._lay(panel, b"")

    def _lay(self, panel: Panel, image: bytes) -> None:
        self.view.act(ShowPhotograph(panel.trial_id, panel.physical, image))
