"""Earlier copies: the way back to how the workshop was."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout

from loam.ui.views.base import Key, Shell, View
from loam.ui.widgets.copy_choice import CopyChoice
from loam.ui.widgets.fields import words


class CopiesView(View):
    """The dated copies of this workshop; Enter goes back to one, and sets the present aside."""

    step = "copies"

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self._asked = ""
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 18, 24, 0)
        box.setSpacing(10)
        box.addWidget(words("Earlier copies of this workshop", "title"))
        box.addWidget(
            words(
                "Going back puts a copy in the workshop's place. What stands there now is set aside"
                " beside it, not lost.",
                "lead",
                wrap=True,
            )
        )
        self.choice = CopyChoice()
        self.choice.chosen.connect(self._chosen)
        box.addWidget(self.choice, 1)

    def keys(self) -> list[Key]:
        return [
            ("Enter", "go back to it", self.choice.take),
            ("Esc", "leave it", lambda: self.shell.go("ask")),
        ]

    def entered(self) -> None:
        self._asked = ""
        self.choice.show_copies(self.session.workshop.path)
        self.choice.list.setFocus()

    def _chosen(self, path: str) -> None:
        """Ask once more, then go back."""
        if self.session.workshop.read_only:
            self.shell.say("This workshop can only be looked at here.", care=True)
        elif self._asked != path:
            self._asked = path
            self.shell.say("Enter again goes back to this copy; the present is set aside.")
        else:
            self.shell.go_back_to(path)
