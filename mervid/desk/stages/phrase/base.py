"""What the sets of commands of Phrase share."""

from __future__ import annotations

from collections.abc import Callable

from ....core.errors import Refused
from ....core.form import phrase_edits
from ....core.model.cue import Cue
from ....core.model.preparation import Preparation
from ...commands.command import CommandSet
from ...session.session import Session
from .surface import PhraseSurface


class PhraseStageCommands(CommandSet):
    """Handlers that turn requests into edits of the open track; what can't be done is said."""

    def __init__(self, session: Session, view: PhraseSurface) -> None:
        self.session, self.view = session, view
        self.track, self.player, self.say = session.track, session.player, session.say
        self.choice, self.shelf = session.phrases, session.recipes

    def cue_of(self, cue_id: object) -> Cue | None:
        """The cue of that name in the library."""
        return next((c for c in self.track.preparation.cues if c.id == cue_id), None)

    def hit(self, cue: Cue) -> None:
        """Go to a cue; while it plays, on the beat."""
        self.choice.choose_cue(cue.id)
        self.player.go(cue.at(self.track.grid))

    def choose_at(self, beat: float) -> None:
        """Choose the phrase that holds a beat."""
        form = self.track.form
        if form is not None:
            self.choice.choose(phrase_edits.phrase_at(form, beat))

    def edit_form(self, edit: Callable[..., Preparation], *args: object, **kwargs: object) -> bool:
        """An edit of the phrases as they are shown."""
        try:
            form = self.choice.kept_form()
        except Refused as e:
            self.say.refused(str(e))
            return False
        return self.track.apply(edit, form, *args, **kwargs)
