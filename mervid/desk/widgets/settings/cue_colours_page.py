"""A colour of one's own for each role of a cue, with a warning where it can't be seen or told apart."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QColorDialog, QGridLayout, QPushButton

from ... import settings
from ...theme import palette
from ...theme.colour import LEAST_CONTRAST, LEAST_DIFFERENCE, contrast, difference
from ...theme.palette import ROLES, letter_of, role_inks
from ...theme.style import Theme
from ...theme.tr import tr
from ...theme.words import Words
from .page import NAME_PX, SettingsPage, button


class CueColoursPage(SettingsPage):
    """A row for each role. `changed` is called after each change, so that all views are drawn again."""

    def __init__(self, changed: Callable[[], None]) -> None:
        super().__init__(tr("Cue colours"))
        self._changed = changed
        self.own = settings.role_colours()
        self.swatches: dict[str, QPushButton] = {}
        self.resets: dict[str, QPushButton] = {}
        self.warning = Words("")
        self.warning.setObjectName("warn")
        self.warning.setWordWrap(True)
        about = Words(tr("Flags, phrase view, prep sheet and player preview use these. Letters and shapes stay."))
        about.setObjectName("faint")
        about.setWordWrap(True)
        self.column.addWidget(about)
        self.column.addWidget(self.warning)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        for line, role in enumerate(ROLES):
            swatch = button("", tr("Choose a colour for this role"))
            swatch.setFixedWidth(120)
            swatch.clicked.connect(partial(self.choose, role))
            reset = button(tr("Reset"), tr("The colour that the program comes with"))
            reset.clicked.connect(partial(self.set_colour, role, ""))
            self.swatches[role], self.resets[role] = swatch, reset
            swatch.setAccessibleName(tr("Colour of {0}").format(role))
            reset.setAccessibleName(tr("Reset the colour of {0}").format(role))
            name = Words(role.capitalize())
            name.setFixedWidth(NAME_PX)
            for place, widget in enumerate((name, swatch, reset)):
                grid.addWidget(widget, line, place)
        self.all = button(tr("Reset all"), tr("All colours that the program comes with"))
        self.all.clicked.connect(self.reset_all)
        grid.addWidget(self.all, len(ROLES), 2)
        grid.setColumnStretch(3, 1)
        self.column.addLayout(grid)
        self.end()
        self._show()

    def choose(self, role: str) -> None:
        """Ask for a colour."""
        dialog = QColorDialog(QColor(self.swatches[role].property("colour")), self)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setWindowTitle(tr("Colour of {0}").format(role))
        dialog.colorSelected.connect(lambda colour: self.set_colour(role, colour.name()))
        dialog.open()

    def set_colour(self, role: str, colour: str, *_: object) -> None:
        """Use a colour for a role, as '#rrggbb'; the program's own where it is empty."""
        if colour:
            self.own[role] = colour
        else:
            self.own.pop(role, None)
        self._keep()

    def reset_all(self) -> None:
        """The program's own colours again."""
        self.own.clear()
        self._keep()

    def _keep(self) -> None:
        settings.set_role_colours(self.own)
        palette.use_role_colours(self.own)
        self._show()
        self._changed()

    def enter(self) -> None:
        """As it is now, in the palette in force."""
        self._show()

    def _show(self) -> None:
        for role, swatch in self.swatches.items():
            hue, ink = role_inks(Theme.palette, role)
            swatch.setProperty("colour", hue.name())
            swatch.setText(f"{letter_of(role)}  {hue.name()}".strip())
            swatch.setStyleSheet(f"background: {hue.name()}; color: {ink.name()};")
            self.resets[role].setEnabled(role in self.own)
        self.warning.setText("\n".join(self.problems()))
        self.warning.setVisible(bool(self.warning.text()))

    def problems(self) -> list[str]:
        """What is wrong with the colours that a person chose, a sentence each."""
        hues = {role: role_inks(Theme.palette, role)[0] for role in ROLES}
        paper = QColor(Theme.palette.paper)
        out = []
        for role in self.own:
            ratio = contrast(hues[role], paper)
            if ratio < LEAST_CONTRAST:
                out.append(
                    tr("{0}: contrast with the background is {1:.1f}:1. Choose a colour with at least 3:1.").format(
                        role.capitalize(), ratio
                    )
                )
            for other, hue in hues.items():
                twice = other in self.own and list(self.own).index(other) < list(self.own).index(role)
                if other != role and not twice and difference(hues[role], hue) < LEAST_DIFFERENCE:
                    out.append(
                        tr("{0} and {1} look alike. Choose colours farther apart.").format(role.capitalize(), other)
                    )
        return out
